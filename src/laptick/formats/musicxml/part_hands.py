"""Which hand a note of a part belongs to: by its staff, its clef, its part, or the staff its voice is at home on.

Common practice, no source.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

from laptick.core.score.score import Hand
from laptick.formats.musicxml.raw import RawBar
from laptick.formats.musicxml.reader import PartReader

#: A voice that has at least this share of its notes on one staff is at home there.
HOME_SHARE = 0.75


def hand_of(readers: Sequence[PartReader], part_index: int, staff: int, chosen: Mapping[str, Hand]) -> Hand:
    reader = readers[part_index]
    named = chosen.get(f"{reader.part.get('id') or part_index + 1}:{staff}")
    if named is not None:
        return named
    if len(readers) > 1:
        return Hand.RIGHT if part_index == 0 else Hand.LEFT
    if reader.staves > 1:
        return Hand.RIGHT if staff == 1 else Hand.LEFT
    return Hand.LEFT if reader.first_clef == "F" else Hand.RIGHT


def homes_of(reader: PartReader) -> dict[str, int]:
    """The staff each voice is at home on, where it is at home on one."""
    if reader.staves < 2:
        return {}
    found: dict[str, Counter[int]] = {}
    for bar in reader.bars:
        for raw in bar.notes:
            if not raw.is_rest:
                found.setdefault(raw.voice, Counter())[raw.staff] += 1
    homes = {}
    for voice, staves in found.items():
        staff, times = staves.most_common(1)[0]
        if len(staves) > 1 and times >= HOME_SHARE * staves.total():
            homes[voice] = staff
    return homes


def voices_at_home(bar: RawBar, homes: dict[str, int]) -> dict[str, int]:
    """Voices of this bar that cross to the other staff and keep their hand. A voice number used on both
    staves at once is two voices."""
    crossing: dict[str, int] = {}
    for voice, home in homes.items():
        own = [raw for raw in bar.notes if raw.voice == voice and not raw.is_grace]
        away = [raw for raw in own if raw.staff != home]
        there = [raw for raw in own if raw.staff == home]
        overlap = any(
            a.offset < t.offset + t.duration
            and t.offset < a.offset + a.duration
            and not (a.offset == t.offset and (a.in_chord or t.in_chord))  # one chord over both staves
            for a in away
            for t in there
        )
        if away and not overlap:
            crossing[voice] = home
    return crossing
