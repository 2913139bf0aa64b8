"""Long notes: when the next strike comes, and how long they sound.

A long note lasts a beat or more, ties included. Two measures of it. *To the next strike*, in quarters of the student's
own beat; whether long notes are rushed is read from the gaps of a beat and more between all strikes, against the pace
of the shorter ones around them. *Sounded*: from strike to key-up, where the source knows key-ups and no pedal holds the
sound. Source: docs/trade.md 4.6 (common practice).
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from laptick.core.base.kept import Kept
from laptick.core.base.units import Quarters, Seconds
from laptick.core.following.own_beat import BeatFit
from laptick.core.measuring.evenness import HandStrike
from laptick.core.score.score import Hand, MarkKind, Score
from laptick.core.takes.task import Task
from laptick.core.together.sounds import sounds_of

#: Marks under which a note is meant to end before its written end.
SHORTENING = frozenset({"staccato", "staccatissimo", "spiccato", "detached-legato", "portato"})

#: The pace around a gap is taken from what is played within this many beats.
REFERENCE_BEATS = 10

#: … when there are so many shorter gaps, and together as long as this many beats.
ENOUGH_GAPS, ENOUGH_BEATS = 3, 2


@dataclass(frozen=True, slots=True)
class LongNote:
    """``to_next_quarters`` is ``None`` where a rest or a break follows; ``sounded_quarters`` where the key-up is not
    known or the pedal held the sound. ``before_rest``: silence follows; ``shortened``: written to be short;
    ``is_held``: its length matters (``_matters``)."""

    hand: Hand | None
    onset_quarters: Quarters
    written_quarters: Quarters
    to_next_quarters: float | None
    sounded_quarters: float | None
    before_rest: bool
    shortened: bool
    is_held: bool = False


#: (hand, onset) → the last key-up of what was struck there.
KeyUps = Mapping[tuple[Hand | None, Quarters], Seconds]


#: (hand, onset in the score, key) → quarters.
Sounding = Mapping[tuple[Hand, Quarters, int | None], Quarters]


def sounding_quarters(score: Score) -> Sounding:
    """How long each strike can sound as written, ties included: to the next strike of its key at most, whichever voice
    or hand it belongs to."""
    return SOUNDING.of(score, None, lambda: _sounding_quarters(score))


SOUNDING: Kept[Score, None, Sounding] = Kept()


def _sounding_quarters(score: Score) -> Sounding:
    sounds = sounds_of(score)
    struck: dict[int, list[int]] = {}
    for sound in sounds:
        if sound.pitch is not None:
            struck.setdefault(sound.pitch, []).append(sound.ticks)
    found: dict[tuple[Hand, Quarters, int | None], Quarters] = {}
    for sound in sounds:
        ticks = struck.get(sound.pitch, []) if sound.pitch is not None else []
        at = bisect_right(ticks, sound.ticks)
        end = min(sound.end_ticks, ticks[at]) if at < len(ticks) else sound.end_ticks
        # Of two voices in unison the longer one sounds.
        key, quarters = (sound.hand, sound.onset_quarters, sound.pitch), score.quarters_of(end - sound.ticks)
        found[key] = max(found.get(key, quarters), quarters)
    return found


def shortened_notes(task: Task) -> frozenset[tuple[Hand, Quarters]]:
    """The instants, from the passage's start, of notes written to be short."""
    marks = [m for m in task.score.marks if m.kind is MarkKind.ARTICULATION and m.text in SHORTENING]
    notes = {note.id: note for note in task.score.notes} if marks else {}
    origin = task.measures[0].start_quarters
    marked = (notes.get(mark.note_id or "") for mark in marks)
    return frozenset((note.hand, note.onset_quarters - origin) for note in marked if note is not None)


def slurred_spans(task: Task) -> list[tuple[Hand | None, Quarters, Quarters]]:
    """(hand, first and last instant) of every slur, from the passage's start: all but its last note are joined."""
    slurs = [mark for mark in task.score.marks if mark.kind is MarkKind.SLUR]
    notes = {note.id: note for note in task.score.notes} if slurs else {}
    origin = task.measures[0].start_quarters
    found = []
    for mark in slurs:
        if mark.end_quarters is not None:
            note = notes.get(mark.note_id or "")
            hand = note.hand if note is not None else mark.hand
            found.append((hand, mark.onset_quarters - origin, mark.end_quarters - origin))
    return found


#: So many notes of one beat in a row are a pulse, which a player may detach as she likes.
PULSE = 3


def _matters(
    task: Task,
    line: Sequence[HandStrike],
    index: int,
    length: Quarters,
    slurred: Sequence[tuple[Hand | None, Quarters, Quarters]],
) -> bool:
    """Is a long note's length more than touch: longer than a beat, under a slur, sounding while the same hand strikes
    others, or a note of one beat that is not one of a pulse?"""
    here = line[index]
    if length > task.beat_quarters or (
        index + 1 < len(line) and line[index + 1].onset_quarters < here.onset_quarters + length
    ):
        return True
    if any(hand is here.hand and start <= here.onset_quarters < end for hand, start, end in slurred):
        return True
    first = last = index
    while first > 0 and line[first - 1].until_next_quarters == length and index - first < PULSE:
        first -= 1
    while last + 1 < len(line) and line[last].until_next_quarters == length and last - index < PULSE:
        last += 1
    return last - first + 1 < PULSE


