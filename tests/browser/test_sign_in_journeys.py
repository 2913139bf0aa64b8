"""In and out through the real interface: the first start, a wrong password, a lost one, a second factor, the demo's one
press, personal links on a phone; at three sizes, the first start by keyboard alone."""

from __future__ import annotations

import time
from collections.abc import Iterator

import pyotp
import pytest
from page import Page
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_stand_journeys import add

from conftest import DIST, Site
from laptick.api.app import AppSettings
from laptick.db.engine.connect import DbSettings, connect, transaction
from laptick.studio.people.sign_in import FREE_FAILS, add_demo_teacher
from laptick.studio.use_case import Studio
from signing_in import PASSWORD, TEACHER

pytestmark = pytest.mark.browser

SIZES = [(1280, 800), (820, 1180), (390, 844)]


LABELLED = "return [...document.querySelectorAll('label')].find((e) => e.innerText.startsWith(arguments[0]))"


def fits(page: Page, size) -> bool:
    return page.driver.execute_script("return document.documentElement.scrollWidth") <= size[0]


def fill(page: Page, **by_label: str) -> None:
    """Types into fields by the words above them (spaces as underscores)."""
    for label, text in by_label.items():
        words = label.replace("_", " ")
        field = page.until(lambda words=words: page.driver.execute_script(LABELLED, words), what=f"no field “{words}”")
        field.find_element(By.CSS_SELECTOR, "input").send_keys(text)  # type: ignore[attr-defined]


def forget_teachers(db: DbSettings) -> None:
    connection = connect(db)
    with transaction(connection) as cursor:
        cursor.execute("DELETE FROM teacher")
    connection.close()


@pytest.fixture
def new_site(db) -> Iterator[Site]:
    """Where nobody was ever set up."""
    running = Site(AppSettings(db, DIST, demo=True))
    forget_teachers(db)
    yield running
    running.stop()
    running.http.close()
    forget_teachers(db)


@pytest.mark.parametrize("size", SIZES, ids=str)
def test_the_first_start_leads_to_the_first_study(new_site, open_browser, score_file, size):
    """In under two minutes, most of which is the browser's."""
    begun = time.monotonic()
    page = Page(open_browser(*size, touch=size[0] < 500, stranger=True))
    page.driver.get(f"{new_site.url}/students")
    page.sees("Set up your studio")
    assert page.axe() == []
    assert fits(page, size)
    # By keyboard alone: from field to field, and Enter.
    for text in ("By the mill", TEACHER, PASSWORD):
        page.driver.switch_to.active_element.send_keys(text)
        page.driver.switch_to.active_element.send_keys(Keys.ENTER if text == PASSWORD else Keys.TAB)
    page.sees("Add a student")
    page.add_score(new_site.url, score_file)
    page.driver.get(f"{new_site.url}/students")
    page.click("The student")
    page.click("Give a piece")
    page.click_in("[role=dialog]", "Give")
    page.sees("is given to 1 student")
    assert time.monotonic() - begun < 120
    assert page.errors() == []


def test_wrong_lost_and_found_again(site, open_browser):
    page = Page(open_browser(stranger=True))
    page.driver.get(f"{site.url}/pieces")
    page.sees("Sign in")
    assert page.axe() == []
    fill(page, Your_name=TEACHER, Password="not the right one")
    page.click_in("form", "Sign in")
    page.sees("name or password is not right")
    assert page.axe() == []
    field = page.driver.find_element(By.CSS_SELECTOR, "input[type=password]")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(PASSWORD + Keys.ENTER)
    # It goes on where one wanted to.
    page.sees("Pieces")
    assert page.driver.current_url.endswith("/pieces")

    page.driver.get(f"{site.url}/settings/account")
    page.sees("You have none.")
    assert page.axe() == []
    part = page.driver.find_element(By.CSS_SELECTOR, "section[aria-label='Recovery code']")
    part.find_element(By.CSS_SELECTOR, "input").send_keys(PASSWORD + Keys.ENTER)
    page.sees("Shown this once")
    code = part.find_element(By.CSS_SELECTOR, "[role=status] b").text
    page.click("Sign out")
    page.sees("I have lost my password")

    # Whoever guesses is made to wait, and so is a strange device; the recovery code lets her in all the same.
    thief = Page(open_browser(stranger=True))
    thief.driver.get(f"{site.url}/pieces")
    fill(thief, Your_name=TEACHER, Password="a guess")
    for _ in range(FREE_FAILS + 1):
        thief.until(lambda: thief.driver.find_element(By.CSS_SELECTOR, "form button[type=submit]").is_enabled())
        thief.click_in("form", "Sign in")
        time.sleep(0.4)
    thief.sees("too many passwords were wrong")
    page.click("I have lost my password")
    page.sees("A new password")
    assert page.axe() == []
    fill(page, Your_name=TEACHER, Recovery_code=code.upper(), New_password="nine tall green trees")
    page.click("Use it from now on")
    page.sees("Signed in as")
    page.sees("You have none.")
    assert page.errors() == []
    assert thief.errors() == []
    forget_teachers(site.settings.db)


