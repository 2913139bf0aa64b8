"""Shared by the tests: the demo pieces, small scores from one line a hand, and takes timed by hand."""

from __future__ import annotations

import random
import socket
from fractions import Fraction
from functools import cache
from importlib import resources

import compose_demo

from laptick.core.score.score import Score
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import Task
from laptick.formats.musicxml.file import read_musicxml

DEMO = ("harbour-steps", "kite-over-the-orchard", "lantern-boat", "copper-kettle-parade")

F = Fraction


def demo_bytes(name: str) -> bytes:
    return (resources.files("laptick") / "demo" / f"{name}.musicxml").read_bytes()


@cache
def demo_score(name: str) -> Score:
    return read_musicxml(demo_bytes(name), filename=f"{name}.musicxml")


def score_xml(right: str, left: str = "", *, time: tuple[int, int] = (4, 4), pickup: bool = False) -> bytes:
    """MusicXML of bars divided by ``|``, in the notation of tools/compose_demo.py; a hand left out rests."""
    rights = [bar.strip() for bar in right.split("|")]
    lefts = [bar.strip() for bar in left.split("|")] if left else [_rests(bar) for bar in rights]
    return compose_demo.write(
        {
            "title": "Test",
            "composer": "Nobody",
            "time": time,
            "fifths": 0,
            "line": 4,
            "tempo": ("quarter", False, 60, 60),
            "right": rights,
            "left": lefts,
            "pickup": pickup,
        }
    ).encode()


def score_of(right: str, left: str = "", *, time: tuple[int, int] = (4, 4), pickup: bool = False) -> Score:
    return read_musicxml(score_xml(right, left, time=time, pickup=pickup))


def _rests(bar: str) -> str:
    return " ".join("r/" + word.split("/")[1].rstrip("~") for word in bar.split())


def shown(counts: object) -> str:
    """Counts as one line: strike bare, hold in brackets, rest in square brackets."""
    marks = {"strike": "{}", "hold": "({})", "rest": "[{}]"}
    return " ".join(marks[c.kind.value].format(c.say) for c in counts)  # type: ignore[attr-defined]


#: Deviations in milliseconds written down by hand, as a steady player's might be: no generator, no grid.
HAND_WRITTEN_MS = (
    0, 9, -7, 4, -12, 15, 3, -9, 6, -4, 11, -14, 2, 8, -6, -11, 13, 5, -3, -8, 10, -2, 7, -13, 1, 12, -5, -10, 4, 9,
    -8, 6, -1,
)  # fmt: skip


def played_by_hand(
    task: Task,
    *,
    scale: float = 1.0,
    bpm: float | None = None,
    start_s: float = 2.0,
    shifts_ms: dict[int, float] | None = None,
    source: Source = Source.TAPS,
) -> Performance:
    """A take timed from ``HAND_WRITTEN_MS`` times ``scale``; ``shifts_ms`` moves single strikes further."""
    quarter_s = task.quarter_s if bpm is None else 60 / bpm / float(task.beat_quarters)
    strikes = []
    for index, expected in enumerate(task.expected):
        deviation_ms = HAND_WRITTEN_MS[index * 5 % len(HAND_WRITTEN_MS)] * scale
        deviation_ms += (shifts_ms or {}).get(index, 0.0)
        played_s = start_s + float(expected.onset_quarters) * quarter_s + deviation_ms / 1000
        hand = None if source is Source.MIDI else expected.hand
        strikes.append(Strike(played_s, hand, expected.pitch if source is Source.MIDI else None))
    ordered = tuple(sorted(strikes, key=lambda s: s.played_s))
    return Performance(source, ordered, start_s if source is Source.TAPS else None, None)


def music(score: Score):
    """What a score holds, without the names of notes and voices: those of a file are its own."""
    order = {note.id: index for index, note in enumerate(score.notes)}
    notes = sorted(
        (n.onset_quarters, n.is_grace, n.pitch or 0, n.name, n.hand, n.duration_quarters, n.tied_from_before,
         n.tied_onward, n.staff)
        for n in score.notes
    )  # fmt: skip
    rests = sorted((r.onset_quarters, r.hand, r.duration_quarters, r.staff) for r in score.rests)
    by_id = {note.id: note for note in score.notes}
    marks = sorted(
        (m.kind, m.onset_quarters, m.text, m.end_quarters or F(-1), m.hand or "",
         (by_id[m.note_id].name, by_id[m.note_id].onset_quarters) if m.note_id in order else ())
        for m in score.marks
    )  # fmt: skip
    return score.measures, notes, rests, marks, score.tempos


def assert_same_music(ours: Score, theirs: Score) -> None:
    for mine, others in zip(music(ours), music(theirs), strict=True):
        assert [x for x in mine if x not in others] == [x for x in others if x not in mine]
        assert mine == others


def free_port() -> int:
    """A port that nothing uses, nor the next one; below those that systems hand out to whoever connects somewhere."""
    while True:
        port = random.randrange(20_000, 32_000)
        try:
            with socket.socket() as one, socket.socket() as other:
                one.bind(("127.0.0.1", port))
                other.bind(("127.0.0.1", port + 1))
        except OSError:
            continue
        return port
