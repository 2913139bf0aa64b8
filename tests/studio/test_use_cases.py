"""Every use case is one transaction: where its last step fails, nothing of it is left. And those of the demo.

The list of cases is held against the list of use cases, so a new one cannot come without its proof.
"""

from __future__ import annotations

import hashlib
import importlib
import pkgutil
from dataclasses import replace
from datetime import UTC, date, datetime
from importlib import resources
from pathlib import Path

import numpy as np
import pymysql
import pyotp
import pytest

import laptick.studio
from databases import beside
from laptick.core.base.errors import StorageError
from laptick.core.base.levels import Level
from laptick.core.judging.verdict import Status
from laptick.core.practice.ladder.tempo_steps import Feel
from laptick.core.practice.question import QuestionKind
from laptick.db.engine.connect import connect
from laptick.db.people.students import StudentFacts
from laptick.formats.sound.sound_pack import PACK_RATE, wav_bytes
from laptick.studio import demo, demo_students, voice
from laptick.studio.jobs import jobs, judging_all, making
from laptick.studio.jobs.making import MadeWanted
from laptick.studio.moving import bundles, exporting, importing
from laptick.studio.people import links, students
from laptick.studio.people.secret_words import password_hash, token_hash
from laptick.studio.people.sign_in import Credentials, add_demo_teacher
from laptick.studio.people.studios import StudioFacts
from laptick.studio.pieces import pencil, questions, shelf
from laptick.studio.pieces.drills import Wanted
from laptick.studio.pieces.play_along import PlayQuery
from laptick.studio.recordings import consents, hearing, playing, sending
from laptick.studio.studies import studies
from laptick.studio.takes import judging, listening, takes
from laptick.studio.takes.settings import TakeSettings
from laptick.studio.takes.takes import Played, Simulation
from laptick.studio.use_case import MOST_ATTEMPTS, USE_CASES, Asker, AskerRole, Studio
from signing_in import PASSWORD, TEACHER

for found in pkgutil.walk_packages(laptick.studio.__path__, "laptick.studio."):
    importlib.import_module(found.name)

LAP = TakeSettings(activity="lap", bpm=60)
TAPS = {"taps": [{"t": 2.0 + i / 4, "hand": "right"} for i in range(60)]}
SECRET = "JBSWY3DPEHPK3PXPJBSWY3DPEHPK3PXP"
AGREED = consents.NewConsent(1, "her mother", "lessons", date(2026, 11, 1))
PUPIL = StudentFacts("Tuuli", None, 8, {"first": "count"}, 4, 15, "left wrist high", False)
SENT = sending.Sent("take.wav", "audio/wav")
PICTURE = {"bpm": 60, "format": "svg", "hand": "both", "big": False}
PASSAGE = {"title": "Short", "beats": 2, "beat_type": 4, "bpm": 60, "bars": [{"right": [], "left": []}]}
HARBOUR = resources.files("laptick") / "demo" / "harbour-steps.musicxml"


