"""A studio's file brought in: everything in it is added, in the order in which it came; nothing that is here changes.

Into an empty studio also what the studio is called and how it teaches, counts and speaks. One transaction: all of it,
or nothing. Whatever the file says is checked by the facts of the tables it goes to; what hangs together is named by
numbers of the file, and only by those.
"""

from __future__ import annotations

import hashlib
import heapq
import io
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import IO, Any

from laptick.core.base.errors import BundleError, LimitError
from laptick.core.takes.take_state import TakeState
from laptick.db import jobs as jobs_db
from laptick.db import pieces as pieces_db
from laptick.db import recordings as recordings_db
from laptick.db import takes as takes_db
from laptick.db.moving import bundles as db
from laptick.db.moving import facts, rows
from laptick.db.moving.documents import Document, values_of
from laptick.db.moving.facts import Moved
from laptick.db.people import students as students_db
from laptick.db.people import studios as studios_db
from laptick.db.shelf import every_ladder_changed
from laptick.formats.bundle import BundleReader
from laptick.formats.sound.sound_pack import read_wav
from laptick.studio.people.students import MOST_STUDENTS
from laptick.studio.recordings import sending
from laptick.studio.takes import first_judging, judging
from laptick.studio.use_case import Studio, use_case

#: Stated bounds of what is brought in at once.
MOST_PIECES, MOST_TAKES, MOST_ROWS = 5_000, 200_000, 3_000_000

_KEPT = "Nothing was brought in."
_NO_SOUND = "Its sound was not in the file that it came from, so it cannot be heard any more."


@dataclass(frozen=True)
class Brought:
    """What came in: ids of pieces and students, and how many takes."""

    pieces: tuple[int, ...]
    students: tuple[int, ...]
    takes: int

    def document(self) -> Document:
        return {"pieces": list(self.pieces), "students": list(self.students), "takes": self.takes}


def reader_of(studio: Studio, bundle_id: int, size: int) -> BundleReader:
    """
    Raises:
        BundleError, LimitError: it is no file of a studio.
    """
    # A chunk ends anywhere: what is buffered is read across their ends, which a raw file need not do.
    return BundleReader(io.BufferedReader(db.ChunksIn(studio.connection, studio.id, bundle_id, size), 2**16))


def bring(studio: Studio, file: IO[bytes]) -> Brought:
    """Adds what is in a file.

    Raises:
        BundleError: the file is damaged, or says what cannot be.
        LimitError: it is more than a studio holds.
    """
    return _Import(studio, BundleReader(file)).bring()


@use_case
def bring_in(studio: Studio, bundle_id: int) -> Brought:
    """Adds what is in a file that came in. Said twice, it is done once.

    Raises:
        BundleError: the file is damaged, or says what cannot be.
        LimitError: it is more than a studio holds.
    """
    row = db.get_bundle(studio.connection, studio.id, bundle_id, locked=True)
    if row["brought"] is not None:
        return brought_of(row["brought"])
    brought = _Import(studio, reader_of(studio, bundle_id, row["size"])).bring()
    db.set_brought(studio.connection, studio.id, bundle_id, brought.document())
    return brought


@use_case
def take_back(studio: Studio, bundle_id: int) -> Brought:
    """Takes off the shelf and the list what a file brought in; put back one by one, it is as it was."""
    row = db.get_bundle(studio.connection, studio.id, bundle_id, locked=True)
    brought = brought_of(row["brought"] or {})
    built_in = students_db.built_in_student(studio.connection, studio.id)["id"]
    for student_id in brought.students:
        if student_id != built_in:
            students_db.mark_student_deleted(studio.connection, studio.id, student_id, deleted=True)
    for piece_id in brought.pieces:
        pieces_db.mark_piece_deleted(studio.connection, studio.id, piece_id, deleted=True)
    return brought


def brought_of(document: Document) -> Brought:
    return Brought(
        tuple(document.get("pieces", ())), tuple(document.get("students", ())), int(document.get("takes", 0))
    )


