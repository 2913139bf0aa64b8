"""Faults put into a take in the making: what the simulated student does to its plan.

Faults are named and measured as in ``faults.py``. A fault in pace or stops moves the time map of the beat; one of
single strikes moves them off it; one of key-ups is carried out when the keys are let go (``student.py``).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Quarters, Seconds
from laptick.core.measuring.evenness import HandStrike, connected
from laptick.core.measuring.long_notes import sounding_spans, sounds_through
from laptick.core.measuring.ratios import Parts, beats_of, find_ratios
from laptick.core.score.score import Hand
from laptick.core.student.faults import Fault
from laptick.core.takes.task import Task
from laptick.core.together.seams import seams_of

Floats = NDArray[np.float64]


@dataclass
class TakeDraft:
    """A take in the making: parallel lists over the task's strikes, plus the time map of the beat."""

    task: Task
    rng: np.random.Generator
    onsets: Floats
    map_onsets: Floats  # distinct instants
    map_s: Floats  # their times on the student's beat
    shift_s: Floats  # per strike, off that beat
    left_out: set[int] = field(default_factory=set)
    swapped: set[int] = field(default_factory=set)
    restart_at: tuple[int, int] | None = None  # (map index to leave at, map index to go back to)
    extra_share: float = 0.0
    cut_share: float = 0.0  # of the length of long notes
    held_share: float = 0.0  # of the length of the rest after a note

    @property
    def beat_s(self) -> Seconds:
        return self.task.quarter_s * float(self.task.beat_quarters)

    def map_index(self, onset: float) -> int:
        return int(np.searchsorted(self.map_onsets, onset - 1e-9))


def plant(draft: TakeDraft, fault: Fault) -> None:
    """Puts one fault into the take.

    Raises:
        OptionError: the fault names a bar that is not in the passage.
    """
    _APPLY[fault.kind](draft, fault)


def short_runs(task: Task, only: Hand | None = None) -> list[tuple[float, float, float]]:
    """(start, landing, interval) of every run of at least two equal written intervals below a beat. ``only``: of one
    hand."""
    runs: list[tuple[float, float, float]] = []
    for hand in {e.hand for e in task.expected if only is None or e.hand is only}:
        line = sorted(
            {(e.onset_quarters, e.until_next_quarters) for e in task.expected if e.hand is hand},
            key=lambda item: item[0],
        )
        start, count, length = Fraction(0), 0, None
        for onset, until_next in [*line, (Fraction(-1), None)]:
            if until_next is not None and until_next == length:
                count += 1
                continue
            if length is not None and count >= 2:
                runs.append((float(start), float(start + count * length), float(length)))
            start, count = onset, 1
            length = until_next if until_next is not None and until_next < task.beat_quarters else None
    return sorted(set(runs))


def _rush_runs(draft: TakeDraft, fault: Fault) -> None:
    """Everything inside a run takes ``amount`` of its time; what follows comes that much earlier."""
    covered = [(start, end) for start, end, _ in short_runs(draft.task)]
    gaps = np.diff(draft.map_s)
    for i in range(len(gaps)):
        low, high = draft.map_onsets[i], draft.map_onsets[i + 1]
        inside = max((min(high, end) - max(low, start) for start, end in covered), default=0.0)
        if inside > 0:
            gaps[i] *= 1 - (1 - fault.amount) * inside / (high - low)
    draft.map_s[1:] = draft.map_s[0] + np.cumsum(gaps)


def _limp(draft: TakeDraft, fault: Fault) -> None:
    """The second of each pair comes late, the pair keeps its time."""
    for start, end, length in short_runs(draft.task):
        pair = 2 * length
        late = (fault.amount / (1 + fault.amount) - 0.5) * pair * draft.task.quarter_s
        for _i, onset in enumerate(draft.map_onsets):
            is_second = abs((onset / pair) % 1 - 0.5) < 1e-6
            if start - 1e-9 <= onset < end - 1e-9 and is_second:
                draft.shift_s[np.abs(draft.onsets - onset) < 1e-9] += late