class World:
    """A studio with the demo data, and what stands in it now."""

    def __init__(self, studio: Studio, folder: Path = Path()) -> None:
        self.studio = studio
        self.folder = folder

    def one(self, sql: str, *values):
        with self.studio.connection.cursor() as cursor:
            cursor.execute(sql, values)
            row = cursor.fetchone()
        self.studio.connection.rollback()
        return None if row is None else next(iter(row.values()))

    def piece(self, key: str = "harbour-steps") -> int:
        return self.one("SELECT id FROM piece WHERE demo_key = %s", key)

    def take(self, activity: str = "lap") -> int:
        return self.one(
            "SELECT id FROM take WHERE piece_id = %s AND activity = %s ORDER BY id LIMIT 1", self.piece(), activity
        )

    def kept(self) -> int:
        """A take that waits to be judged."""
        return takes.keep(self.studio, self.piece(), LAP, Played(TAPS, "student")).id

    def coming(self, sound: bytes | None = None) -> int:
        """A recording of which so much has come."""
        recording = sending.begin_recording(self.studio, self.piece(), LAP, SENT).id
        if sound is not None:
            sending.put_chunk(self.studio, recording, 0, sound)
        return recording

    def recorded(self, *, is_heard: bool = False) -> tuple[int, int]:
        """A whole recording, and its take."""
        recording = self.coming(b"sound")
        take = sending.complete_recording(self.studio, recording, hashlib.sha256(b"sound").hexdigest()).take_id
        if is_heard:
            hearing.keep_heard(self.studio, take, None, "nothing was heard")
        return recording, take

    def agreed(self) -> tuple[int, int]:
        """A recording that is kept, with its copy, and its take."""
        consent = consents.add_consent(self.studio, AGREED).id
        coming = sending.begin_recording(self.studio, self.piece(), LAP, replace(SENT, consent_id=consent))
        sending.put_chunk(self.studio, coming.id, 0, b"sound")
        sending.complete_recording(self.studio, coming.id, hashlib.sha256(b"sound").hexdigest())
        playing.keep_playback(self.studio, coming.id, b"copy")
        return coming.id, coming.take_id

    def saved(self) -> int:
        """The studio as a file."""
        bundle, _job = bundles.ask_for_bundle(self.studio, None)
        with beside(self.studio.connection) as writing:
            exporting.write_bundle(self.studio, bundle.id, writing)
        return bundle.id

    def sent(self) -> int:
        """The same, sent in."""
        data = bundles.get_part(self.studio, self.saved(), 0)
        coming = bundles.begin_bundle(self.studio, "a studio.zip").id
        bundles.put_part(self.studio, coming, 0, data)
        return coming

    def job(self) -> int:
        return judging_all.ask_judge_all(self.studio).id

    def link_id(self) -> int:
        self.link()
        return self.one("SELECT MAX(id) FROM personal_link")

    def version(self) -> int | None:
        return self.one("SELECT pencil_version_id FROM piece WHERE id = %s", self.kite)

    @property
    def kite(self) -> int:
        return self.piece("kite-over-the-orchard")

    def heard(self) -> int:
        known = self.one("SELECT id FROM listening WHERE piece_id = %s AND deleted_at IS NULL LIMIT 1", self.piece())
        if known is None:
            known = listening.add_listening(self.studio, self.piece(), LAP, listening.Heard([4.0], 2.0)).id
        return known

    def after(self, use_case, *arguments):
        """The arguments, after something has been done with them."""
        use_case(self.studio, *arguments)
        return arguments

    def door(self, password: str | None = PASSWORD, **more) -> Credentials:
        """With these a teacher signs in, who is there, and signed in as the one who asks; without a password there is
        none."""
        with self.studio.connection.cursor() as cursor:
            cursor.execute("DELETE FROM teacher WHERE NOT is_demo")
            if password is not None:
                cursor.execute(
                    "INSERT INTO teacher (id, studio_id, name, password_hash, recovery_hash) VALUES (7, 1, %s, %s, %s)",
                    (TEACHER, password_hash(password), token_hash("bafiku")),
                )
                cursor.execute(
                    "INSERT INTO session (id, token_hash, studio_id, teacher_id, expires_at)"
                    " VALUES (7, %s, 1, 7, UTC_TIMESTAMP() + INTERVAL 1 DAY),"
                    " (8, %s, 1, 7, UTC_TIMESTAMP() + INTERVAL 1 DAY)",
                    (token_hash("here"), token_hash("there")),
                )
        self.studio.connection.commit()
        return Credentials(TEACHER, PASSWORD, **more)

    def password(self, *more) -> tuple:
        self.door()
        return (PASSWORD, *more)

    def link(self) -> str:
        return links.make_link(self.studio, self.pupil(), AskerRole.PARENT, "2580")

    def study(self) -> int:
        return studies.get_study(self.studio, self.piece()).id

    def pupil(self) -> int:
        """A student who has a study, and has not left in another case."""
        known = self.one("SELECT id FROM student WHERE NOT is_built_in AND deleted_at IS NULL ORDER BY id LIMIT 1")
        if known is None:
            known = students.add_student(self.studio, PUPIL).id
            students.give_study(self.studio, [known], self.piece())
        return known

    def rung(self, stage: str, nth: int = 0) -> str:
        """A rung as the ladder stands now."""
        rungs = studies.get_study(self.studio, self.piece()).ladder.rungs
        return [rung.key for rung in rungs if rung.stage.value == stage][nth]

    def edits(self) -> int:
        return self.one("SELECT edits_version FROM study WHERE id = %s", self.study())

    def word(self) -> int:
        known = self.one("SELECT id FROM voice_word LIMIT 1")
        if known is None:
            voice.add_word(self.studio, "one", "one", recording())
            known = self.one("SELECT id FROM voice_word LIMIT 1")
        return known


