"""A different passage than asked for: which part of the piece a take seems to be.

The take is followed once more over the whole piece, free to begin at any bar; what is found is believed only when the
bars it covers, taken as the task, can be followed and hold nearly all that was played. Bars that are much like those
asked for may be followed as those, with going back and notes too many: there what is found is believed only where it
leaves far less unexplained (common practice of whoever reads along, no source).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from laptick.core.following.matching import match
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.measured import CheckedTake
from laptick.core.score.score import Measure
from laptick.core.takes.performance import Performance, Source
from laptick.core.takes.task import Task

#: The share of what was played, and of what the bars ask for, that must be matched. Taps tell bars apart less well.
SHARES: dict[Source, float] = {Source.MIDI: 0.75, Source.AUDIO: 0.8, Source.TAPS: 0.88}

#: Fewer strikes than this tell nothing.
LEAST_STRIKES = 8

#: … and many times more than the whole piece has are no passage of it.
MOST_TIMES = 3

#: A take that can be followed as asked for is doubted where so much of it, and so many strikes, are wrong, too many or
#: missing; another passage explains it better with no more than this share of them.
DOUBTFUL_SHARE, DOUBTFUL_STRIKES, BETTER_SHARE = 0.1, 4, 0.5


@dataclass(frozen=True)
class Passage:
    """The bars, in played order, that a take seems to be."""

    measures: tuple[Measure, ...]

    @property
    def range(self) -> str:
        """The bars as they are asked for: by name, the first and the last of them in writing, for a passage with a
        repeat may end before the bar that it reached."""
        first, last = self._ends
        return first if first == last else f"{first}-{last}"

    @property
    def words(self) -> str:
        first, last = self._ends
        return f"bar {first}" if first == last else f"bars {first} to {last}"

    @property
    def _ends(self) -> tuple[str, str]:
        in_writing = sorted(self.measures, key=lambda measure: measure.written_place)
        return in_writing[0].number, in_writing[-1].number


def other_passage(checked: CheckedTake, whole: Callable[[], Task]) -> Passage | None:
    """Which other bars of the piece were played than those asked for, if any can be told.

    ``whole`` makes the same task over all bars of the score, asked for only where the take is doubtful.
    """
    if not checked.followed:
        found = _found(whole(), checked.performance)
        return found[0] if found else None
    astray = _astray(checked)
    if astray < max(DOUBTFUL_STRIKES, DOUBTFUL_SHARE * len(checked.performance.strikes)):
        return None
    found = _found(whole(), checked.performance)
    if found is None or _astray(found[1]) > BETTER_SHARE * astray:
        return None
    asked = {measure.written_place for measure in checked.task.measures}
    return None if {measure.written_place for measure in found[0].measures} <= asked else found[0]


def _astray(checked: CheckedTake) -> int:
    """How much of a take, as far as it goes, is not as written: wrong, too many, missing."""
    matching, expected = checked.matching, checked.task.expected
    missing = [i for i in matching.missing if float(expected[i].onset_quarters) <= matching.last_event_quarters]
    return len(matching.wrong) + len(matching.extra) + len(missing)


def find_passage(whole: Task, performance: Performance) -> Passage | None:
    """Which bars of the whole piece were played, if any can be told.

    ``whole``: the same hands over all bars of the score.
    """
    found = _found(whole, performance)
    return found[0] if found else None


def _found(whole: Task, performance: Performance) -> tuple[Passage, CheckedTake] | None:
    """A passage, and the take as that."""
    if not LEAST_STRIKES <= len(performance.strikes) <= MOST_TIMES * len(whole.expected):
        return None
    free = replace(performance, first_beat_s=None, click_bpm=None)
    matching = match(whole, free, anywhere=True)
    if not matching.matches:
        return None
    covered = [whole.expected[m.expected_index].measure_index for m in matching.matches]
    first, last = min(covered), max(covered)
    measures = tuple(m for m in whole.measures if first <= m.index <= last)
    part = part_of(whole, measures)
    checked = check_take(part, free)
    share = SHARES[performance.source]
    if not checked.followed or len(checked.matching.matches) < share * max(
        len(part.expected), len(performance.strikes) - len(checked.matching.repeats)
    ):
        return None
    return Passage(measures), checked


def part_of(whole: Task, measures: tuple[Measure, ...]) -> Task:
    """The same task over some of its bars."""
    start = whole.bar_start(measures[0])
    inside = {measure.index for measure in measures}
    expected = tuple(
        replace(e, onset_quarters=e.onset_quarters - start) for e in whole.expected if e.measure_index in inside
    )
    return replace(whole, measures=measures, expected=expected)