def test_a_second_factor_is_set_up_and_asked_for(site, open_browser):
    page = Page(open_browser())
    page.driver.get(f"{site.url}/settings/account")
    page.sees("Not needed on a computer that only you use")
    part = page.driver.find_element(By.CSS_SELECTOR, "section[aria-label='Second factor']")
    part.find_element(By.CSS_SELECTOR, "input").send_keys(PASSWORD + Keys.ENTER)
    page.sees("Let the program on your phone read this picture")
    assert page.axe() == []
    secret = "".join(part.find_element(By.CSS_SELECTOR, "b").text.split())
    part.find_element(By.CSS_SELECTOR, "input").send_keys(pyotp.TOTP(secret).now() + Keys.ENTER)
    page.sees("It is on: beside the password")
    page.click("Sign out")
    fill(page, Your_name=TEACHER, Password=PASSWORD)
    page.click_in("form", "Sign in")
    page.sees("The six digits")
    assert page.axe() == []
    fill(page, The_six_digits=pyotp.TOTP(secret).now())
    page.click_in("form", "Sign in")
    page.sees("Where you are signed in")
    forget_teachers(site.settings.db)


def test_the_demo_opens_with_one_press(new_site, open_browser):
    connection = connect(new_site.settings.db)
    add_demo_teacher(Studio(connection, 1))
    connection.close()
    page = Page(open_browser(stranger=True))
    page.driver.get(new_site.url)
    page.sees("Look around first")
    assert page.axe() == []
    page.click("Open the demo")
    page.sees("Pieces")
    assert page.errors() == []


@pytest.mark.parametrize("size", SIZES, ids=str)
def test_a_link_opens_ones_own_practice_and_a_new_one_ends_it(site, open_browser, size):
    teacher = Page(open_browser())
    piece = add(site, "harbour-steps")
    name = f"Ilse {size[0]}"
    whose = site.http.post(f"{site.url}/api/students", json={"name": name, "level": "first-year"}).json()["id"]
    other = site.http.post(f"{site.url}/api/students", json={"name": "Somebody Else"}).json()["id"]
    site.http.post(f"{site.url}/api/studies", json={"student_ids": [whose, other], "piece_id": piece})
    teacher.driver.get(f"{site.url}/students/{whose}")
    teacher.sees("Practising at home")
    fill(teacher, A_PIN="2580")
    teacher.click("Make a link")
    teacher.sees("shown this once")
    assert teacher.axe() == []
    address = teacher.driver.find_element(By.XPATH, "//p[contains(., '/come#')]").text

    phone = Page(open_browser(*size, touch=size[0] < 500, stranger=True))
    phone.driver.get(address)
    phone.sees("Your PIN")
    assert "#" not in phone.driver.current_url  # it is not left behind in the address
    assert phone.axe() == []
    assert fits(phone, size)
    fill(phone, The_digits="0000")
    phone.click("Come in")
    phone.sees("this PIN is not right")
    field = phone.driver.find_element(By.CSS_SELECTOR, "input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("2580" + Keys.ENTER)
    phone.sees(f"Hello {name}")
    assert phone.axe() == []
    assert fits(phone, size)
    for elsewhere in ("/students", "/settings", f"/students/{other}/tonight", "/drills"):
        phone.driver.get(f"{site.url}{elsewhere}")
        phone.until(lambda: f"Hello {name}" in phone.text() or "nothing at this address" in phone.text()
                    or "cannot be shown" in phone.text())  # fmt: skip
        assert "Somebody Else" not in phone.text()
    phone.driver.get(f"{site.url}/pieces/{piece}?student={other}")
    phone.sees("Back to tonight")
    assert "Change this rung" not in phone.text()
    assert "How it is taught" not in phone.text()
    assert phone.axe() == []
    assert fits(phone, size)

    teacher.click("A new link")
    teacher.sees("not opened yet")
    phone.driver.get(f"{site.url}/")
    phone.sees("Sign in")
    phone.driver.get(address)
    phone.sees("this link is not good any more")
    assert phone.axe() == []
    assert phone.errors() == []


def test_a_student_says_what_goes_by_word_and_no_more(site, open_browser):
    piece = add(site, "lantern-boat")
    whose = site.http.post(f"{site.url}/api/students", json={"name": "Hedda", "level": "first-year"}).json()["id"]
    site.http.post(f"{site.url}/api/studies", json={"student_ids": [whose], "piece_id": piece})
    wanted = {"role": "student", "origin": site.url}
    address = site.http.post(f"{site.url}/api/students/{whose}/links", json=wanted).json()["address"]
    phone = Page(open_browser(390, 844, touch=True, stranger=True))
    phone.driver.get(address)
    phone.sees("Hello Hedda")
    phone.driver.get(f"{site.url}/pieces/{piece}?view=practise")
    phone.sees("Hear it")
    phone.click("Done")
    phone.until(lambda: _states(site, piece, whose)[0] == ("hear", "passed", "the student"))
    for rung, state, _ in _states(site, piece, whose)[1:]:
        assert state != "passed", rung
    phone.driver.get(f"{site.url}/pieces/{piece}?view=practise&rung=lap:1-4:both")
    phone.sees("Lap it")
    assert "by your word" not in phone.text()
    assert phone.errors() == []


def _states(site, piece: int, whose: int) -> list[tuple[str, str, str | None]]:
    study = site.http.get(f"{site.url}/api/pieces/{piece}/study", params={"student": whose}).json()
    return [(rung["stage"], rung["state"], rung["passed_by"]) for rung in study["rungs"]]