def recording() -> bytes:
    """A hum of a third of a second."""
    at = np.arange(PACK_RATE) / PACK_RATE
    return wav_bytes(0.3 * np.sin(2 * np.pi * 220 * at) * (at > 0.3) * (at < 0.65), PACK_RATE)


def a_question(world: World):
    _, asked = questions.list_questions(world.studio, world.piece(), QuestionKind.NAMES)
    return asked[0]


#: Use case → what it is called with, and whether it changes what is stored.
CASES = {
    "choices.get_studio_choices": (lambda w: (), False),
    "choices.get_naming": (lambda w: (), False),
    "choices.put_studio_choices": (lambda w: ({"studio": {"density": "steady"}}, "en"), True),
    "choices.put_piece_choices": (lambda w: (w.piece(), {"piece": {"system": "beats"}}, ["1"]), True),
    "demo.add_demo": (lambda w: w.one("SELECT 1") and (), False),
    "demo.reset_demo": (lambda w: (), True),
    "demo_shipped.add_shipped_demo": (lambda w: (), False),
    "demo_students.add_demo_students": (lambda w: (), True),
    "drills.try_drill": (lambda w: (Wanted("layer", {"of": str(w.piece())}),), False),
    "drills.add_drill": (lambda w: (Wanted("layer", {"of": str(w.piece())}),), True),
    "entry.add_entry": (lambda w: (PASSAGE,), True),
    "entry.get_entry": (lambda w: (w.piece("thimble-waltz"),), False),
    "entry.put_entry": (
        lambda w: (w.piece("thimble-waltz"), w.one("SELECT MAX(entry_version) FROM piece"), PASSAGE), True,
    ),
    "jobs.get_job": (lambda w: (w.job(),), False),
    "jobs.stop_job": (lambda w: (w.job(),), True),
    "jobs.retry_job": (lambda w: w.after(jobs.stop_job, w.job()), True),
    "judging_all.ask_judge_all": (lambda w: (w.after(jobs.stop_job, w.job()) and ()), True),
    "judging_all.judging_job": (lambda w: (), False),
    "making.ask_for": (lambda w: (MadeWanted("picture", w.piece(), PICTURE),), True),
    "making.prepare_made": (lambda w: (MadeWanted("picture", w.piece(), PICTURE),), False),
    "making.keep_made": (lambda w: ("0" * 64, making.Made("text/plain", b"a")), True),
    "judging.judge_again": (lambda w: (w.take(),), True),
    "judging.judge_as_passage": (lambda w: (w.take(), "1-4"), True),
    "judging.judge_one_of_all": (lambda w: (w.take(),), True),
    "judging.outdated_takes": (lambda w: (), False),
    "judging.overrule": (lambda w: (w.take(), Status.STEADY, "I heard it."), True),
    "judging.withdraw": (lambda w: w.after(judging.overrule, w.take(), Status.STEADY, "I heard it.")[:1], True),
    "listening.add_listening": (lambda w: (w.piece(), LAP, listening.Heard([3.0, 5.0], 2.0)), True),
    "listening.beside": (lambda w: (w.take(), w.heard()), False),
    "listening.delete_listening": (lambda w: (w.heard(),), True),
    "listening.restore_listening": (lambda w: w.after(listening.delete_listening, w.heard()), True),
    "listening.list_listenings": (lambda w: (w.piece(),), False),
    "pencil.get_pencil": (lambda w: (w.kite,), False),
    "pencil.add_change": (
        lambda w: (w.kite, w.version(), {"kind": "cue", "at": {"measure": "3", "offset": "0"}, "text": "breathe"}), True,
    ),
    "pencil.undo_change": (lambda w: (w.kite, w.version()), True),
    "pencil.redo_change": (lambda w: (w.after(pencil.undo_change, w.kite, w.version())[0], w.version()), True),
    "pencil.remove_change": (lambda w: (w.kite, "all", w.version()), True),
    "play_along.play_along": (lambda w: (w.piece(), PlayQuery(bpm=60)), False),
    "questions.list_kinds": (lambda w: (w.piece(),), False),
    "questions.list_questions": (lambda w: (w.piece(), QuestionKind.NAMES), False),
    "questions.answer_question": (
        lambda w: (w.piece(), QuestionKind.NAMES, a_question(w).key, list(a_question(w).answer)), True,
    ),
    "consents.add_consent": (lambda w: (AGREED,), True),
    "consents.list_consents": (lambda w: (), False),
    "consents.withdraw_consent": (lambda w: (consents.add_consent(w.studio, AGREED).id,), True),
    "sending.begin_recording": (lambda w: (w.piece(), LAP, SENT), True),
    "sending.put_chunk": (lambda w: (w.coming(), 0, b"sound"), True),
    "sending.get_coming": (lambda w: (w.coming(),), False),
    "sending.complete_recording": (lambda w: (w.coming(b"sound"), hashlib.sha256(b"sound").hexdigest()), True),
    "sending.drop_sound": (lambda w: (w.recorded(is_heard=True)[0],), True),
    "hearing.prepare_hearing": (lambda w: (w.recorded()[1], w.folder / "sound"), False),
    "hearing.lay_out_kept": (lambda w: (w.recorded()[1], w.folder / "kept"), False),
    "hearing.keep_heard": (lambda w: (w.recorded()[1], TAPS | {"source": "audio"}, None), True),
    "playing.prepare_playback": (lambda w: (w.agreed()[1],), False),
    "playing.keep_playback": (lambda w: (w.agreed()[0], b"another copy"), True),
    "playing.get_playback": (lambda w: (w.agreed()[0], 0, None), False),
    "shelf.add_piece": (lambda w: (HARBOUR.read_bytes(), "again.musicxml"), True),
    "shelf.get_piece": (lambda w: (w.piece(),), False),
    "shelf.get_original": (lambda w: (w.piece(),), False),
    "shelf.list_pieces": (lambda w: w.after(shelf.set_reading, w.piece(), {"line_starts": ["2"]})[:0], True),
    "shelf.pieces_to_read": (lambda w: (), False),
    "shelf.show_piece": (lambda w: (w.piece(),), False),
    "shelf.update_piece": (lambda w: (w.piece(), Level.ADVANCED, 99.5), True),
    "shelf.set_play_order": (lambda w: (w.piece(), ["1", "2", "1", "2"]), True),
    "shelf.set_reading": (lambda w: (w.piece(), {"line_starts": ["3"]}), True),
    "shelf.delete_piece": (lambda w: (w.piece("five-stones"),), True),
    "shelf.restore_piece": (lambda w: w.after(shelf.delete_piece, w.piece("five-stones")), True),
    "spoken.said_after": (lambda w: (w.take(),), False),
    "studies.get_study": (lambda w: (w.piece("five-stones"), "1-2"), True),
    "studies.list_passages": (lambda w: (w.piece(),), False),
    "studies.set_school": (lambda w: (w.study(), {"chunks": "doubling"}), True),
    "studies.set_studio_school": (lambda w: (Level.ELEMENTARY, {"first": "count"}), True),
    "studies.studio_school": (lambda w: (), False),
    "studies.edit_ladder": (lambda w: (w.study(), w.edits(), {"kind": "drop", "rung": w.rung("join")}), True),
    "studies.undo_edit": (
        lambda w: (w.after(studies.edit_ladder, w.study(), w.edits(), {"kind": "drop", "rung": w.rung("join", 1)})[0],
                   w.edits()), True,
    ),
    "studies.say_word": (lambda w: (w.study(), w.rung("line-up")), True),
    "studies.take_word_back": (lambda w: w.after(studies.say_word, w.study(), w.rung("hear", -1))[:2], True),
    "studies.say_feel": (lambda w: (w.take(), Feel.HARD), True),
    "studios.get_studio": (lambda w: (), False),
    "studios.update_studio": (lambda w: (StudioFacts("By the mill", "Europe/Helsinki"),), True),
    "students.list_students": (lambda w: (), False),
    "students.get_student": (lambda w: (w.pupil(),), True),  # how far its studies are is kept
    "students.add_student": (lambda w: (PUPIL,), True),
    "students.update_student": (lambda w: (w.pupil(), 0, replace(PUPIL, level="advanced")), True),
    "students.leave": (lambda w: (w.pupil(),), True),
    "students.come_back": (lambda w: w.after(students.leave, w.pupil()), True),
    "students.give_study": (lambda w: ([w.pupil()], w.kite, "1-2"), True),
    "students.end_study": (lambda w: (students.give_study(w.studio, [w.pupil()], w.piece())[0],), True),
    "tonight.get_tonight": (lambda w: (w.pupil(),), False),
    "links.list_links": (lambda w: (w.pupil(),), False),
    "links.make_link": (lambda w: (w.pupil(), AskerRole.STUDENT, "2580"), True),
    "links.remove_link": (lambda w: (w.pupil(), w.link_id()), True),
    "links.try_to_open": (lambda w: (w.link(), "2580", "a phone"), True),
    "sign_in.who_asks": (lambda w: ("here", w.door())[:1], False),
    "sign_in.the_door": (lambda w: (True,), False),
    "sign_in.set_up": (lambda w: ("By the mill", "", w.door(None)), True),
    "sign_in.try_to_sign_in": (lambda w: (w.door(),), True),
    "sign_in.add_demo_teacher": (lambda w: (), True),
    "sign_in.sign_in_to_demo": (lambda w: (w.after(add_demo_teacher), w.door(None), True)[1:], True),
    "sign_in.try_to_recover": (lambda w: (w.door(), "bafiku"), True),
    "sign_in.sign_out": (lambda w: (w.door(),)[:0], True),
    "account.get_account": (lambda w: (w.door(),)[:0], False),
    "account.change_password": (lambda w: w.password("three tall dark trees"), True),
    "account.new_recovery_code": (lambda w: w.password(), True),
    "account.offer_second_factor": (lambda w: w.password(), False),
    "account.set_second_factor": (lambda w: w.password(SECRET, pyotp.TOTP(SECRET).now()), True),
    "account.end_session": (lambda w: (8, w.door())[:1], True),
    "account.recovery_code_for": (lambda w: (w.door().name,), True),
    "account.add_studio": (lambda w: ("By the weir", "Bo Reed"), True),
    "bundles.ask_for_bundle": (lambda w: (None,), True),
    "bundles.get_bundle": (lambda w: (w.saved(),), False),
    "bundles.get_part": (lambda w: (w.saved(), 0), False),
    "bundles.begin_bundle": (lambda w: ("a studio.zip",), True),
    "bundles.put_part": (lambda w: (bundles.begin_bundle(w.studio, "a studio.zip").id, 0, b"PK"), True),
    "bundles.complete_bundle": (lambda w: (w.sent(),), True),
    "bundles.ask_to_bring_in": (lambda w: w.after(bundles.complete_bundle, w.sent()), True),
    "importing.bring_in": (lambda w: w.after(bundles.complete_bundle, w.sent()), True),
    "importing.take_back": (
        lambda w: w.after(importing.bring_in, w.after(bundles.complete_bundle, w.sent())[0]), True,
    ),
    "waiting.waiting_jobs": (lambda w: (), False),
    "removed.list_removed": (lambda w: (), False),
    "search.search": (lambda w: ("harbour",), False),
    "audit.note": (lambda w: ("changed", "student", w.pupil()), True),
    "audit.list_audit": (lambda w: (None, 5), False),
    "audit.list_who_left": (lambda w: (), False),
    "audit.erase": (lambda w: w.after(students.leave, w.pupil()), True),
    "takes.keep": (lambda w: (w.piece(), LAP, Played(TAPS, "student")), True),
    "takes.take_sent": (lambda w: ("abc",), False),
    "takes.simulate_take": (lambda w: (w.piece(), LAP, Simulation(seed=1)), False),
    "first_judging.judge_first": (lambda w: (w.kept(),), True),
    "takes.stand_in": (lambda w: (w.piece(), TakeSettings(activity="play", bpm=60), Simulation(seed=1)), False),
    "takes.get_take": (lambda w: (w.take(),), False),
    "takes.list_takes": (lambda w: (w.piece(),), False),
    "takes.takes_of_student": (lambda w: (w.pupil(), None, 5), False),
    "takes.set_note": (lambda w: (w.take(), "calm today"), True),
    "takes.delete_take": (lambda w: (w.take("count"),), True),
    "takes.restore_take": (lambda w: w.after(takes.delete_take, w.take("count")), True),
    "voice.get_voice": (lambda w: (), False),
    "voice.add_word": (lambda w: ("two", "two", recording()), True),
    "voice.change_word": (lambda w: (w.word(), 0.05, None), True),
    "voice.word_samples": (lambda w: (w.word(),), False),
}  # fmt: skip