def _figures(task: Task, written: Parts) -> Iterator[tuple[Hand | None, list[float], float]]:
    """(hand, onsets after the first, whole length) of every figure of the task's hands, in quarters."""
    for hand in {e.hand for e in task.expected}:
        line = sorted(
            {(e.onset_quarters, e.until_next_quarters) for e in task.expected if e.hand is hand}, key=lambda one: one[0]
        )
        strikes: list[HandStrike] = []
        for at, until in line:
            follows = connected(strikes[-1], at) if strikes else None
            strikes.append(HandStrike(hand, at, float(at), float(at), until, False, follows))
        for ratio in find_ratios(strikes, beats_of(task)):
            if ratio.written == written:
                unit = float(ratio.length_quarters) / sum(written)
                inner = [float(ratio.onset_quarters) + unit * sum(written[:i]) for i in range(1, len(written))]
                yield hand, inner, float(ratio.length_quarters)


def _bend(draft: TakeDraft, written: Parts, played: Sequence[float]) -> None:
    """The notes inside a figure move, its beginning and the note it lands on stay."""
    for hand, inner, length in list(_figures(draft.task, written)):
        for i, onset in enumerate(inner, start=1):
            share = sum(played[:i]) / sum(played) - sum(written[:i]) / sum(written)
            for index, expected in enumerate(draft.task.expected):
                if expected.hand is hand and abs(float(expected.onset_quarters) - onset) < 1e-9:
                    draft.shift_s[index] += share * length * draft.task.quarter_s


def _flatten_dots(draft: TakeDraft, fault: Fault) -> None:
    _bend(draft, (3, 1), (fault.amount, 1.0))


def _bend_triplets(draft: TakeDraft, fault: Fault) -> None:
    _bend(draft, (1, 1, 1), fault.parts or (fault.amount, 1.0, 1.0))


def _late_then_hurry(draft: TakeDraft, fault: Fault) -> None:
    """A run begins late and makes it up note by note; what it lands on is on time."""
    for hand in {e.hand for e in draft.task.expected}:
        for start, end, length in short_runs(draft.task, hand):
            if end - start < 3 * length - 1e-9:
                continue
            for index, expected in enumerate(draft.task.expected):
                onset = float(expected.onset_quarters)
                if expected.hand is hand and start - 1e-9 <= onset < end - 1e-9:
                    draft.shift_s[index] += fault.amount / 1000 * (end - onset) / (end - start)


def _short_quarters(draft: TakeDraft, fault: Fault) -> None:
    """What follows a long note comes early, and everything after it that much."""
    spans = sounding_spans(draft.task)
    gaps, beat = np.diff(draft.map_s), float(draft.task.beat_quarters)
    for i in range(len(gaps)):
        low, high = float(draft.map_onsets[i]), float(draft.map_onsets[i + 1])
        if high - low >= beat - 1e-9 and sounds_through(spans, low, high):
            gaps[i] *= 1 - fault.amount / 100
    draft.map_s[1:] = draft.map_s[0] + np.cumsum(gaps)


def _cut_holds(draft: TakeDraft, fault: Fault) -> None:
    draft.cut_share += fault.amount / 100


def _hold_rests(draft: TakeDraft, fault: Fault) -> None:
    draft.held_share += fault.amount / 100


def _late_after_rest(draft: TakeDraft, fault: Fault) -> None:
    """A hand's first strike after a written silence comes late; what follows is on time."""
    before: dict[Hand | None, tuple[Quarters, Quarters | None]] = {}  # the last instant struck, and how it went on
    entering: set[tuple[Hand | None, Quarters]] = set()
    for index, expected in enumerate(draft.task.expected):
        onset, hand = expected.onset_quarters, expected.hand
        if hand in before and before[hand][0] < onset and before[hand][1] is None:
            entering.add((hand, onset))
        before[hand] = (onset, expected.until_next_quarters)
        if (hand, onset) in entering:
            draft.shift_s[index] += fault.amount / 1000


def _spread(draft: TakeDraft, fault: Fault) -> None:
    for i, expected in enumerate(draft.task.expected):
        if expected.hand is Hand.LEFT:
            draft.shift_s[i] += fault.amount / 1000


def _find_measure(draft: TakeDraft, fault: Fault) -> float:
    for measure in draft.task.measures:
        if measure.number == fault.measure:
            return float(draft.task.bar_start(measure) + fault.offset_quarters)
    raise OptionError(f"the passage has no bar “{fault.measure}” for the fault “{fault.kind}”.", where="fault")


