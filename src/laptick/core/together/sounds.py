"""Sounds: keys as they are struck and held, ties taken together.

A sound begins with a strike and ends where its note does, or the last note tied to it, or where the same hand strikes
the key again. Grace notes and the notes of ornaments are none: they belong to the strike they adorn. Source: common
practice, no source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from laptick.core.base.kept import Kept
from laptick.core.base.units import Quarters
from laptick.core.score.score import Hand, Note, Score


@dataclass(frozen=True, slots=True)
class Sound:
    """``pitch`` and ``name`` as of the written note (``None`` and empty without keys); quarters of the written piece;
    ``ticks`` and ``end_ticks`` the same as whole numbers (``Score.ticks_per_quarter``), for what compares many."""

    hand: Hand
    voice: str
    pitch: int | None
    name: str
    note_id: str
    measure_index: int
    onset_quarters: Quarters
    end_quarters: Quarters
    ticks: int
    end_ticks: int


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
    found = []
    for at, length, note in strikes:
        last, end = note, at + length
        while last.tied_onward and (next_one := ties.get((note.hand, note.pitch, note.name, end))) is not None:
            last, end = next_one[1], end + next_one[0]
        end_quarters = last.end_quarters
        struck = again.get((note.hand, note.pitch, at))
        if struck is not None and struck[0] < end:
            end, end_quarters = struck
        found.append(
            Sound(
                note.hand,
                note.voice,
                note.pitch,
                note.name,
                note.id,
                note.measure_index,
                note.onset_quarters,
                end_quarters,
                at,
                end,
            )
        )
    return sorted(found, key=lambda sound: (sound.ticks, sound.pitch or 0, sound.hand))


def _struck_again(strikes: Sequence[tuple[int, int, Note]]) -> dict[tuple[Hand, int | None, int], tuple[int, Quarters]]:
    """(hand, key, instant) → when that hand strikes the key next; nothing of notes without a key."""
    found: dict[tuple[Hand, int | None, int], tuple[int, Quarters]] = {}
    following: dict[tuple[Hand, int | None], tuple[int, Quarters]] = {}
    for at, _, note in sorted(strikes, key=lambda one: -one[0]):
        if note.pitch is None:
            continue
        key = (note.hand, note.pitch)
        if key in following and following[key][0] > at:
            found[note.hand, note.pitch, at] = following[key]
        following[key] = (at, note.onset_quarters)
    return found