@pytest.fixture(scope="module")
def world(demo_db, tmp_path_factory):
    connection = connect(demo_db)
    asker = Asker(AskerRole.TEACHER, 1, 7, TEACHER, teacher_id=7)
    yield World(Studio(connection, 1, asker), tmp_path_factory.mktemp("world"))
    connection.close()


@pytest.fixture(scope="module")
def stored(demo_db):
    """A sum over every row of every table, which the server makes; seen from outside."""
    connection = connect(demo_db)
    with connection.cursor() as cursor:
        cursor.execute("SELECT table_name AS t FROM information_schema.tables WHERE table_schema = DATABASE()")
        tables = ", ".join(sorted(row["t"] for row in cursor.fetchall()))

    def sums():
        with connection.cursor() as cursor:
            cursor.execute(f"CHECKSUM TABLE {tables}")
            found = {row["Table"]: row["Checksum"] for row in cursor.fetchall()}
        assert None not in found.values()
        connection.rollback()
        return found

    yield sums
    connection.close()


def test_every_use_case_has_its_case():
    assert CASES.keys() == USE_CASES.keys()


class Failing:
    """A cursor that breaks at its nth statement (counted over the whole transaction)."""

    def __init__(self, connection, at=None):
        self.connection, self.at, self.seen, self.open = connection, at, 0, connection.cursor

    def __call__(self):
        cursor = self.open()
        execute = cursor.execute

        def counted(*args):
            self.seen += 1
            if self.seen == self.at:
                raise pymysql.err.OperationalError(2013, "gone")
            return execute(*args)

        cursor.execute = counted
        return cursor