def _hesitate(draft: TakeDraft, fault: Fault) -> None:
    index = draft.map_index(_find_measure(draft, fault))
    draft.map_s[index:] += fault.amount * draft.beat_s


def _stop_at_seams(draft: TakeDraft, fault: Fault) -> None:
    """The harder it is to go on, the likelier a stop before it, and the longer: at the hardest seam of the passage
    always, and by ``amount`` beats."""
    seams: dict[float, float] = {}
    origin = draft.task.measures[0].start_quarters
    for seam in seams_of(draft.task.score):
        at = float(draft.task.score.measures[seam.to.measure_index].start_quarters + seam.to.offset_quarters - origin)
        if draft.map_onsets[0] < at <= draft.map_onsets[-1] + 1e-9:
            seams[at] = max(seams.get(at, 0.0), seam.points)
    hardest = max(seams.values(), default=0.0)
    if not hardest:
        raise OptionError(f"the passage has no seam for the fault “{fault.kind}”.", where="fault")
    for at in sorted(seams):
        share = seams[at] / hardest
        if draft.rng.uniform() < share**2:
            draft.map_s[draft.map_index(at) :] += share * fault.amount * draft.beat_s


def _drift(draft: TakeDraft, fault: Fault) -> None:
    """The tempo changes evenly by ``amount`` percent from the first to the last bar."""
    gaps, span = np.diff(draft.map_s), draft.map_onsets[-1] - draft.map_onsets[0]
    middles = (draft.map_onsets[1:] + draft.map_onsets[:-1]) / 2 - draft.map_onsets[0]
    bars = max(1, len(draft.task.measures))
    reach = bars / max(1, bars - 1)  # from the middle of the first bar to the middle of the last
    share = 0.5 + reach * (middles / max(span, 1e-9) - 0.5)  # 0 in the first bar, 1 in the last
    gaps /= 1 + fault.amount / 100 * share
    draft.map_s[1:] = draft.map_s[0] + np.cumsum(gaps)


def _restart(draft: TakeDraft, fault: Fault) -> None:
    back = draft.map_index(_find_measure(draft, fault))
    if back >= len(draft.map_onsets) - 1:
        raise OptionError(f"bar “{fault.measure}” is too near the end to go back to it.", where="fault")
    measure = next(m for m in draft.task.measures if m.number == fault.measure)
    end = draft.map_index(float(draft.task.bar_start(measure) + measure.length_quarters))
    leave = min(len(draft.map_onsets) - 1, max(back + 2, end))
    draft.restart_at = (leave, back)


def _pick(draft: TakeDraft, fault: Fault) -> set[int]:
    count = round(fault.amount / 100 * len(draft.onsets))
    # The first two instants stay: a take that begins elsewhere is another fault.
    start = sum(draft.onsets <= draft.map_onsets[min(1, len(draft.map_onsets) - 1)])
    pool = np.arange(int(start), len(draft.onsets))
    return {int(i) for i in draft.rng.choice(pool, size=min(count, len(pool)), replace=False)}


def _miss(draft: TakeDraft, fault: Fault) -> None:
    draft.left_out |= _pick(draft, fault)


def _wrong(draft: TakeDraft, fault: Fault) -> None:
    draft.swapped |= _pick(draft, fault)


def _extra(draft: TakeDraft, fault: Fault) -> None:
    draft.extra_share += fault.amount / 100


def _jitter(draft: TakeDraft, fault: Fault) -> None:
    noise = {onset: draft.rng.normal(0, fault.amount / 1000) for onset in draft.map_onsets}
    draft.shift_s += np.array([noise[onset] for onset in draft.onsets])


_APPLY: dict[str, Callable[[TakeDraft, Fault], None]] = {
    "rush-runs": _rush_runs,
    "limp": _limp,
    "flatten-dots": _flatten_dots,
    "late-then-hurry": _late_then_hurry,
    "short-quarters": _short_quarters,
    "cut-holds": _cut_holds,
    "hold-rests": _hold_rests,
    "late-after-rest": _late_after_rest,
    "bend-triplets": _bend_triplets,
    "spread": _spread,
    "hesitate": _hesitate,
    "stop-at-seams": _stop_at_seams,
    "drift": _drift,
    "miss": _miss,
    "extra": _extra,
    "wrong": _wrong,
    "restart": _restart,
    "jitter": _jitter,
}
