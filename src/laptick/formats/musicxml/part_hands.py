"""Which parts are read, and which hand a note of a part belongs to: by its staff, its clef, its part, or the staff its
voice is at home on.

Soprano and alto are the right hand's, tenor and bass the left's.

Common practice, no source.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lxml import etree

from laptick.core.score.score import Hand
from laptick.formats.musicxml.raw import RawBar, RawNote
from laptick.formats.musicxml.reader import PartReader

#: A voice that has at least this share of its notes on one staff is at home there.
HOME_SHARE = 0.75

#: Soprano, alto, tenor and bass; and of so many staves or parts, how many from the top are the right hand's (of any
#: other number, one).
FOUR_PARTS = 4
UPPER = {FOUR_PARTS: 2}

#: More parts than this are not read together.
MOST_PARTS = 8


def choose_parts(parts: list[etree._Element], wanted: tuple[str, ...]) -> list[etree._Element]:
    """The parts wanted, in that order; by rule the first part with notes on two staves, else the four of a score in
    four parts, else the first two that have notes."""
    by_id = {part.get("id") or "?": part for part in reversed(parts)}
    named = [by_id[name] for name in wanted if name in by_id]
    if named:
        return named[:MOST_PARTS]
    filled = [part for part in parts if _has_notes(part, "pitch")] or [part for part in parts if _has_notes(part)]
    with_staves = [part for part in filled if staves_of(part) > 1]
    return with_staves[:1] or filled[: FOUR_PARTS if len(filled) == FOUR_PARTS else 2] or parts[:1]


def _has_notes(part: etree._Element, kind: str = "*") -> bool:
    return any(note.find("rest") is None and note.find(kind) is not None for note in part.iterfind("measure/note"))


def staves_of(part: etree._Element) -> int:
    counts = [(s.text or "").strip() for s in part.iterfind("measure/attributes/staves")]
    return max((int(text) for text in counts if text.isdigit() and len(text) < 3), default=1)


def hand_of(readers: Sequence[PartReader], part_index: int, staff: int, chosen: Mapping[str, Hand]) -> Hand:
    """The hand of a staff: the teacher's (``chosen``, ``"P1:2"`` → hand), else by the rules."""
    reader = readers[part_index]
    named = chosen.get(f"{reader.part.get('id') or part_index + 1}:{staff}")
    if named is not None:
        return named
    if len(readers) > 1:
        return Hand.RIGHT if part_index < UPPER.get(len(readers), 1) else Hand.LEFT
    if reader.staves > 1:
        return Hand.RIGHT if staff <= UPPER.get(reader.staves, 1) else Hand.LEFT
    return Hand.LEFT if reader.first_clef == "F" else Hand.RIGHT


@dataclass(frozen=True)
class Voices:
    """``homes``: the staff each voice is at home on, where it is at home on one. ``per_staff``: voices whose number
    stands for another voice on each staff."""

    homes: dict[str, int]
    per_staff: frozenset[str]


def voices_of(reader: PartReader) -> Voices:
    if reader.staves < 2:
        return Voices({}, frozenset())
    found: dict[str, Counter[int]] = {}
    at_once: Counter[str] = Counter()
    in_turn: Counter[str] = Counter()
    for bar in reader.bars:
        own: dict[str, list[RawNote]] = {}
        for raw in bar.notes:
            own.setdefault(raw.voice, []).append(raw)
            if not raw.is_rest:
                found.setdefault(raw.voice, Counter())[raw.staff] += 1
        for voice, raws in own.items():
            if len({raw.staff for raw in raws}) > 1:
                (at_once if _overlap(raws, raws[0].staff) else in_turn)[voice] += 1
    # Files that number voices anew on each staff use a number on both at once in nearly every bar.
    per_staff = frozenset(voice for voice, bars in at_once.items() if bars >= in_turn[voice])
    homes = {}
    for voice, staves in found.items():
        staff, times = staves.most_common(1)[0]
        if voice not in per_staff and len(staves) > 1 and times >= HOME_SHARE * staves.total():
            homes[voice] = staff
    return Voices(homes, per_staff)


def _overlap(raws: Sequence[RawNote], staff: int) -> bool:
    """Whether a voice stands on ``staff`` and on another at the same time, but for one chord over both staves."""
    plain = [raw for raw in raws if not raw.is_grace]
    here = [raw for raw in plain if raw.staff == staff]
    return any(
        a.offset < t.offset + t.duration
        and t.offset < a.offset + a.duration
        and not (a.offset == t.offset and (a.in_chord or t.in_chord))
        for a in plain
        if a.staff != staff
        for t in here
    )


def voices_at_home(bar: RawBar, homes: dict[str, int]) -> dict[str, int]:
    """Voices of this bar that cross to the other staff and keep their hand. A voice number used on both
    staves at once is two voices."""
    crossing: dict[str, int] = {}
    for voice, home in homes.items():
        own = [raw for raw in bar.notes if raw.voice == voice and not raw.is_grace]
        if any(raw.staff != home for raw in own) and not _overlap(own, home):
            crossing[voice] = home
    return crossing
