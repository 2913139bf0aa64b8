"""In and out: set-up, passwords and how often a wrong one is tried, a second factor, recovery, sessions, the demo, personal
links. What is asked of these is OWASP ASVS 4, chapters 2 and 3, from memory; docs/security.md says where each holds."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta

import pyotp
import pytest
from fastapi.testclient import TestClient

from applications import app_at
from laptick.api.app import AppSettings
from laptick.db.engine.connect import connect, transaction
from laptick.studio.people import sign_in
from laptick.studio.people.links import MOST_LINKS
from laptick.studio.people.secret_words import new_token, token_hash
from laptick.studio.people.sign_in import FREE_FAILS, add_demo_teacher, wait_after
from laptick.studio.use_case import Studio
from signing_in import PASSWORD, TEACHER, teacher_cookies

SET_UP = {"studio": "By the mill", "time_zone": "Europe/Helsinki", "name": TEACHER, "password": PASSWORD}
RIGHT = {"name": TEACHER, "password": PASSWORD}
WRONG = {"name": TEACHER, "password": "five small grey stones"}


class Desk:
    """Browsers at one server: each keeps its own."""

    def __init__(self, db, **settings) -> None:
        self.db, self.app = db, app_at(AppSettings(db, **settings))

    @contextmanager
    def browser(self, cookies=None, **more) -> Iterator[TestClient]:
        with TestClient(
            self.app, base_url="http://127.0.0.1", cookies=cookies, raise_server_exceptions=False, **more
        ) as opened:
            yield opened

    def store(self, sql: str, *values) -> None:
        connection = connect(self.db)
        with transaction(connection) as cursor:
            cursor.execute(sql, values)
        connection.close()

    def stored(self, sql: str, *values) -> list[dict]:
        connection = connect(self.db)
        with connection.cursor() as cursor:
            cursor.execute(sql, values)
            rows = list(cursor.fetchall())
        connection.close()
        return rows


@pytest.fixture
def desk(db) -> Desk:
    return Desk(db)


@pytest.fixture
def at(monkeypatch) -> Callable[[timedelta], None]:
    """Lets the time go by, for what the program reads of a clock."""
    later = [timedelta()]
    monkeypatch.setattr(sign_in, "utc_now", lambda: datetime.now(UTC).replace(tzinfo=None) + later[0])

    def go(by: timedelta) -> None:
        later[0] += by

    return go


def code_of(answer) -> str:
    return answer.json()["error"]["code"]


class TestTheFirstStart:
    def test_nothing_is_reachable_before_and_everything_after(self, desk):
        with desk.browser() as first:
            assert first.get("/api/me").json() == {
                "role": "nobody", "name": "", "student_id": None, "is_demo": False, "is_set_up": False,
                "has_demo": False,
            }  # fmt: skip
            assert first.get("/api/pieces").status_code == 401
            made = first.post("/api/set-up", json=SET_UP)
            assert (made.status_code, made.json()["role"], made.json()["name"]) == (200, "teacher", TEACHER)
            assert first.get("/api/pieces").status_code == 200
            named = {"name": "By the mill", "time_zone": "Europe/Helsinki", "sound_days": None}
            assert first.get("/api/studio").json() == named

    def test_is_done_from_its_own_machine(self, desk):
        with desk.browser(client=("192.168.1.20", 4000)) as far:
            refused = far.post("/api/set-up", json=SET_UP)
            assert (refused.status_code, code_of(refused)) == (403, "refused")
            assert not far.get("/api/me").json()["is_set_up"]

    def test_is_once(self, desk):
        with desk.browser() as first, desk.browser() as second:
            assert first.post("/api/set-up", json=SET_UP).status_code == 200
            assert second.post("/api/set-up", json=SET_UP | {"name": "Somebody"}).status_code == 409
            assert second.get("/api/me").json()["is_set_up"]
            assert second.get("/api/pieces").status_code == 401

    @pytest.mark.parametrize("password", ["short", "aaaaaaaaaaaa", "password123", "x" * 801, "", "abababababab"])
    def test_takes_no_password_that_is_tried_first(self, desk, password):
        with desk.browser() as browser:
            refused = browser.post("/api/set-up", json=SET_UP | {"password": password})
            assert refused.status_code == 422
            assert not browser.get("/api/me").json()["is_set_up"]
            assert browser.get("/api/pieces").status_code == 401

    def test_passwords_of_every_script_are_themselves(self, desk):
        composed, taken_apart = (
            "Zw\u00f6lf Bl\u00e4tter \u2603 \u6f22\u5b57",
            "Zwo\u0308lf Bla\u0308tter \u2603 \u6f22\u5b57",
        )
        with desk.browser() as browser:
            browser.post("/api/set-up", json=SET_UP | {"password": composed})
        with desk.browser() as browser:
            assert browser.post("/api/sign-in", json=RIGHT | {"password": taken_apart}).status_code == 200


class TestPasswords:
    @pytest.fixture(autouse=True)
    def teacher(self, desk):
        teacher_cookies(desk.db)
        desk.store("DELETE FROM sign_in_device")

    def test_right_and_wrong_and_unknown_are_told_alike(self, desk):
        with desk.browser() as browser:
            wrong = browser.post("/api/sign-in", json=WRONG)
            unknown = browser.post("/api/sign-in", json=RIGHT | {"name": "Nobody at all"})
            assert (wrong.status_code, wrong.json()) == (unknown.status_code, unknown.json()) == (403, wrong.json())
            assert browser.get("/api/pieces").status_code == 401
            assert browser.post("/api/sign-in", json=RIGHT | {"name": f" {TEACHER.upper()} "}).status_code == 200
            assert browser.get("/api/pieces").status_code == 200

    def test_nothing_that_opens_anything_is_stored_as_it_is(self, desk):
        with desk.browser() as browser:
            browser.post("/api/sign-in", json=RIGHT)
            token = browser.cookies["laptick-session-0"]
            device = browser.cookies["laptick-device-0"]
            code = browser.post("/api/account/recovery-code", json={"password": PASSWORD}).json()["code"]
        [row] = desk.stored("SELECT * FROM teacher")
        assert row["password_hash"].startswith("$argon2id$")
        everything = repr([desk.stored(f"SELECT * FROM {table}") for table in ("teacher", "session", "sign_in_device")])
        for secret in (PASSWORD, token, device, code):
            assert secret not in everything
        assert token_hash(token) in everything

    def test_cookies_are_out_of_reach(self, desk):
        with desk.browser() as browser:
            told = browser.post("/api/sign-in", json=RIGHT).headers.get_list("set-cookie")
            assert len(told) == 2
            for one in told:
                assert "HttpOnly" in one
                assert "SameSite=strict" in one
                assert "Path=/" in one
                assert "Domain" not in one
            assert not any("Max-Age" in one for one in told if "session" in one)
            stays = browser.post("/api/sign-in", json=RIGHT | {"stays": True}).headers.get_list("set-cookie")
            assert any("Max-Age=15552000" in one for one in stays if "session" in one)
        with TestClient(desk.app, base_url="https://localhost") as safe:
            told = safe.post("/api/sign-in", json=RIGHT).headers.get_list("set-cookie")
            assert all(one.startswith("__Host-laptick-") and "Secure" in one for one in told)

    def test_a_session_is_a_new_one_every_time_and_ends(self, desk):
        with desk.browser() as browser:
            tokens = set()
            for _ in range(3):
                browser.post("/api/sign-in", json=RIGHT)
                tokens.add(browser.cookies["laptick-session-0"])
            assert len(tokens) == 3
            kept = dict(browser.cookies)
            assert browser.post("/api/sign-out").status_code == 204
            assert browser.get("/api/pieces").status_code == 401
        with desk.browser(kept) as again:  # what a thief had kept
            assert again.get("/api/pieces").status_code == 401

    def test_a_session_is_over_in_time_and_is_noted_as_used_once_a_minute(self, desk):
        with desk.browser() as browser:
            browser.post("/api/sign-in", json=RIGHT)
            desk.store("UPDATE session SET seen_at = UTC_TIMESTAMP(6) - INTERVAL 50 SECOND")
            [before] = desk.stored("SELECT seen_at FROM session ORDER BY id DESC LIMIT 1")
            browser.get("/api/pieces")
            assert desk.stored("SELECT seen_at FROM session ORDER BY id DESC LIMIT 1") == [before]
            desk.store("UPDATE session SET seen_at = UTC_TIMESTAMP(6) - INTERVAL 70 SECOND")
            browser.get("/api/pieces")
            assert desk.stored("SELECT seen_at FROM session ORDER BY id DESC LIMIT 1")[0]["seen_at"] > before["seen_at"]
            desk.store("UPDATE session SET expires_at = UTC_TIMESTAMP(6)")
            assert browser.get("/api/pieces").status_code == 401

    def test_guessing_costs_time_twice_as_long_each_time(self, desk, at):
        assert [wait_after(n) for n in (1, 4, 5, 6, 7, 10, 50)] == [0, 0, 30, 60, 120, 900, 900]
        with desk.browser() as thief:
            for _ in range(FREE_FAILS):
                assert code_of(thief.post("/api/sign-in", json=WRONG)) == "refused"
            halted = thief.post("/api/sign-in", json=RIGHT)  # not even the right one is looked at
            assert halted.status_code == 403
            assert "Try again in 1 min" in halted.json()["error"]["todo"]
            at(timedelta(seconds=31))
            assert thief.post("/api/sign-in", json=WRONG).status_code == 403
            at(timedelta(seconds=31))  # a minute, this time
            assert "too many" in thief.post("/api/sign-in", json=RIGHT).json()["error"]["what"]
            at(timedelta(seconds=31))
            assert thief.post("/api/sign-in", json=RIGHT).status_code == 200

    def test_nobody_elsewhere_shuts_a_teacher_out_of_her_own(self, desk):
        with desk.browser() as hers, desk.browser() as thief, desk.browser() as new:
            hers.post("/api/sign-in", json=RIGHT)
            hers.post("/api/sign-out")
            for _ in range(40):
                thief.post("/api/sign-in", json=WRONG)
            assert new.post("/api/sign-in", json=RIGHT).status_code == 403  # a strange one waits
            assert hers.post("/api/sign-in", json=RIGHT).status_code == 200  # her own does not

    def test_a_device_that_was_made_up_counts_as_a_strange_one(self, desk):
        for n in range(FREE_FAILS):
            with desk.browser({"laptick-device-0": f"made-up-{n}"}) as thief:
                assert thief.post("/api/sign-in", json=WRONG).json()["error"]["what"].startswith("name or")
        with desk.browser({"laptick-device-0": "another"}) as thief:
            assert "too many" in thief.post("/api/sign-in", json=WRONG).json()["error"]["what"]
        with desk.browser({"laptick-device-0": "planted"}) as hers:
            desk.store("DELETE FROM sign_in_device")
            hers.post("/api/sign-in", json=RIGHT)
            assert not desk.stored("SELECT 1 FROM sign_in_device WHERE device_hash = %s", token_hash("planted"))

    def test_what_was_wrong_in_a_row_is_forgiven_by_what_is_right(self, desk):
        with desk.browser() as hers:
            hers.post("/api/sign-in", json=RIGHT)
            for _ in range(3):
                for _ in range(FREE_FAILS - 1):
                    hers.post("/api/sign-in", json=WRONG)
                assert hers.post("/api/sign-in", json=RIGHT).status_code == 200

    def test_a_new_password_ends_what_is_open_elsewhere(self, desk):
        change = {"before": PASSWORD, "after": "nine tall green trees"}
        with desk.browser() as here, desk.browser() as there:
            for browser in (here, there):
                browser.post("/api/sign-in", json=RIGHT)
            assert here.put("/api/account/password", json=change | {"before": "guessed it 123"}).status_code == 403
            assert here.put("/api/account/password", json=change | {"after": "short"}).status_code == 422
            assert there.get("/api/pieces").status_code == 200
            assert here.put("/api/account/password", json=change).status_code == 204
            assert there.get("/api/pieces").status_code == 401
            assert here.get("/api/pieces").status_code == 200
            assert there.post("/api/sign-in", json=RIGHT).status_code == 403

    def test_sessions_are_listed_and_ended(self, desk):
        with desk.browser(headers={"User-Agent": "the tablet"}) as there, desk.browser() as here:
            there.post("/api/sign-in", json=RIGHT)
            here.post("/api/sign-in", json=RIGHT)
            sessions = here.get("/api/account").json()["sessions"]
            [other] = [one for one in sessions if one["device"] == "the tablet"]
            [this] = [one for one in sessions if one["is_this"]]
            assert other["id"] != this["id"]
            assert here.delete(f"/api/account/sessions/{other['id']}").status_code == 204
            assert there.get("/api/pieces").status_code == 401
            assert here.delete(f"/api/account/sessions/{other['id']}").status_code == 404
            assert here.get("/api/pieces").status_code == 200

    def test_a_session_of_another_teacher_is_not_ended(self, desk):
        theirs = teacher_cookies(desk.db, name="Bo Reed")
        [row] = desk.stored("SELECT MAX(id) AS id FROM session")
        with desk.browser() as here, desk.browser(theirs) as there:
            here.post("/api/sign-in", json=RIGHT)
            assert here.delete(f"/api/account/sessions/{row['id']}").status_code == 404
            assert there.get("/api/pieces").status_code == 200

    def test_other_sites_pages_cannot_sign_in_or_out(self, desk):
        with desk.browser() as browser:
            away = {"Origin": "http://elsewhere.example"}
            assert browser.post("/api/sign-in", json=RIGHT, headers=away).status_code == 403
            browser.post("/api/sign-in", json=RIGHT)
            assert browser.post("/api/sign-out", headers=away).status_code == 403
            assert browser.get("/api/pieces").status_code == 200


class TestASecondFactor:
    @pytest.fixture
    def secret(self, desk) -> str:
        teacher_cookies(desk.db)
        with desk.browser() as browser:
            browser.post("/api/sign-in", json=RIGHT)
            offered = browser.post("/api/account/second-factor", json={"password": PASSWORD}).json()
            assert offered["picture"].startswith("<svg")
            assert offered["secret"] in offered["address"]
            update = {"password": PASSWORD, "secret": offered["secret"]}
            assert browser.put("/api/account/second-factor", json=update | {"code": "000000"}).status_code == 422
            assert not browser.get("/api/account").json()["code_asked"]
            code = pyotp.TOTP(offered["secret"]).now()
            assert browser.put("/api/account/second-factor", json=update | {"code": code}).status_code == 204
            assert browser.get("/api/account").json()["code_asked"]
        return str(offered["secret"])

    def test_is_asked_for_after_the_password_and_used_once(self, desk, secret):
        with desk.browser() as browser:
            asked = browser.post("/api/sign-in", json=RIGHT)
            assert (asked.status_code, asked.json()["error"]["where"]) == (403, "code")
            assert browser.post("/api/sign-in", json=WRONG).json()["error"]["where"] == "password"
            code = pyotp.TOTP(secret).now()
            assert browser.post("/api/sign-in", json=RIGHT | {"code": f"{code[:3]} {code[3:]}"}).status_code == 200
        with desk.browser() as thief:  # who looked over her shoulder
            assert thief.post("/api/sign-in", json=RIGHT | {"code": code}).status_code == 403

    def test_wrong_codes_count_as_wrong_passwords_do(self, desk, secret):
        with desk.browser() as thief:
            for _ in range(FREE_FAILS):
                assert thief.post("/api/sign-in", json=RIGHT | {"code": "123456"}).status_code == 403
            late = thief.post("/api/sign-in", json=RIGHT | {"code": pyotp.TOTP(secret).now()})
            assert "too many" in late.json()["error"]["what"]

    def test_is_turned_off_with_the_password(self, desk, secret):
        off = {"password": PASSWORD, "secret": None}
        with desk.browser() as browser:
            browser.post("/api/sign-in", json=RIGHT | {"code": pyotp.TOTP(secret).now()})
            assert browser.put("/api/account/second-factor", json=off | {"password": "x"}).status_code == 403
            assert browser.put("/api/account/second-factor", json=off).status_code == 204
        with desk.browser() as browser:
            assert browser.post("/api/sign-in", json=RIGHT).status_code == 200


class TestRecovery:
    def test_a_code_lets_in_once_whatever_was_guessed(self, desk):
        teacher_cookies(desk.db)
        with desk.browser() as hers, desk.browser() as thief, desk.browser() as new:
            hers.post("/api/sign-in", json=RIGHT)
            assert hers.post("/api/account/recovery-code", json={"password": "guessed"}).status_code == 403
            code = hers.post("/api/account/recovery-code", json={"password": PASSWORD}).json()["code"]
            for _ in range(30):
                thief.post("/api/sign-in", json=WRONG)
            lost = {
                "name": TEACHER,
                "recovery_code": code.upper().replace("-", " "),
                "password": "nine tall green trees",
            }
            assert thief.post("/api/recover", json=lost | {"recovery_code": new_token()}).status_code == 403
            assert new.post("/api/recover", json=lost | {"password": "short"}).status_code == 422
            assert new.post("/api/recover", json=lost).status_code == 200
            assert new.get("/api/pieces").status_code == 200
            assert hers.get("/api/pieces").status_code == 401  # whoever was in, is out
            assert thief.post("/api/recover", json=lost).status_code == 403  # it is used up
            assert new.post("/api/sign-in", json=RIGHT | {"password": "nine tall green trees"}).status_code == 200


class TestTheDemo:
    def test_is_looked_at_with_one_press_until_there_is_a_teacher(self, db):
        desk = Desk(db, demo=True)
        connection = connect(db)
        add_demo_teacher(Studio(connection, 1))
        connection.close()
        with desk.browser() as browser, desk.browser() as other:
            assert browser.get("/api/me").json()["has_demo"]
            me = browser.post("/api/sign-in/demo").json()
            assert (me["role"], me["is_demo"]) == ("teacher", True)
            assert browser.get("/api/pieces").status_code == 200
            assert browser.put("/api/account/password", json={"before": "x", "after": PASSWORD}).status_code == 403
            other.post("/api/set-up", json=SET_UP)
            assert not browser.get("/api/me").json()["has_demo"]
            assert other.post("/api/sign-in/demo").status_code == 403

    def test_is_not_there_where_it_was_not_started_for_it_nor_from_elsewhere(self, db):
        connection = connect(db)
        add_demo_teacher(Studio(connection, 1))
        connection.close()
        with Desk(db).browser() as browser:
            assert not browser.get("/api/me").json()["has_demo"]
            assert browser.post("/api/sign-in/demo").status_code == 403
        with Desk(db, demo=True).browser(client=("192.0.2.7", 4000)) as far:
            assert not far.get("/api/me").json()["has_demo"]
            assert far.post("/api/sign-in/demo").status_code == 403

    def test_has_no_password(self, db):
        connection = connect(db)
        add_demo_teacher(Studio(connection, 1))
        connection.close()
        with Desk(db, demo=True).browser() as browser:
            for password in ("", " ", "demo", "None"):
                given = {"name": sign_in.DEMO_NAME, "password": password or "x"}
                assert browser.post("/api/sign-in", json=given).status_code == 403


class TestPersonalLinks:
    @pytest.fixture
    def teacher(self, desk) -> Iterator[TestClient]:
        with desk.browser(teacher_cookies(desk.db)) as browser:
            yield browser

    @pytest.fixture
    def student(self, teacher) -> int:
        return int(teacher.post("/api/students", json={"name": "Tuuli"}).json()["id"])

    def made(self, teacher, student, **more) -> dict:
        wanted = {"role": "student", "origin": "http://127.0.0.1:8000"} | more
        answer = teacher.post(f"/api/students/{student}/links", json=wanted)
        assert answer.status_code == 201, answer.text
        return answer.json()

    def test_opens_that_students_own_and_nothing_else(self, desk, teacher, student):
        made = self.made(teacher, student)
        assert re.fullmatch(r"([a-z]{6}-){7}[a-z]{6}", made["token"])
        assert made["address"] == f"http://127.0.0.1:8000/come#{made['token']}"
        assert made["picture"].startswith("<svg")
        with desk.browser() as phone:
            me = phone.post("/api/links/open", json={"token": made["token"]}).json()
            assert (me["role"], me["student_id"], me["name"]) == ("student", student, "Tuuli")
            assert phone.get(f"/api/students/{student}/tonight").status_code == 200
            assert phone.get("/api/students").status_code == 403
            assert phone.get(f"/api/students/{student}").status_code == 403
            assert phone.get("/api/account").status_code == 403
        assert made["token"] not in repr(desk.stored("SELECT * FROM personal_link"))

    def test_is_read_however_it_was_typed(self, desk, teacher, student):
        token = self.made(teacher, student)["token"]
        for typed in (token.upper(), token.replace("-", " "), f"  {token} ", token.replace("-", "")):
            with desk.browser() as phone:
                assert phone.post("/api/links/open", json={"token": typed}).status_code == 200

    def test_a_new_one_ends_the_old_one_and_what_it_opened(self, desk, teacher, student):
        old = self.made(teacher, student)["token"]
        with desk.browser() as phone:
            phone.post("/api/links/open", json={"token": old})
            parents = self.made(teacher, student, role="parent")  # another's link changes nothing
            assert phone.get(f"/api/students/{student}/tonight").status_code == 200
            new = self.made(teacher, student)["token"]
            assert phone.get(f"/api/students/{student}/tonight").status_code == 401
            assert phone.post("/api/links/open", json={"token": old}).status_code == 403
            assert phone.post("/api/links/open", json={"token": new}).status_code == 200
            assert phone.post("/api/links/open", json={"token": parents["token"]}).json()["role"] == "parent"

    def test_is_taken_back(self, desk, teacher, student):
        token = self.made(teacher, student)["token"]
        with desk.browser() as phone:
            phone.post("/api/links/open", json={"token": token})
            [kept] = teacher.get(f"/api/students/{student}/links").json()
            assert kept["role"] == "student"
            another = teacher.post("/api/students", json={"name": "Bo"}).json()["id"]
            assert teacher.delete(f"/api/students/{another}/links/{kept['id']}").status_code == 404
            assert teacher.delete(f"/api/students/{student}/links/{kept['id']}").status_code == 204
            assert phone.get(f"/api/students/{student}/tonight").status_code == 401
            assert phone.post("/api/links/open", json={"token": token}).status_code == 403
        assert teacher.get(f"/api/students/{student}/links").json() == []
        assert teacher.delete(f"/api/students/{student}/links/{kept['id']}").status_code == 404

    def test_is_each_parents_own(self, desk, teacher, student):
        """A new one is in place of the one that this parent had, however the name is written, and of nobody else's."""
        mothers, fathers = (self.made(teacher, student, role="parent", held_by=who) for who in ("her mother", "Erik"))
        with desk.browser() as phone, desk.browser() as another:
            phone.post("/api/links/open", json={"token": mothers["token"]})
            another.post("/api/links/open", json={"token": fathers["token"]})
            self.made(teacher, student, role="parent", held_by="  Her   Mother ")
            assert phone.get(f"/api/students/{student}/tonight").status_code == 401
            assert another.get(f"/api/students/{student}/tonight").status_code == 200
        listed = teacher.get(f"/api/students/{student}/links").json()
        assert [(one["role"], one["held_by"].lower()) for one in listed] == [
            ("parent", "erik"),
            ("parent", "her mother"),
        ]

    @pytest.mark.parametrize("origin", ["http://[::1]:8000", "https://studio.local", "https://10.0.0.9:8443"])
    def test_is_for_an_address(self, teacher, student, origin):
        assert self.made(teacher, student, origin=origin)["address"].startswith(f"{origin}/come#")

    @pytest.mark.parametrize(
        "origin", ["http://[:", "http://[::::]", "http://[1.2]", "http://a:99999", "http://a/b", "ftp://a", "http://a]"]
    )
    def test_is_for_no_other(self, teacher, student, origin):
        wanted = {"role": "student", "origin": origin}
        assert teacher.post(f"/api/students/{student}/links", json=wanted).status_code == 422

    def test_is_for_so_many_parents(self, teacher, student):
        for number in range(MOST_LINKS):
            self.made(teacher, student, role="parent", held_by=f"parent {number}")
        self.made(teacher, student, role="parent", held_by="Parent 0")
        wanted = {"role": "parent", "held_by": "one more", "origin": "http://127.0.0.1:8000"}
        assert teacher.post(f"/api/students/{student}/links", json=wanted).status_code == 413
        wanted |= {"role": "student", "held_by": "her mother"}
        assert teacher.post(f"/api/students/{student}/links", json=wanted).status_code == 422

    def test_who_left_comes_in_no_more_until_put_back(self, desk, teacher, student):
        token = self.made(teacher, student)["token"]
        with desk.browser() as phone:
            phone.post("/api/links/open", json={"token": token})
            teacher.delete(f"/api/students/{student}")
            assert phone.get(f"/api/students/{student}/tonight").status_code == 401
            assert phone.post("/api/links/open", json={"token": token}).status_code == 403
            teacher.post(f"/api/students/{student}/restore")
            assert phone.get(f"/api/students/{student}/tonight").status_code == 200

    def test_a_pin_is_asked_for_and_guessing_it_costs_time(self, desk, teacher, student):
        token = self.made(teacher, student, pin="2580")["token"]
        with desk.browser() as phone:
            asked = phone.post("/api/links/open", json={"token": token})
            assert (asked.status_code, asked.json()["error"]["where"]) == (403, "pin")
            for n in range(FREE_FAILS):
                assert phone.post("/api/links/open", json={"token": token, "pin": f"000{n}"}).status_code == 403
            halted = phone.post("/api/links/open", json={"token": token, "pin": "2580"})
            assert "too many" in halted.json()["error"]["what"]
            new = self.made(teacher, student, pin="2580")["token"]  # the teacher ends the wait
            assert phone.post("/api/links/open", json={"token": new, "pin": "2580"}).status_code == 200
        assert "2580" not in repr(desk.stored("SELECT pin_hash FROM personal_link"))

    @pytest.mark.parametrize("pin", ["123", "123456789", "12a4", "", "١٢٣٤"])
    def test_a_pin_is_digits(self, teacher, student, pin):
        wanted = {"role": "student", "origin": "http://127.0.0.1", "pin": pin}
        assert teacher.post(f"/api/students/{student}/links", json=wanted).status_code == 422

    @pytest.mark.parametrize(
        "more", [{"role": "teacher"}, {"origin": "javascript:alert(1)"}, {"origin": "http://a b"}, {"origin": ""}]
    )
    def test_nothing_else_is_made_of_it(self, teacher, student, more):
        wanted = {"role": "student", "origin": "http://127.0.0.1"} | more
        assert teacher.post(f"/api/students/{student}/links", json=wanted).status_code == 422

    def test_a_link_is_no_teachers_session(self, desk, teacher, student):
        """A student who is damaged into something else may do nothing."""
        token = self.made(teacher, student)["token"]
        with desk.browser() as phone:
            phone.post("/api/links/open", json={"token": token})
            desk.store("UPDATE personal_link SET role = 'teacher'")
            assert phone.get("/api/students").status_code == 403
            assert phone.get(f"/api/students/{student}/tonight").status_code == 403