def longest_quarters(task: Task) -> Mapping[tuple[Hand | None, Quarters], Quarters]:
    """How long the longest note of every hand and instant (from the passage's start) can sound."""
    origin = task.measures[0].start_quarters

    def longest() -> Mapping[tuple[Hand | None, Quarters], Quarters]:
        found: dict[tuple[Hand | None, Quarters], Quarters] = {}
        for (hand, onset, _), quarters in sounding_quarters(task.score).items():
            key = (hand, onset - origin)
            found[key] = max(found.get(key, quarters), quarters)
        return found

    return LONGEST.of(task.score, origin, longest)


LONGEST: Kept[Score, Quarters, Mapping[tuple[Hand | None, Quarters], Quarters]] = Kept()


def find_long_notes(
    task: Task,
    lines: Sequence[Sequence[HandStrike]],
    fit: BeatFit,
    key_ups: KeyUps,
    pedal_down: Callable[[Seconds], bool],
) -> list[LongNote]:
    """Every long note that was struck, hand by hand; the longest of a chord."""
    written = longest_quarters(task)
    shortened = shortened_notes(task)
    slurred = slurred_spans(task)
    # A note ends where what follows is struck, or would be: who hurries on has not let it go early, nor has who struck
    # it early.
    struck = {round(event.onset_quarters, 6): event.played_s for event in fit.events}
    found = []
    beat = float(task.beat_quarters)
    for line in lines:
        following = [*line[1:], None] if line else []
        for index, (here, after) in enumerate(zip(line, following, strict=True)):
            key = (here.hand, here.onset_quarters)
            length = written.get(key)
            if here.hand is None or length is None or (quarters := float(length)) < beat:
                continue
            at = float(here.onset_quarters)
            quarter_s = fit.quarter_s_at(at)
            up_s = key_ups.get(key)
            end_s = min(here.expected_s, here.played_s) + quarters * quarter_s
            struck_s = struck.get(round(at + quarters, 6))
            if struck_s is not None:
                end_s = min(end_s, struck_s)
            known = up_s is not None and quarter_s > 0 and not pedal_down(up_s)
            found.append(
                LongNote(
                    here.hand,
                    here.onset_quarters,
                    length,
                    (after.played_s - here.played_s) / quarter_s
                    if after is not None and after.connected_quarters is not None and quarter_s > 0
                    else None,
                    quarters - (end_s - up_s) / quarter_s if known and up_s is not None else None,
                    here.until_next_quarters is None,
                    bool(shortened) and key in shortened,
                    _matters(task, line, index, length, slurred),
                )
            )
    return sorted(found, key=lambda note: (float(note.onset_quarters), note.hand or ""))


@dataclass(frozen=True, slots=True)
class LongGap:
    """A gap of a beat or more between neighbouring strikes: ``pace`` is how long it lasted over what it should last at
    the pace of the shorter gaps around it."""

    onset_quarters: float
    quarters: float
    seconds: Seconds
    pace: float


def long_gaps(task: Task, fit: BeatFit, left_out: Callable[[float, float], bool]) -> list[LongGap]:
    """All long gaps with enough shorter ones around them; ``left_out(from, to)`` where the beat may bend or wait."""
    beat = float(task.beat_quarters)
    stops = {stop.index for stop in fit.stops}
    events = fit.events
    gaps = [
        (events[i - 1].onset_quarters, events[i].onset_quarters, events[i].played_s - events[i - 1].played_s)
        for i in range(1, len(events))
        if i not in stops
        and events[i].segment == events[i - 1].segment
        and not left_out(events[i - 1].onset_quarters, events[i].onset_quarters)
    ]
    spans, paces = sounding_spans(task), task.paces
    short = [gap for gap in gaps if gap[1] - gap[0] < beat - 1e-9]
    middles = [(gap[0] + gap[1]) / 2 for gap in short]
    # Up to each short gap: quarters, seconds, and quarters that are due.
    so_far = [(0.0, 0.0, 0.0)]
    for start, end, seconds in short:
        quarters, lasted, due = so_far[-1]
        so_far.append((quarters + end - start, lasted + seconds, due + paces.due_between(start, end)))
    found = []
    for start, end, seconds in gaps:
        if end - start < beat - 1e-9 or seconds <= 0 or not sounds_through(spans, start, end):
            continue
        middle, reach = (start + end) / 2, REFERENCE_BEATS * beat
        first, last = bisect_left(middles, middle - reach), bisect_right(middles, middle + reach)
        quarters, lasted, due = (so_far[last][i] - so_far[first][i] for i in range(3))
        if last - first >= ENOUGH_GAPS and quarters >= ENOUGH_BEATS * beat - 1e-9:
            reference = lasted / due
            if reference > 0:
                found.append(LongGap(start, end - start, seconds, seconds / paces.due_between(start, end) / reference))
    return found


def sounding_spans(task: Task) -> list[tuple[float, float]]:
    """From where to where notes sound, in quarters of the passage, in order."""
    first = task.measures[0]

    def spans() -> list[tuple[float, float]]:
        return sorted(
            (float(onset - first.start_quarters), float(onset - first.start_quarters + quarters))
            for (_, onset, _), quarters in sounding_quarters(task.score).items()
        )

    return SPANS.of(task.score, first.index, spans)


#: Spans of sound by the bar that a passage begins with.
SPANS: Kept[Score, int, list[tuple[float, float]]] = Kept()


def sounds_through(spans: list[tuple[float, float]], start: float, end: float) -> bool:
    """Does a note struck at the start of the gap sound to its end? A rest is no long note."""
    index = bisect_right(spans, (start - 1e-9, 0.0))
    while index < len(spans) and spans[index][0] <= start + 1e-9:
        if spans[index][1] >= end - 1e-9:
            return True
        index += 1
    return False
