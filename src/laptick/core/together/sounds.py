"""Sounds: keys as they are struck and held, ties taken together.

A sound begins with a strike and ends where its note does, or the last note tied to it, or where the same hand strikes
the key again. Grace notes and the notes of ornaments are none: they belong to the strike they adorn. Source: common
practice, no source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from operator import itemgetter

from laptick.core.base.kept import Kept
from laptick.core.base.units import Quarters
from laptick.core.score.score import Hand, Note, Score


@dataclass(frozen=True, slots=True)
class Sound:
    """``pitch`` and ``name`` as of the written note (``None`` and empty without keys); quarters of the written piece;
    ``ticks`` and ``end_ticks`` the same as whole numbers (``ticks_per_quarter``), for what compares many."""

    hand: Hand
    voice: str
    pitch: int | None
    name: str
    note_id: str
    measure_index: int
    onset_quarters: Quarters
    ticks: int
    end_ticks: int
    ticks_per_quarter: int

    @property
    def end_quarters(self) -> Quarters:
        return Quarters(self.end_ticks, self.ticks_per_quarter)


def sounds_of(score: Score) -> tuple[Sound, ...]:
    """Every sound in written order, by onset, then key."""
    return SOUNDS.of(score, None, lambda: tuple(_sounds(score)))


SOUNDS: Kept[Score, None, tuple[Sound, ...]] = Kept()


def _sounds(score: Score) -> list[Sound]:
    timed = [one for one in score.notes_in_ticks if not one[2].is_grace]
    ties = {
        (note.hand, note.pitch, note.name, at): (length, note) for at, length, note in timed if note.tied_from_before
    }
    strikes = [(at, length, note) for at, length, note in timed if note.is_strike]
    again = _struck_again(strikes)
    a_quarter = score.ticks_per_quarter
    found = []
    for at, length, note in strikes:
        hand, pitch, name = note.hand, note.pitch, note.name
        last, end = note, at + length
        while last.tied_onward and (next_one := ties.get((hand, pitch, name, end))) is not None:
            last, end = next_one[1], end + next_one[0]
        end = min(end, again.get((hand, pitch, at), end))
        found.append(
            Sound(hand, note.voice, pitch, name, note.id, note.measure_index, note.onset_quarters, at, end, a_quarter)
        )
    return sorted(found, key=lambda sound: (sound.ticks, sound.pitch or 0, sound.hand))


def _struck_again(strikes: Sequence[tuple[int, int, Note]]) -> dict[tuple[Hand, int | None, int], int]:
    """(hand, key, instant) → when that hand strikes the key next; nothing of notes without a key."""
    found: dict[tuple[Hand, int | None, int], int] = {}
    following: dict[tuple[Hand, int | None], int] = {}
    for at, _, note in sorted(strikes, key=itemgetter(0), reverse=True):
        if note.pitch is None:
            continue
        key = (note.hand, note.pitch)
        after = following.get(key)
        if after is not None and after > at:
            found[note.hand, note.pitch, at] = after
        following[key] = at
    return found