@pytest.mark.parametrize("name", CASES)
def test_all_or_nothing(name, world, stored, monkeypatch):
    arguments, writes = CASES[name]
    connection, values = world.studio.connection, arguments(world)
    before = stored()

    def gone():
        raise pymysql.err.OperationalError(2013, "gone")

    with monkeypatch.context() as patched:  # the commit itself fails
        counting = Failing(connection)
        patched.setattr(connection, "cursor", counting)
        patched.setattr(connection, "commit", gone)
        with pytest.raises(StorageError):
            USE_CASES[name](replace(world.studio), *values)
    assert stored() == before
    with monkeypatch.context() as patched:  # its last statement fails
        patched.setattr(connection, "cursor", Failing(connection, at=counting.seen))
        with pytest.raises(StorageError):
            USE_CASES[name](replace(world.studio), *values)
    assert stored() == before
    USE_CASES[name](replace(world.studio), *values)
    assert (stored() != before) == writes


@pytest.mark.parametrize(("meets", "succeeds"), [(1, True), (MOST_ATTEMPTS - 1, True), (MOST_ATTEMPTS, False)])
def test_what_only_met_others_is_run_again(world, stored, monkeypatch, meets, succeeds):
    """Two transactions that wait for each other: the server lets one go (error 1213), and nothing of the other is stored."""
    before, met, commit = stored(), [], world.studio.connection.commit

    def contended():
        if len(met) < meets:
            met.append(1)
            raise pymysql.err.OperationalError(1213, "Deadlock found when trying to get lock")
        commit()

    monkeypatch.setattr(world.studio.connection, "commit", contended)
    if succeeds:
        assert takes.set_note(world.studio, world.take(), f"met {meets}").row["note"] == f"met {meets}"
    else:
        with pytest.raises(StorageError):
            takes.set_note(world.studio, world.take(), "never")
        assert stored() == before
    assert len(met) == meets


