"""A studio, or one student's share of it, written into a file: pieces as they came, students with their studies and
takes, sound.

What was deleted is not in it, nor who signs in, links and the log. Rows are numbered in the order in which they came,
so what is brought into an empty studio comes out again byte for byte. A damaged row is left out, and counted.
"""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from laptick.core.base.errors import BundleError, LapTickError
from laptick.db import recordings as recordings_db
from laptick.db.engine.connect import Connection, Row, transaction
from laptick.db.moving import bundles as bundles_db
from laptick.db.moving import facts, rows
from laptick.db.moving.documents import Document, document_of
from laptick.db.moving.facts import Moved
from laptick.formats.bundle import CONTENTS, FORMAT, VERSION, BundleWriter, plain_name, suffix_of
from laptick.formats.midi.take import write_midi_strikes
from laptick.studio.takes.judging import performance_of
from laptick.studio.use_case import Studio

#: What stands in the file for a person who opens it.
README = """A studio of Lap Tick as one file, to keep or to bring into another studio (Settings, The studio).

pieces/     each piece: its score as it came, and piece.json: how it is read and counted, the pencil.
students/   each student: student.json (what is agreed, studies and their ladders), takes.csv (a table to look at),
            takes.jsonl (each take with all that was said of it, a line each), played/ (as Standard MIDI, to listen to;
            nothing is read from it), sound/ (recordings as they came).
voice/      the studio's own spoken words.
studio.json what the studio is called, how it teaches and counts.

Times are UTC. Passwords, links and the log are not in it, nor what was deleted.
"""

#: So many takes are read at once.
AT_ONCE = 50

COLUMNS = ("take", "played", "piece", "bars", "activity", "asked_bpm", "played_bpm", "said", "note")


#: Told how much of the whole is written, on the connection and in the transaction that keeps it; may raise.
Further = Callable[[int, int], None]


def write_bundle(
    studio: Studio, bundle_id: int, writing: Connection, further: Further = lambda done, whole: None
) -> None:
    """Fills a file that was asked for: with all as it was at one moment, read in one transaction. What is full is kept
    through ``writing``, another connection, at once: so nobody waits for a file that is being packed, and who takes it
    away, because somebody in it is to be in it no more, stops the packing.

    Raises:
        NotFoundError: it is not wanted any more, or the student is not here.
    """
    export: _Export | None = None

    @contextmanager
    def at_it() -> Iterator[Row]:
        with transaction(writing):
            wanted = bundles_db.get_bundle(writing, studio.id, bundle_id, locked=True)
            further(*((0, 0) if export is None else export.progress))
            yield wanted

    def put(number: int, data: bytes) -> None:
        with at_it():
            bundles_db.put_chunk(writing, studio.id, bundle_id, number, data)

    with at_it() as wanted:
        bundles_db.drop_chunks(writing, studio.id, bundle_id)
    out = bundles_db.ChunksOut(put)
    bundle = BundleWriter(out)  # type: ignore[arg-type] # a raw file of bytes is one
    try:
        with transaction(studio.connection):
            export = _Export(studio, bundle, wanted["student_id"])
            contents = export.write()
    except BaseException:
        out.abandon()
        raise
    finally:
        bundle.close()
    size = out.finish()
    with at_it():
        bundles_db.complete_bundle(writing, studio.id, bundle_id, size, contents)


#: A student's studies, as rows and as they are written.
Studies = list[tuple[Row, Document]]


@dataclass(frozen=True)
class _Written:
    """A take that was written. ``cells``: of the table; ``is_of_keys``: it is known which keys were struck; ``sound``:
    the name of its sound in the file."""

    id: int
    cells: tuple[Any, ...]
    is_of_keys: bool
    recording_id: int | None
    sound: str | None


