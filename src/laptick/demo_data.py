"""Demo data: short pieces composed for it, and takes of the simulated student."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from importlib import resources
from typing import Any

from laptick.api.judging import judge, performance_of, task_of
from laptick.api.schemas.takes import KeptSettings
from laptick.api.views.takes import takes_of_one_hand
from laptick.core.base.levels import Level
from laptick.core.counting.counting import default_bpm
from laptick.core.editing.changes import (
    AddCue,
    AddDynamic,
    AddPhrase,
    Change,
    NoteRef,
    PencilChange,
    SetFingering,
    Spot,
    with_witness,
)
from laptick.core.editing.entry import Entry, EntryBar, Event, entry_score
from laptick.core.practice.ladder import start_bpm
from laptick.core.score.meter import TimeSignature
from laptick.core.score.roadmap import in_played_order
from laptick.core.score.score import Hand, Score
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source
from laptick.db.engine.connect import Connection
from laptick.db.pencil import add_version
from laptick.db.pieces import add_piece, demo_keys, get_piece
from laptick.db.takes import add_take, previous_codes
from laptick.formats.documents.entry import entry_document
from laptick.formats.documents.pencil import document_of
from laptick.formats.documents.take import stored_strikes
from laptick.formats.musicxml_writing.writer import write_musicxml
from laptick.formats.score_files import read_score

#: (file, level, takes): each take a rung (and a hand), faults, a seed.
DEMO: tuple[tuple[str, Level, tuple[tuple[str, tuple[str, ...], int], ...]], ...] = (
    (
        "harbour-steps",
        Level.FIRST_YEAR,
        (
            ("count", (), 11),
            ("count", (), 12),
            ("count", (), 13),
            ("lap", ("hesitate=5:1.2",), 14),
            ("lap", ("limp=1.8",), 15),
            ("play right", (), 16),
            ("play left", (), 18),
            ("play", ("cut-holds=50",), 17),
        ),
    ),
    (
        "kite-over-the-orchard",
        Level.ELEMENTARY,
        (("count", (), 21), ("lap", ("spread=110",), 22), ("play", ("hold-rests=70", "miss=4"), 23)),
    ),
    ("lantern-boat", Level.FIRST_YEAR, ()),
    ("copper-kettle-parade", Level.INTERMEDIATE, (("lap", ("rush-runs=0.72",), 41),)),
    ("five-stones", Level.ELEMENTARY, (("lap", ("hesitate=6:1.2",), 51),)),
)


def _note(score: Score, measure: str, hand: Hand = Hand.RIGHT, nth: int = 0) -> NoteRef:
    """A note of a hand in a bar, by its number from the front (or, negative, from the end)."""
    index = next(m.index for m in score.measures if m.number == measure)
    return NoteRef([note for note in score.notes_of_measure(index) if note.hand is hand][nth].id)


def _pencilled(score: Score) -> list[Change]:
    """What a teacher wrote into one of the pieces."""
    return [
        SetFingering(_note(score, "1"), ("3", "2")),
        AddPhrase(_note(score, "0"), _note(score, "4", nth=-1)),
        AddCue(Spot("6", Fraction(0)), "even three"),
        AddDynamic(Spot("0", Fraction(0)), "mp"),
    ]


#: Demo piece → the changes pencilled into it.
DEMO_PENCIL: dict[str, Callable[[Score], list[Change]]] = {"kite-over-the-orchard": _pencilled}


def _add_pencil(connection: Connection, studio_id: int, piece_id: int, score: Score, changes: list[Change]) -> None:
    keyed = [PencilChange(str(key), with_witness(change, score)) for key, change in enumerate(changes, 1)]
    before: int | None = None
    for end in range(1, len(keyed) + 1):  # one version a change, as a hand would make them
        add_version(connection, studio_id, piece_id, before, [document_of(one) for one in keyed[:end]])
        before = get_piece(connection, studio_id, piece_id)["pencil_version_id"]


#: A passage as it might be typed in a lesson: bars of each hand, ``~`` for a tie.
THIMBLE = (
    "E5:1 G5:1 C6:1 | B5:1/2 A5:1/2 G5:1 E5:1 | F5:2 D5:1 | E5:3 | E5:1 G5:1 C6:1 | D6:1/3 C6:1/3 B5:1/3 A5:1 F5:1"
    " | D5:3~ | D5:3",
    "C3:1 E3+G3:1 E3+G3:1 | C3:1 E3+G3:1 E3+G3:1 | G2:1 B2+D3:1 B2+D3:1 | C3:1 E3+G3:1 E3+G3:1 | C3:1 E3+G3:1 E3+G3:1"
    " | F2:1 A2+C3:1 A2+C3:1 | G2:1 B2+D3:1 B2+D3:1 | G2:1 B2+D3:1 B2+D3:1",
)


def _typed(text: str) -> list[tuple[Event, ...]]:
    return [tuple(_event(word) for word in bar.split()) for bar in text.split("|")]


def _event(word: str) -> Event:
    names, _, length = word.rstrip("~").partition(":")
    return Event(Fraction(length), tuple(names.split("+")), is_tied=word.endswith("~"))


def _add_passage(connection: Connection, studio_id: int) -> None:
    bars = tuple(EntryBar(right, left) for right, left in zip(*map(_typed, THIMBLE), strict=True))
    entry = Entry("Thimble Waltz", TimeSignature(3, 4), bars, bpm=92.0)
    add_piece(
        connection,
        studio_id,
        title=entry.title,
        composer="",
        filename="thimble-waltz.musicxml",
        original=write_musicxml(entry_score(entry)),
        level=Level.ELEMENTARY.value,
        target_bpm=92.0,
        demo_key="thimble-waltz",
        entry=entry_document(entry),
    )


def add_demo(connection: Connection, studio_id: int) -> int:
    """Adds the demo pieces that were never on the shelf; returns how many. A piece that the teacher took
    off the shelf stays off."""
    known = demo_keys(connection, studio_id)
    added = 0
    if "thimble-waltz" not in known:
        _add_passage(connection, studio_id)
        added += 1
    for name, level, takes in DEMO:
        if name in known:
            continue
        filename = f"{name}.musicxml"
        original = (resources.files("laptick") / "demo" / filename).read_bytes()
        score = read_score(original, filename=filename)
        target = default_bpm(score) or 72.0
        piece_id = add_piece(
            connection,
            studio_id,
            title=score.title,
            composer=score.composer,
            filename=filename,
            original=original,
            level=level.value,
            target_bpm=target,
            demo_key=name,
        )
        if name in DEMO_PENCIL:
            _add_pencil(connection, studio_id, piece_id, score, DEMO_PENCIL[name](score))
        laid_out = in_played_order(score)
        order = None if laid_out is score else [measure.number for measure in laid_out.measures]
        for what, faults, seed in takes:
            rung, _, hands = what.partition(" ")
            settings = KeptSettings.model_validate(
                {"rung": rung, "hands": hands or "both", "bpm": start_bpm(target), "order": order}
            )
            source = Source.MIDI if rung == "play" else Source.TAPS
            task = task_of(laid_out, settings, level.value, keys=source is Source.MIDI)
            planted = [parse_fault(text) for text in faults]
            played = simulate(task, level=level, seed=seed, faults=planted, source=source)
            strikes: dict[str, Any] = stored_strikes(played)
            strikes["simulated"] = {"seed": seed, "faults": list(faults)}
            previous = previous_codes(connection, studio_id, piece_id, settings.model_dump(mode="json"), None)
            alone = takes_of_one_hand(connection, studio_id, settings, piece_id, None)
            judged = judge(laid_out, settings, level, performance_of(strikes), previous, {}, alone)
            add_take(
                connection,
                studio_id,
                piece_id=piece_id,
                rung=rung,
                settings=settings.model_dump(mode="json"),
                assigned_bpm=settings.bpm,
                level=level.value,
                strikes=strikes,
                played_by="simulated",
                client_key=None,
                checker_version=judged.checker_version,
                status=judged.status,
                document=judged.document,
            )
        added += 1
    return added
