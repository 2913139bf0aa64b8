"""The simulated student: plays a task with human timing, and with chosen faults.

Never on a grid: a slow wander of the tempo, lengthening at the ends of lines, motor noise of each
strike (part of it shared by the hands), one hand slightly ahead. At a level's skill the figures lie in
the median at 60 % of that level's limits (checked in tests and reported in docs/checking.md). The same
seed gives the same take.

Faults are named and measured as in ``faults.py``.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from laptick.core.errors import OptionError
from laptick.core.evenness import HandStrike
from laptick.core.faults import Fault
from laptick.core.limits import LIMITS, Level
from laptick.core.performance import Performance, Source, Strike, Task
from laptick.core.ratios import Parts, beats_of, find_ratios
from laptick.core.score import Hand
from laptick.core.units import Quarters, Seconds

Floats = NDArray[np.float64]

#: Share of each limit at which the figures of a clean take lie in the median.
SKILL_SHARE = 0.60

#: Median of |normal| in standard deviations.
_MEDIAN_ABS = 0.6745


# -- playing ----------------------------------------------------------------------------------------


@dataclass
class _Draft:
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

    @property
    def beat_s(self) -> Seconds:
        return self.task.quarter_s * float(self.task.beat_quarters)

    def map_index(self, onset: float) -> int:
        return int(np.searchsorted(self.map_onsets, onset - 1e-9))


def simulate(
    task: Task,
    *,
    level: Level = Level.ELEMENTARY,
    seed: int = 0,
    faults: Sequence[Fault] = (),
    source: Source = Source.TAPS,
    lead_s: Seconds = 2.0,
) -> Performance:
    """One take of a task.

    ``lead_s`` is when the first instant of the passage falls on the click. Taps know it; a MIDI take
    does not.

    Raises:
        OptionError: a fault names a bar that is not in the passage.
    """
    rng = np.random.default_rng(seed)
    onsets = np.array([float(e.onset_quarters) for e in task.expected])
    map_onsets = np.unique(onsets)
    # A fault in drift or spread takes the place of the student's own drift or leading hand.
    kinds = {fault.kind for fault in faults}
    beat = _beat_map(task, level, rng, map_onsets, 0.0 if "drift" in kinds else 1.0)
    draft = _Draft(task, rng, onsets, map_onsets, beat, np.zeros(len(onsets)))
    draft.shift_s += _motor_noise(task, level, rng, onsets, 0.0 if "spread" in kinds else 1.0)
    for fault in faults:
        _APPLY[fault.kind](draft, fault)
    strikes = _strikes(draft, lead_s, source)
    bpm = task.assigned_bpm
    return Performance(
        source, tuple(strikes), lead_s if source is Source.TAPS else None, bpm if source is Source.TAPS else None
    )


def _beat_map(task: Task, level: Level, rng: np.random.Generator, map_onsets: Floats, drift_share: float) -> Floats:
    """Times of the written instants on a human beat: own tempo, a small drift, slow wander, ends of lines
    lengthened."""
    limits = LIMITS[level]
    length = max(1e-6, float(task.length_quarters))
    tempo = math.exp(rng.choice((-1, 1)) * SKILL_SHARE * limits.tempo_share * rng.uniform(0.7, 1.35) * 1.05)
    own_drift = rng.choice((-1, 1)) * SKILL_SHARE * limits.drift_share * rng.uniform(0.5, 1.3) * 1.15
    drift = drift_share * float(own_drift)
    step = float(task.beat_quarters) / 4
    grid = np.arange(0, length + 4 * step, step)
    wander = np.zeros(len(grid))
    kept = 0.985
    spread = 0.18 * limits.tempo_share * math.sqrt(1 - kept**2)
    for i in range(1, len(grid)):
        wander[i] = kept * wander[i - 1] + rng.normal(0, spread)
    rate = 1 / (tempo * np.exp(wander) * (1 + drift * (grid / length - 0.5)))
    for measure in task.measures:
        is_end = measure is task.measures[-1] or task.score.measures[measure.index + 1].line != measure.line
        if is_end:
            end = float(task.bar_start(measure) + measure.length_quarters)
            begin = end - float(measure.meter.beat_quarters)
            rate[(grid >= begin) & (grid < end)] *= 1.02
    times = np.concatenate([[0.0], np.cumsum(rate[:-1] * step)]) * task.quarter_s
    return np.interp(map_onsets, grid, times) + rng.normal(0, 0.1 * task.quarter_s * limits.tempo_share)


def _motor_noise(task: Task, level: Level, rng: np.random.Generator, onsets: Floats, lead_share: float) -> Floats:
    """Noise of each strike: as large as the interval beside it allows, part shared by the hands."""
    limits = LIMITS[level]
    apart = SKILL_SHARE * limits.hands_apart_ms / 1000
    ahead = rng.choice((-1, 1)) * rng.uniform(0.3, 0.7) * apart
    own_spread = math.sqrt(max(0.0, apart**2 - ahead**2)) / (_MEDIAN_ABS * math.sqrt(2))
    ahead *= lead_share
    shared: dict[float, float] = {}
    per_hand: dict[tuple[Hand | None, float], float] = {}
    result = np.zeros(len(onsets))
    by_hand: dict[Hand | None, Floats] = {
        hand: np.unique([float(e.onset_quarters) for e in task.expected if e.hand is hand])
        for hand in {e.hand for e in task.expected}
    }
    for i, expected in enumerate(task.expected):
        onset = float(expected.onset_quarters)
        line = by_hand[expected.hand]
        gaps = np.diff(line[max(0, int(np.searchsorted(line, onset)) - 1) :][:3])
        near_s = float(gaps.min()) * task.quarter_s if gaps.size else 4 * task.quarter_s
        interval_sd = SKILL_SHARE * limits.evenness(1000 * near_s) * near_s
        beat_spread = SKILL_SHARE * limits.spread_ms(1000 * float(task.beat_quarters) * task.quarter_s) / 1000
        total = min(interval_sd / math.sqrt(2), beat_spread) * 0.96
        own = min(own_spread, 0.7 * total)
        common = math.sqrt(max(0.0, total**2 - own**2))
        if onset not in shared:
            shared[onset] = float(rng.normal())
        key = (expected.hand, onset)
        if key not in per_hand:
            per_hand[key] = float(rng.normal())
        lead = {Hand.RIGHT: ahead / 2, Hand.LEFT: -ahead / 2}.get(expected.hand, 0.0) if expected.hand else 0.0
        result[i] = common * shared[onset] + own * per_hand[key] + lead
        if expected.pitch is not None:
            result[i] += float(rng.normal(0, 0.004))
    return result


def _strikes(draft: _Draft, lead_s: Seconds, source: Source) -> list[Strike]:
    _task, rng = draft.task, draft.rng
    times = draft.map_s[[draft.map_index(onset) for onset in draft.onsets]] + draft.shift_s
    played: list[tuple[float, int]] = []
    if draft.restart_at is not None:
        leave, back = draft.restart_at
        gap = draft.beat_s * float(rng.uniform(1.6, 2.6))
        moved = draft.map_s[leave] + gap - draft.map_s[back]
        for i, onset in enumerate(draft.onsets):
            index = draft.map_index(onset)
            if index < leave:
                played.append((float(times[i]), i))
            if index >= back:
                played.append((float(times[i] + moved), i))
    else:
        played = [(float(time), i) for i, time in enumerate(times)]
    strikes = [_strike(draft, i, lead_s + time, source) for time, i in played if i not in draft.left_out]
    strikes += _extra_strikes(draft, strikes, source)
    ordered = sorted((s for s in strikes), key=lambda s: s.played_s)
    early = -min(0.0, ordered[0].played_s if ordered else 0.0)
    return [
        replace(
            s,
            played_s=round(s.played_s + early, 6),
            released_s=None if s.released_s is None else round(s.released_s + early, 6),
        )
        for s in ordered
    ]


def _strike(draft: _Draft, index: int, played_s: Seconds, source: Source) -> Strike:
    expected, rng = draft.task.expected[index], draft.rng
    if source is Source.MIDI:
        pitch = expected.pitch if expected.pitch is not None else 60
        if index in draft.swapped:
            pitch = min(108, max(21, pitch + int(rng.choice((-2, -1, 1, 2)))))
        length = float(expected.until_next_quarters or Fraction(1, 2)) * draft.task.quarter_s
        velocity = int(np.clip(rng.normal(66, 7), 20, 120))
        return Strike(played_s, expected.hand, pitch, velocity, played_s + 0.92 * length)
    hand = expected.hand or Hand.RIGHT
    if index in draft.swapped:
        hand = Hand.LEFT if hand is Hand.RIGHT else Hand.RIGHT
    return Strike(played_s, hand)


def _extra_strikes(draft: _Draft, strikes: list[Strike], source: Source) -> list[Strike]:
    count = round(draft.extra_share * len(strikes))
    times = sorted(strike.played_s for strike in strikes)
    result = []
    for _ in range(count):
        at = int(draft.rng.integers(0, max(1, len(times) - 1)))
        gap = times[min(at + 1, len(times) - 1)] - times[at]
        model = strikes[int(draft.rng.integers(0, len(strikes)))]
        played_s = times[at] + gap * float(draft.rng.uniform(0.3, 0.7))
        released = None if model.released_s is None else played_s + 0.1
        pitch = None if model.pitch is None else int(np.clip(model.pitch + draft.rng.choice((-1, 1)), 21, 108))
        result.append(replace(model, played_s=played_s, released_s=released, pitch=pitch))
    return result


# -- faults -----------------------------------------------------------------------------------------


def short_runs(task: Task) -> list[tuple[float, float, float]]:
    """(start, landing, interval) of every run of at least two equal written intervals below a beat."""
    runs: list[tuple[float, float, float]] = []
    for hand in {e.hand for e in task.expected}:
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


def _rush_runs(draft: _Draft, fault: Fault) -> None:
    """Everything inside a run takes ``amount`` of its time; what follows comes that much earlier."""
    covered = [(start, end) for start, end, _ in short_runs(draft.task)]
    gaps = np.diff(draft.map_s)
    for i in range(len(gaps)):
        low, high = draft.map_onsets[i], draft.map_onsets[i + 1]
        inside = max((min(high, end) - max(low, start) for start, end in covered), default=0.0)
        if inside > 0:
            gaps[i] *= 1 - (1 - fault.amount) * inside / (high - low)
    draft.map_s[1:] = draft.map_s[0] + np.cumsum(gaps)


def _limp(draft: _Draft, fault: Fault) -> None:
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
        strikes = [HandStrike(hand, at, float(at), float(at), until, False) for at, until in line]
        for ratio in find_ratios(strikes, beats_of(task)):
            if ratio.written == written:
                unit = float(ratio.length_quarters) / sum(written)
                inner = [float(ratio.onset_quarters) + unit * sum(written[:i]) for i in range(1, len(written))]
                yield hand, inner, float(ratio.length_quarters)


def _bend(draft: _Draft, written: Parts, played: Sequence[float]) -> None:
    """The notes inside a figure move, its beginning and the note it lands on stay."""
    for hand, inner, length in list(_figures(draft.task, written)):
        for i, onset in enumerate(inner, start=1):
            share = sum(played[:i]) / sum(played) - sum(written[:i]) / sum(written)
            for index, expected in enumerate(draft.task.expected):
                if expected.hand is hand and abs(float(expected.onset_quarters) - onset) < 1e-9:
                    draft.shift_s[index] += share * length * draft.task.quarter_s


def _flatten_dots(draft: _Draft, fault: Fault) -> None:
    _bend(draft, (3, 1), (fault.amount, 1.0))


def _bend_triplets(draft: _Draft, fault: Fault) -> None:
    _bend(draft, (1, 1, 1), fault.parts or (fault.amount, 1.0, 1.0))


def _late_after_rest(draft: _Draft, fault: Fault) -> None:
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


def _spread(draft: _Draft, fault: Fault) -> None:
    for i, expected in enumerate(draft.task.expected):
        if expected.hand is Hand.LEFT:
            draft.shift_s[i] += fault.amount / 1000


def _find_measure(draft: _Draft, fault: Fault) -> float:
    for measure in draft.task.measures:
        if measure.number == fault.measure:
            return float(draft.task.bar_start(measure) + fault.offset_quarters)
    raise OptionError(f"the passage has no bar “{fault.measure}” for the fault “{fault.kind}”.", where="fault")


def _hesitate(draft: _Draft, fault: Fault) -> None:
    index = draft.map_index(_find_measure(draft, fault))
    draft.map_s[index:] += fault.amount * draft.beat_s


def _drift(draft: _Draft, fault: Fault) -> None:
    """The tempo changes evenly by ``amount`` percent from the first to the last bar."""
    gaps, span = np.diff(draft.map_s), draft.map_onsets[-1] - draft.map_onsets[0]
    middles = (draft.map_onsets[1:] + draft.map_onsets[:-1]) / 2 - draft.map_onsets[0]
    bars = max(1, len(draft.task.measures))
    reach = bars / max(1, bars - 1)  # from the middle of the first bar to the middle of the last
    share = 0.5 + reach * (middles / max(span, 1e-9) - 0.5)  # 0 in the first bar, 1 in the last
    gaps /= 1 + fault.amount / 100 * share
    draft.map_s[1:] = draft.map_s[0] + np.cumsum(gaps)


def _restart(draft: _Draft, fault: Fault) -> None:
    back = draft.map_index(_find_measure(draft, fault))
    if back >= len(draft.map_onsets) - 1:
        raise OptionError(f"bar “{fault.measure}” is too near the end to go back to it.", where="fault")
    measure = next(m for m in draft.task.measures if m.number == fault.measure)
    end = draft.map_index(float(draft.task.bar_start(measure) + measure.length_quarters))
    leave = min(len(draft.map_onsets) - 1, max(back + 2, end))
    draft.restart_at = (leave, back)


def _pick(draft: _Draft, fault: Fault) -> set[int]:
    count = round(fault.amount / 100 * len(draft.onsets))
    # The first two instants stay: a take that begins elsewhere is another fault.
    start = sum(draft.onsets <= draft.map_onsets[min(1, len(draft.map_onsets) - 1)])
    pool = np.arange(int(start), len(draft.onsets))
    return {int(i) for i in draft.rng.choice(pool, size=min(count, len(pool)), replace=False)}


def _miss(draft: _Draft, fault: Fault) -> None:
    draft.left_out |= _pick(draft, fault)


def _wrong(draft: _Draft, fault: Fault) -> None:
    draft.swapped |= _pick(draft, fault)


def _extra(draft: _Draft, fault: Fault) -> None:
    draft.extra_share += fault.amount / 100


def _jitter(draft: _Draft, fault: Fault) -> None:
    noise = {onset: draft.rng.normal(0, fault.amount / 1000) for onset in draft.map_onsets}
    draft.shift_s += np.array([noise[onset] for onset in draft.onsets])


_APPLY: dict[str, Callable[[_Draft, Fault], None]] = {
    "rush-runs": _rush_runs,
    "limp": _limp,
    "flatten-dots": _flatten_dots,
    "late-after-rest": _late_after_rest,
    "bend-triplets": _bend_triplets,
    "spread": _spread,
    "hesitate": _hesitate,
    "drift": _drift,
    "miss": _miss,
    "extra": _extra,
    "wrong": _wrong,
    "restart": _restart,
    "jitter": _jitter,
}