@dataclass
class _Import:
    """Ids of what was added, by its number in the file."""

    studio: Studio
    file: BundleReader
    pieces: dict[int, int] = field(default_factory=dict)
    studies: dict[int, tuple[int, int]] = field(default_factory=dict)
    takes: dict[int, int] = field(default_factory=dict)
    students: list[int] = field(default_factory=list)
    added: int = 0
    sound_bytes: int = 0

    def bring(self) -> Brought:
        connection, studio_id = self.studio.connection, self.studio.id
        self.sound_bytes = recordings_db.stored_bytes(connection, studio_id)
        if rows.is_empty(connection, studio_id):
            self._studio()
        names = self.file.names("pieces")
        if len(names) > MOST_PIECES:
            raise LimitError(f"this file holds more than {MOST_PIECES:,} pieces.", kept=_KEPT)
        for name in names:
            self._piece(name)
        waiting = [self._student(name) for name in self.file.names("students")]
        self._takes([student for student in waiting if student is not None])
        for student in waiting:
            self._events(student)
        if self.takes:
            rows.tell_takes(connection, studio_id, min(self.takes.values()))
        every_ladder_changed(connection, studio_id)
        return Brought(tuple(self.pieces.values()), tuple(self.students), len(self.takes))

    # -- helpers ---------------------------------------------------------------------------------------------

    def _add(self, moved: Moved, document: Any, where: str, **apart: Any) -> int:
        return self._add_values(moved, values_of(moved, document, where), **apart)

    def _add_values(self, moved: Moved, values: dict[str, Any], **apart: Any) -> int:
        self.added += 1
        if self.added > MOST_ROWS:
            raise LimitError(f"this file holds more than {MOST_ROWS:,} rows.", kept=_KEPT)
        return rows.add_row(self.studio.connection, self.studio.id, moved, values, **apart)

    # -- the studio's own ------------------------------------------------------------------------------------

    def _studio(self) -> None:
        """What it is called, how it teaches, counts and speaks."""
        document = self.file.document("studio.json")
        if not isinstance(document, dict) or "schools" not in document:
            return  # a student's share
        connection, studio_id = self.studio.connection, self.studio.id
        values = values_of(facts.STUDIO, document, "studio")
        studios_db.put_studio(connection, studio_id, values["name"], values["time_zone"])
        studios_db.put_sound_days(connection, studio_id, values["sound_days"])
        if document.get("counts") is not None:
            counts = values_of(facts.COUNT_CHOICE, {"document": document["counts"]}, "studio.counts")
            rows.put_studio_counts(connection, studio_id, counts)
        rows.clear_schools(connection, studio_id)
        for number, school in enumerate(_list(document, "schools", "studio"), start=1):
            self._add(facts.SCHOOL_CHOICE, school, f"studio.schools[{number}]")
        for name in self.file.names("voice"):
            word = self.file.document(name)
            values = values_of(facts.VOICE_WORD, word, name)
            audio = self.file.file(_name(word, "file", name))
            try:
                read_wav(audio)
            except (RuntimeError, ValueError):  # of the library that reads it
                raise BundleError("this is no spoken word.", where=name, kept=_KEPT) from None
            self._add_values(facts.VOICE_WORD, values, audio=audio)

    # -- pieces ----------------------------------------------------------------------------------------------

    def _piece(self, name: str) -> None:
        document = self.file.document(name)
        values = values_of(facts.PIECE, document, name)
        original = self.file.file(_name(document, "file", name))
        number = _number(document, "number", name)
        if number in self.pieces:
            raise BundleError("there are two pieces of this number.", where=f"{name}.number", kept=_KEPT)
        piece_id = self._add_values(
            facts.PIECE, values, original=original, original_sha256=hashlib.sha256(original).digest()
        )
        self.pieces[number] = piece_id
        if document.get("counts") is not None:
            self._add(facts.COUNT_CHOICE, {"document": document["counts"]}, f"{name}.counts", piece_id=piece_id)
        for at, answer in enumerate(_list(document, "answers", name), start=1):
            self._add(facts.ANSWER, answer, f"{name}.answers[{at}]", piece_id=piece_id)
        versions: list[int] = []
        for at, version in enumerate(_list(document, "pencil", name), start=1):
            where = f"{name}.pencil[{at}]"
            before = self._version(version, "before", versions, where)
            versions.append(self._add(facts.PENCIL_VERSION, version, where, piece_id=piece_id, before_id=before))
        holds = self._version(document, "pencil_holds", versions, name)
        if holds is not None:
            rows.hold_pencil(self.studio.connection, self.studio.id, piece_id, holds)

    def _version(self, document: Any, key: str, versions: list[int], where: str) -> int | None:
        """The id of an earlier version that is named."""
        if not isinstance(document, dict) or document.get(key) is None:
            return None
        number = _number(document, key, where)
        if not 1 <= number <= len(versions):
            raise BundleError("there is no such state of the pencil before it.", where=f"{where}.{key}", kept=_KEPT)
        return versions[number - 1]

    # -- students --------------------------------------------------------------------------------------------

    def _student(self, name: str) -> _Student:
        document = self.file.document(name)
        values = values_of(facts.STUDENT, document, name)
        student_id = self._add_student(values)
        self.students.append(student_id)
        consents: dict[int, tuple[int, bool]] = {}
        for at, consent in enumerate(_list(document, "consents", name), start=1):
            where = f"{name}.consents[{at}]"
            found = values_of(facts.CONSENT, consent, where)
            consent_id = self._add_values(facts.CONSENT, found, student_id=student_id)
            consents[_number(consent, "number", where)] = (consent_id, found["withdrawn_at"] is None)
        studies = _list(document, "studies", name)
        for at, study in enumerate(studies, start=1):
            self._study(study, f"{name}.studies[{at}]", student_id)
        return _Student(name, studies, consents, _name(document, "takes", name))

    def _add_student(self, values: dict[str, Any]) -> int:
        """The one that every studio has is the one that this studio has, where nobody uses it."""
        connection, studio_id = self.studio.connection, self.studio.id
        if values["is_built_in"]:
            built_in = students_db.built_in_student(connection, studio_id)
            if not rows.read_rows(connection, studio_id, facts.STUDY, student_id=built_in["id"]):
                rows.take_over_built_in(connection, studio_id, built_in["id"], values)
                return int(built_in["id"])
        elif students_db.count_students(connection, studio_id) >= MOST_STUDENTS:
            raise LimitError(f"a studio has at most {MOST_STUDENTS:,} students.", kept=_KEPT)
        return self._add_values(facts.STUDENT, {**values, "is_built_in": False})

    def _study(self, document: Any, where: str, student_id: int) -> None:
        values = values_of(facts.STUDY, document, where)
        number, piece = _number(document, "number", where), _number(document, "piece", where)
        if piece not in self.pieces or number in self.studies:
            raise BundleError("its piece is not in the file, or its number is another's.", where=where, kept=_KEPT)
        piece_id = self.pieces[piece]
        study_id = self._add_values(facts.STUDY, values, student_id=student_id, piece_id=piece_id)
        self.studies[number] = (study_id, piece_id)
        for at, rung in enumerate(_list(document, "rungs", where), start=1):
            self._add(facts.RUNG_STATE, rung, f"{where}.rungs[{at}]", study_id=study_id)
        for at, heard in enumerate(_list(document, "listenings", where), start=1):
            found = values_of(facts.LISTENING, self._settled(heard), f"{where}.listenings[{at}]")
            self._add_values(facts.LISTENING, found, study_id=study_id, piece_id=piece_id)

    def _events(self, student: _Student) -> None:
        """What happened at rungs, once the takes of it are here."""
        for at, study in enumerate(student.studies, start=1):
            study_id, _ = self.studies[study["number"]]
            for event_at, event in enumerate(_list(study, "events", student.name), start=1):
                where = f"{student.name}.studies[{at}].events[{event_at}]"
                values = values_of(facts.RUNG_EVENT, event, where)
                take = None if event.get("take") is None else _number(event, "take", where)
                if take is not None and take not in self.takes:
                    raise BundleError("its take is not in the file.", where=where, kept=_KEPT)
                take_id = None if take is None else self.takes[take]
                self._add_values(facts.RUNG_EVENT, values, study_id=study_id, take_id=take_id)

    # -- takes -----------------------------------------------------------------------------------------------

    def _takes(self, students: list[_Student]) -> None:
        """All students' takes, in the order in which they came to the studio."""
        last = 0
        for number, where, document, student in heapq.merge(*map(self._numbered, students), key=lambda one: one[0]):
            if number <= last:
                raise BundleError("takes are not in the order of their numbers.", where=where, kept=_KEPT)
            last = number
            if len(self.takes) >= MOST_TAKES:
                raise LimitError(f"this file holds more than {MOST_TAKES:,} takes.", kept=_KEPT)
            self._take(number, where, document, student)

    def _numbered(self, student: _Student) -> Iterator[tuple[int, str, Document, _Student]]:
        for at, document in enumerate(self.file.lines(student.takes), start=1):
            where = f"{student.takes}[{at}]"
            yield _number(document, "number", where), where, document, student

    def _take(self, number: int, where: str, document: Document, student: _Student) -> None:
        study = self.studies.get(_number(document, "study", where))
        if study is None:
            raise BundleError("its study is not in the file.", where=where, kept=_KEPT)
        values = values_of(facts.TAKE, self._settled(document), where)
        if document.get("recording") is None and values["strikes"] is None:
            raise BundleError("nothing was struck or recorded in it.", where=where, kept=_KEPT)
        take_id = self._add_values(facts.TAKE, values, study_id=study[0], piece_id=study[1])
        self.takes[number] = take_id
        for key, moved in (("judgements", facts.JUDGEMENT), ("overrules", facts.OVERRULE)):
            for at, one in enumerate(_list(document, key, where), start=1):
                self._add(moved, one, f"{where}.{key}[{at}]", take_id=take_id)
        recording_id = self._recording(document, where, take_id, student)
        if values["state"] == TakeState.WAITING.value:
            self._wait(take_id, values["strikes"] is None, recording_id)

    def _recording(self, take: Document, where: str, take_id: int, student: _Student) -> int | None:
        """The recording of a take: its sound where there is some, and somebody agreed to it. Gives its id where there
        is sound."""
        document = take.get("recording")
        if document is None:
            return None
        where = f"{where}.recording"
        values = values_of(facts.RECORDING, document, where)
        number = None if document.get("consent") is None else _number(document, "consent", where)
        consent_id, holds = student.consents.get(number or 0, (None, False))
        has_sound = holds and document.get("file") is not None
        connection, studio_id = self.studio.connection, self.studio.id
        new = self._add_values(facts.RECORDING, values, take_id=take_id, consent_id=consent_id)
        if not has_sound:
            if values["dropped_at"] is None:
                recordings_db.drop_sound(connection, studio_id, new)
            return None
        most = sending.MOST_STORED_BYTES - self.sound_bytes
        parts = self.file.parts(_name(document, "file", where), sending.CHUNK_BYTES, max(most, 0))
        size = 0
        for at, part in enumerate(parts):
            if at >= sending.MOST_CHUNKS:
                raise LimitError("this recording is larger than any may be.", where=where, kept=_KEPT)
            recordings_db.put_chunk(connection, studio_id, new, at, part)
            size += len(part)
        self.sound_bytes += size
        asked = {"take_id": take_id}
        jobs_db.add_job(
            connection, studio_id, jobs_db.NewJob(judging.COPY_KIND, f"{judging.COPY_KIND}:{take_id}", asked)
        )
        return new

    def _wait(self, take_id: int, is_unheard: bool, recording_id: int | None) -> None:
        """A take that nobody judged yet is judged here."""
        connection, studio_id = self.studio.connection, self.studio.id
        if not is_unheard:
            new = jobs_db.NewJob(first_judging.KIND, first_judging.key_of(take_id), {"take_id": take_id})
        elif recording_id is not None:
            asked = {"recording_id": recording_id, "take_id": take_id}
            new = jobs_db.NewJob(sending.KIND, sending.key_of(take_id), asked)
        else:
            takes_db.set_state(connection, studio_id, take_id, TakeState.FAILED.value, _NO_SOUND)
            return
        jobs_db.add_job(connection, studio_id, new)

    def _settled(self, document: Any) -> Any:
        """A document whose settings name their study by id."""
        settings = document.get("settings") if isinstance(document, dict) else None
        if not isinstance(settings, dict) or settings.get("study_id") is None:
            return document
        study = self.studies.get(settings["study_id"]) if isinstance(settings["study_id"], int) else None
        return {**document, "settings": {**settings, "study_id": None if study is None else study[0]}}


@dataclass(frozen=True)
class _Student:
    """A student that was added. ``consents``: number → id, and whether it holds; ``takes``: the name of theirs."""

    name: str
    studies: list[Any]
    consents: dict[int, tuple[int, bool]]
    takes: str


def _list(document: Any, key: str, where: str) -> list[Any]:
    found = document.get(key) if isinstance(document, dict) else None
    if not isinstance(found, list):
        raise BundleError("this is no list.", where=f"{where}.{key}", kept=_KEPT)
    return found


def _number(document: Any, key: str, where: str) -> int:
    found = document.get(key) if isinstance(document, dict) else None
    if type(found) is not int or not 0 < found < 2**31:
        raise BundleError("this is no number.", where=f"{where}.{key}", kept=_KEPT)
    return found


def _name(document: Any, key: str, where: str) -> str:
    found = document.get(key) if isinstance(document, dict) else None
    if not isinstance(found, str):
        raise BundleError("this names no part of the file.", where=f"{where}.{key}", kept=_KEPT)
    return found