def test_a_passage_that_cannot_be_judged_leaves_the_take_as_it_was(world, stored, monkeypatch):
    """Of old it answered "nothing was changed" after it had changed the take."""
    with world.studio.connection.cursor() as cursor:
        cursor.execute("UPDATE take SET strikes = '{}' WHERE id = %s", (world.take("play"),))
    world.studio.connection.commit()
    before = stored()
    with pytest.raises(Exception, match="cannot be read"):
        judging.judge_as_passage(world.studio, world.take("play"), "1-2")
    assert stored() == before


def test_what_the_checker_breaks_on_is_kept(world, monkeypatch):
    def broken(*args, **kwargs):
        raise ZeroDivisionError

    with monkeypatch.context() as patched:
        patched.setattr(judging, "check_document", broken)
        shown = takes.add_take(world.studio, world.piece(), LAP, Played(TAPS, "student"))
    assert (shown.row["state"], shown.row["status"], shown.row["document"]) == ("failed", None, None)
    assert "kept" in shown.row["failure"]
    assert len(shown.row["strikes"]["taps"]) == len(TAPS["taps"])
    again = judging.judge_again(world.studio, shown.id)
    assert (again.row["state"], again.row["failure"]) == ("judged", None)


def test_the_demo_is_added_once_taken_off_for_good_and_reset_on_request(connection):
    studio = Studio(connection, 1)
    assert demo.add_demo(studio) == 6
    assert demo.add_demo(studio) == 0
    mine = shelf.add_piece(studio, HARBOUR.read_bytes(), "mine.musicxml").piece.id
    first = next(shown.id for shown in shelf.list_pieces(studio) if shown.id != mine)
    shelf.delete_piece(studio, first)
    assert demo.add_demo(studio) == 0
    # What a teacher did with a demo take is no hindrance.
    take = takes.list_takes(studio, World(studio).piece())[0][0]["id"]
    judging.overrule(studio, take, Status.STEADY, "I heard it.")
    listening.add_listening(studio, World(studio).piece(), LAP, listening.Heard([4.0], 2.0))
    assert demo.reset_demo(studio) == 6
    assert mine in [shown.id for shown in shelf.list_pieces(studio)]


