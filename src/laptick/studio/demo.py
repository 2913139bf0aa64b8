"""Demo data: short pieces composed for it, and takes of the simulated student."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from importlib import resources

from laptick.core.base.activity import Activity
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
from laptick.core.editing.entry import Entry, EntryBar, TypedEvent
from laptick.core.practice.ladder.tempo_steps import first_tempo
from laptick.core.score.meter import TimeSignature
from laptick.core.score.score import Hand, Score
from laptick.core.student.faults import parse_fault
from laptick.db import pieces as db
from laptick.formats.score_files import read_score
from laptick.studio.pieces.entry import new_passage
from laptick.studio.pieces.open_piece import Piece, open_piece
from laptick.studio.pieces.pencil import store
from laptick.studio.pieces.shelf import UNMARKED_BPM
from laptick.studio.takes.settings import HandChoice, TakeSettings
from laptick.studio.takes.takes import Played, Simulation, simulated, simulated_strikes, source_at, store_take
from laptick.studio.use_case import Studio, use_case


@dataclass(frozen=True)
class DemoTake:
    activity: Activity
    seed: int
    faults: tuple[str, ...] = ()
    hands: HandChoice = "both"


@dataclass(frozen=True)
class DemoPiece:
    """``key``: its file without the ending; ``pencil``: what the teacher wrote into it."""

    key: str
    level: Level
    takes: tuple[DemoTake, ...] = ()
    pencil: Callable[[Score], list[Change]] | None = None


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


DEMO: tuple[DemoPiece, ...] = (
    DemoPiece(
        "harbour-steps",
        Level.FIRST_YEAR,
        (
            DemoTake(Activity.COUNT, 11),
            DemoTake(Activity.COUNT, 12),
            DemoTake(Activity.COUNT, 13),
            DemoTake(Activity.LAP, 14, ("hesitate=5:1.2",)),
            DemoTake(Activity.LAP, 15, ("limp=1.8",)),
            DemoTake(Activity.PLAY, 16, hands="right"),
            DemoTake(Activity.PLAY, 18, hands="left"),
            DemoTake(Activity.PLAY, 17, ("cut-holds=50",)),
        ),
    ),
    DemoPiece(
        "kite-over-the-orchard",
        Level.ELEMENTARY,
        (
            DemoTake(Activity.COUNT, 21),
            DemoTake(Activity.LAP, 22, ("spread=110",)),
            DemoTake(Activity.PLAY, 23, ("hold-rests=70", "miss=4")),
        ),
        _pencilled,
    ),
    DemoPiece("lantern-boat", Level.FIRST_YEAR),
    DemoPiece("copper-kettle-parade", Level.INTERMEDIATE, (DemoTake(Activity.LAP, 41, ("rush-runs=0.72",)),)),
    DemoPiece("five-stones", Level.ELEMENTARY, (DemoTake(Activity.LAP, 51, ("hesitate=6:1.2",)),)),
)

#: The key of the passage that is typed.
PASSAGE_KEY = "thimble-waltz"


def _add_pencil(studio: Studio, piece_id: int, score: Score, changes: list[Change]) -> None:
    keyed = tuple(PencilChange(str(key), with_witness(change, score)) for key, change in enumerate(changes, 1))
    before: int | None = None
    for end in range(1, len(keyed) + 1):  # one version a change, as a hand would make them
        before = store(studio, piece_id, before, keyed[:end])


#: A passage as it might be typed in a lesson: bars of each hand, ``~`` for a tie.
THIMBLE = (
    "E5:1 G5:1 C6:1 | B5:1/2 A5:1/2 G5:1 E5:1 | F5:2 D5:1 | E5:3 | E5:1 G5:1 C6:1 | D6:1/3 C6:1/3 B5:1/3 A5:1 F5:1"
    " | D5:3~ | D5:3",
    "C3:1 E3+G3:1 E3+G3:1 | C3:1 E3+G3:1 E3+G3:1 | G2:1 B2+D3:1 B2+D3:1 | C3:1 E3+G3:1 E3+G3:1 | C3:1 E3+G3:1 E3+G3:1"
    " | F2:1 A2+C3:1 A2+C3:1 | G2:1 B2+D3:1 B2+D3:1 | G2:1 B2+D3:1 B2+D3:1",
)


def _typed(text: str) -> list[tuple[TypedEvent, ...]]:
    return [tuple(_event(word) for word in bar.split()) for bar in text.split("|")]


def _event(word: str) -> TypedEvent:
    names, _, length = word.rstrip("~").partition(":")
    return TypedEvent(Fraction(length), tuple(names.split("+")), is_tied=word.endswith("~"))


def demo_passage() -> Entry:
    """The passage that is typed."""
    bars = tuple(EntryBar(right, left) for right, left in zip(*map(_typed, THIMBLE), strict=True))
    return Entry("Thimble Waltz", TimeSignature(3, 4), bars, bpm=92.0)


@use_case
def add_demo(studio: Studio) -> int:
    """Adds the demo pieces that were never on the shelf; gives how many. A piece that the teacher took off the shelf
    stays off."""
    return _add(studio)


@use_case
def reset_demo(studio: Studio) -> int:
    """Makes the demo pieces and all that hangs on them anew; the teacher's own pieces are not touched."""
    db.delete_demo(studio.connection, studio.id)
    return _add(studio)


def _add(studio: Studio) -> int:
    known = db.demo_keys(studio.connection, studio.id)
    added = 0
    if PASSAGE_KEY not in known:
        db.add_piece(studio.connection, studio.id, new_passage(demo_passage(), demo_key=PASSAGE_KEY))
        added += 1
    for demo in DEMO:
        if demo.key not in known:
            _add_piece(studio, demo)
            added += 1
    return added


def _add_piece(studio: Studio, demo: DemoPiece) -> None:
    filename = f"{demo.key}.musicxml"
    original = (resources.files("laptick") / "demo" / filename).read_bytes()
    score = read_score(original, filename=filename)
    new = db.NewPiece(
        title=score.title,
        composer=score.composer,
        filename=filename,
        original=original,
        level=demo.level.value,
        target_bpm=default_bpm(score) or UNMARKED_BPM,
        demo_key=demo.key,
    )
    piece_id = db.add_piece(studio.connection, studio.id, new)
    if demo.pencil is not None:
        _add_pencil(studio, piece_id, score, demo.pencil(score))
    piece = open_piece(studio, piece_id)
    for take in demo.takes:
        _add_take(studio, piece, take)


def _add_take(studio: Studio, piece: Piece, take: DemoTake) -> None:
    wanted = TakeSettings(activity=take.activity, hands=take.hands, bpm=first_tempo(piece.target_bpm).bpm)
    how = Simulation(piece.level, take.seed, tuple(parse_fault(text) for text in take.faults))
    performance, seed = simulated(piece, wanted, how, source_at(take.activity))
    store_take(studio, piece, wanted, Played(simulated_strikes(performance, seed, how), "simulated"))