class _Export:
    """Numbers of what was written, by id."""

    def __init__(self, studio: Studio, bundle: BundleWriter, only_student_id: int | None) -> None:
        self.studio, self.bundle, self.only = studio, bundle, only_student_id
        self.pieces: dict[int, int] = {}
        self.titles: dict[int, str] = {}
        self.studies: dict[int, int] = {}
        self.takes: dict[int, int] = {}
        self.counted: dict[str, int] = defaultdict(int)
        self.entries: dict[str, list[str]] = {"pieces": [], "students": [], "voice": []}

    @property
    def progress(self) -> tuple[int, int]:
        """How many of the pieces and takes are written, and how many there are, as far as that is known."""
        return self.counted["pieces"] + self.counted["takes"], len(self.pieces) + len(self.takes)

    def write(self) -> Document:
        self.bundle.text("README.txt", README)
        found = self._rows(facts.STUDIO)[0]
        studio = document_of(facts.STUDIO, found) if self.only is None else {"name": found["name"]}
        self.bundle.document("studio.json", {**studio, **({} if self.only else self._ways())})
        students = [self.only] if self.only else rows.alive_ids(self.studio.connection, self.studio.id, "student")
        studies = {student: self._read_studies(student) for student in students}
        if self.only is None:
            self._voice()
        practised = {study["piece_id"] for found in studies.values() for study, _ in found}
        for piece_id in rows.alive_ids(self.studio.connection, self.studio.id, "piece"):
            if self.only is None or piece_id in practised:
                self._piece(piece_id)
        kept = {
            student: [(row, document) for row, document in found if row["piece_id"] in self.pieces]
            for student, found in studies.items()
        }
        self._number_takes(kept)
        for student in students:
            self._student(student, kept[student])
        contents = {
            "format": FORMAT,
            "version": VERSION,
            "of": "studio" if self.only is None else "student",
            "studio": found["name"],
            "counted": dict(sorted(self.counted.items())),
            **self.entries,
        }
        self.bundle.document(CONTENTS, contents)
        return {key: contents[key] for key in ("of", "studio", "counted")}

    # -- rows ------------------------------------------------------------------------------------------------

    def _rows(self, moved: Moved, **belongs: int | list[int] | None) -> list[Row]:
        return rows.read_rows(self.studio.connection, self.studio.id, moved, **belongs)

    def _document(self, moved: Moved, row: Row) -> Document | None:
        """``None``: the row is damaged, and left out."""
        try:
            return document_of(moved, row)
        except BundleError:
            self.counted["damaged"] += 1
            return None

    def _documents(self, moved: Moved, **belongs: int | None) -> list[Document]:
        return self._kept(moved, self._rows(moved, **belongs))

    def _kept(self, moved: Moved, found: list[Row]) -> list[Document]:
        documents = (self._document(moved, row) for row in found)
        return [document for document in documents if document is not None]

    # -- the studio's own ------------------------------------------------------------------------------------

    def _ways(self) -> Document:
        counts = self._documents(facts.COUNT_CHOICE, piece_id=None)
        return {
            "counts": counts[0]["document"] if counts else None,
            "schools": self._documents(facts.SCHOOL_CHOICE),
        }

    def _voice(self) -> None:
        for row in self._rows(facts.VOICE_WORD):
            document = self._document(facts.VOICE_WORD, row)
            if document is None:
                continue
            name = f"voice/{len(self.entries['voice']) + 1:03} {plain_name(document['spoken'])}"
            self.bundle.document(f"{name}.json", {**document, "file": f"{name}.wav"})
            self.bundle.file(f"{name}.wav", [row["audio"]])
            self.entries["voice"].append(f"{name}.json")
            self.counted["words"] += 1

    # -- pieces ----------------------------------------------------------------------------------------------

    def _piece(self, piece_id: int) -> None:
        row = self._rows(facts.PIECE, id=piece_id)[0]
        document = self._document(facts.PIECE, row)
        if document is None:
            return
        self.pieces[piece_id] = number = len(self.pieces) + 1
        self.titles[piece_id] = document["title"]
        folder = f"pieces/{number:03} {plain_name(document['title'])}"
        counts = self._documents(facts.COUNT_CHOICE, piece_id=piece_id)
        document |= {
            "number": number,
            "file": f"{folder}/score{suffix_of(document['filename'])}",
            "counts": counts[0]["document"] if counts else None,
            # Whose the answers are is not known: they are the studio's.
            "answers": self._documents(facts.ANSWER, piece_id=piece_id) if self.only is None else [],
            **self._pencil(row),
        }
        self.bundle.document(f"{folder}/piece.json", document)
        self.bundle.file(document["file"], [row["original"]])
        self.entries["pieces"].append(f"{folder}/piece.json")
        self.counted["pieces"] += 1

    def _pencil(self, piece: Row) -> Document:
        numbers: dict[int, int] = {}
        versions = []
        for row in self._rows(facts.PENCIL_VERSION, piece_id=piece["id"]):
            document = self._document(facts.PENCIL_VERSION, row)
            if document is not None:
                numbers[row["id"]] = len(numbers) + 1
                versions.append({**document, "before": numbers.get(row["before_id"])})
        return {"pencil": versions, "pencil_holds": numbers.get(piece["pencil_version_id"])}

    # -- students --------------------------------------------------------------------------------------------

    def _read_studies(self, student_id: int) -> Studies:
        """Those that were given, or hold something: looking at a ladder leaves an empty one behind."""
        found = [(row, self._document(facts.STUDY, row)) for row in self._rows(facts.STUDY, student_id=student_id)]
        return [
            (row, document)
            for row, document in found
            if document is not None
            and (
                document["given_at"]
                or document["school"]
                or document["edits"]
                or rows.was_used(self.studio.connection, self.studio.id, row["id"])
            )
        ]

    def _number_takes(self, kept: dict[int, Studies]) -> None:
        """Studies student by student, takes in the order in which they came to the studio."""
        connection, studio_id = self.studio.connection, self.studio.id
        takes: list[int] = []
        for study, _ in (study for found in kept.values() for study in found):
            self.studies[study["id"]] = len(self.studies) + 1
            takes += rows.takes_of_study(connection, studio_id, study["id"])
        self.takes = {take_id: number for number, take_id in enumerate(sorted(takes), start=1)}

    def _student(self, student_id: int, studies: Studies) -> None:
        row = self._rows(facts.STUDENT, id=student_id)[0]
        document = self._document(facts.STUDENT, row)
        if document is None:
            return
        if self.only is not None:
            document["is_built_in"] = False  # in another studio it is one of many
        folder = f"students/{len(self.entries['students']) + 1:02} {plain_name(document['name'])}"
        consents = self._consents(student_id)
        written = list[_Written]()
        self.bundle.lines(f"{folder}/takes.jsonl", self._takes(folder, studies, consents, written))
        self.bundle.table(f"{folder}/takes.csv", COLUMNS, [one.cells for one in written])
        document |= {
            "takes": f"{folder}/takes.jsonl",
            "consents": list(consents.values()),
            "studies": [self._study(row, study) for row, study in studies],
        }
        self.bundle.document(f"{folder}/student.json", document)
        for take in written:
            self._apart(folder, take)
        self.entries["students"].append(f"{folder}/student.json")
        self.counted["students"] += 1

    def _consents(self, student_id: int) -> dict[int, Document]:
        found = self._rows(facts.CONSENT, student_id=student_id)
        for consent_id in rows.loose_consents(self.studio.connection, self.studio.id, student_id):
            found += self._rows(facts.CONSENT, id=consent_id)
        written = {row["id"]: self._document(facts.CONSENT, row) for row in sorted(found, key=lambda row: row["id"])}
        kept = [(key, document) for key, document in written.items() if document is not None]
        return {key: {**document, "number": number} for number, (key, document) in enumerate(kept, start=1)}

    def _study(self, row: Row, document: Document) -> Document:
        listenings = self._documents(facts.LISTENING, study_id=row["id"], deleted_at=None)
        self.counted["studies"] += 1
        return {
            **document,
            "number": self.studies[row["id"]],
            "piece": self.pieces[row["piece_id"]],
            "events": list(self._events(row["id"])),
            "rungs": self._documents(facts.RUNG_STATE, study_id=row["id"]),
            "listenings": [{**heard, "settings": self._settings(heard["settings"])} for heard in listenings],
        }

    def _events(self, study_id: int) -> Iterator[Document]:
        """What happened at rungs, but for what hangs on a take that is not here: it counts no more."""
        for row in self._rows(facts.RUNG_EVENT, study_id=study_id):
            document = self._document(facts.RUNG_EVENT, row)
            if document is not None and (row["take_id"] is None or row["take_id"] in self.takes):
                yield {**document, "take": self.takes.get(row["take_id"])}

    # -- takes -----------------------------------------------------------------------------------------------

    def _takes(
        self, folder: str, studies: Studies, consents: dict[int, Document], written: list[_Written]
    ) -> Iterator[Document]:
        """The takes of these studies, in order; each that is written goes into ``written``, too."""
        piece_of = {row["id"]: row["piece_id"] for row, _ in studies}
        ids = [one for study in piece_of for one in rows.takes_of_study(self.studio.connection, self.studio.id, study)]
        ids.sort()
        for first in range(0, len(ids), AT_ONCE):
            some = ids[first : first + AT_ONCE]
            hanging = {
                moved.table: self._by_take(moved, some) for moved in (facts.JUDGEMENT, facts.OVERRULE, facts.RECORDING)
            }
            for row in self._rows(facts.TAKE, id=some):
                take_id = row["id"]
                document = self._document(facts.TAKE, row)
                if document is None:
                    del self.takes[take_id]
                    continue
                judgements, overrules, recordings = (hanging[name].get(take_id, []) for name in hanging)
                recording_id, recording = self._recording(folder, take_id, recordings, consents)
                document |= {
                    "number": self.takes[take_id],
                    "study": self.studies[row["study_id"]],
                    "settings": self._settings(document["settings"]),
                    "judgements": self._kept(facts.JUDGEMENT, judgements),
                    "overrules": self._kept(facts.OVERRULE, overrules),
                    "recording": recording,
                }
                cells = self._cells(document, self.titles[piece_of[row["study_id"]]])
                sound = None if recording is None else recording["file"]
                written.append(_Written(take_id, cells, _is_of_keys(document["strikes"]), recording_id, sound))
                self.counted["takes"] += 1
                yield document

    def _by_take(self, moved: Moved, take_ids: list[int]) -> dict[int, list[Row]]:
        found: dict[int, list[Row]] = defaultdict(list)
        for row in self._rows(moved, take_id=take_ids):
            found[row["take_id"]].append(row)
        return found

    def _cells(self, take: Document, title: str) -> tuple[Any, ...]:
        newest = take["judgements"][-1] if take["judgements"] else {}
        said = next((one["status"] for one in reversed(take["overrules"]) if one["withdrawn_at"] is None), None)
        played = newest.get("median_bpm")
        settings = take["settings"] if isinstance(take["settings"], dict) else {}
        return (
            take["number"], take["created_at"], title, settings.get("measures"), take["activity"],
            take["assigned_bpm"], None if played is None else round(played, 1), said or newest.get("status"),
            take["note"],
        )  # fmt: skip

    def _settings(self, settings: Any) -> Any:
        """What was asked for, its study by number."""
        if not isinstance(settings, dict) or settings.get("study_id") is None:
            return settings
        return {**settings, "study_id": self.studies.get(settings["study_id"])}

    def _recording(
        self, folder: str, take_id: int, found: list[Row], consents: dict[int, Document]
    ) -> tuple[int | None, Document | None]:
        document = self._document(facts.RECORDING, found[0]) if found else None
        if document is None:
            return None, None
        consent = consents.get(found[0]["consent_id"])
        has_sound = document["dropped_at"] is None and consent is not None and consent["withdrawn_at"] is None
        name = f"{folder}/sound/{self.takes[take_id]:06}{suffix_of(document['filename'])}"
        number = None if consent is None else consent["number"]
        return found[0]["id"], {**document, "consent": number, "file": name if has_sound else None}

    def _apart(self, folder: str, take: _Written) -> None:
        """What was struck as MIDI, and the sound."""
        midi = _played(self._rows(facts.TAKE, id=take.id)[0]) if take.is_of_keys else None
        if midi is not None:
            self.bundle.file(f"{folder}/played/{self.takes[take.id]:06}.mid", [midi])
        if take.sound is not None and take.recording_id is not None:
            parts = recordings_db.chunks(self.studio.connection, self.studio.id, take.recording_id)
            self.bundle.file(take.sound, parts, is_packed=True)
            self.counted["recordings"] += 1


def _is_of_keys(strikes: Any) -> bool:
    return isinstance(strikes, dict) and "notes" in strikes


def _played(take: Row) -> bytes | None:
    """What was struck, where it can be read."""
    try:
        strikes = json.loads(take["strikes"] or "null")
        return write_midi_strikes(performance_of(strikes), 60 / take["assigned_bpm"])
    except (LapTickError, ValueError, TypeError, ZeroDivisionError, OverflowError, AttributeError):
        return None