def test_the_students_of_the_demo_have_practised_up_to_today(connection):
    studio = Studio(connection, 1)
    demo.add_demo(studio)
    assert demo_students.add_demo_students(studio) == 5
    listed = {one.student.name: one for one in students.list_students(studio)}
    assert len(listed) == 6
    assert listed["Aila"].practised[-1]
    assert not listed["Estrid"].practised[-1]
    assert listed["Aila"].studies == 2
    # None goes back more than three weeks, none lies ahead.
    assert not any(any(one.practised[:7]) for one in listed.values())
    aila = students.get_student(studio, listed["Aila"].student.id)
    passed = {one.title: one.progress.passed for one in aila.studies}
    assert all(count > 2 for count in passed.values())
    assert all(one.last_at <= datetime.now(UTC).replace(tzinfo=None) for one in aila.studies)
    # Who left stays away; the others practise again what is made anew.
    students.leave(studio, aila.student.id)
    demo.reset_demo(studio)
    assert demo_students.add_demo_students(studio) == 0
    assert demo_students.add_demo_students(studio, anew=True) == 0
    on_the_go = [one.student.name for one in students.list_students(studio) if one.studies]
    assert on_the_go == ["Bruno", "Celia", "Dag", "Estrid", "The student"]


def test_a_file_is_parsed_once_when_it_comes(connection, monkeypatch):
    from laptick.studio.pieces import open_piece

    parsed = []
    real = open_piece.open_score
    monkeypatch.setattr(open_piece, "open_score", lambda *args, **how: parsed.append(how) or real(*args, **how))
    data = HARBOUR.read_bytes().replace(b"Harbour Steps", b"Harbour Steps, once")
    shown = shelf.add_piece(Studio(connection, 1), data, "once.musicxml")
    assert shown.piece.score.measures
    anew = shelf.set_reading(Studio(connection, 1), shown.piece.id, {"line_starts": ["3"]})
    assert anew.piece.score.measures
    assert len(parsed) == 2  # once as it came, once as it is read otherwise
