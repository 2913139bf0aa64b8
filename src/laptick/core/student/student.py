"""The simulated student: plays a task with human timing, and with chosen faults.

Never on a grid: a slow wander of the tempo, phrases that breathe, a tempo that settles a little anew with each of
them, motor noise of each strike with heavy tails (part of it shared by the hands), one hand slightly ahead. At a
level's skill the figures lie in the median at 60 % of that level's limits (checked in tests and reported in
docs/checking.md); how phrases breathe is music and not skill, and the same at every level. The same seed gives the
same take.

Faults are named and measured as in ``faults.py``.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level
from laptick.core.base.units import Seconds
from laptick.core.measuring.limits import LIMITS, Limits
from laptick.core.measuring.long_notes import sounding_quarters
from laptick.core.score.score import HANDS, Hand
from laptick.core.student.faults import OF_KEY_UPS, Fault
from laptick.core.student.planting import TakeDraft, plant
from laptick.core.takes.performance import CLAP_KEY, Performance, Source, Strike
from laptick.core.takes.task import Task

Floats = NDArray[np.float64]

#: Share of each limit at which the figures of a clean take lie in the median.
SKILL_SHARE = 0.60

#: Median of |normal| in standard deviations.
_MEDIAN_ABS = 0.6745


# -- playing ----------------------------------------------------------------------------------------


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
        OptionError: a fault names a bar that is not in the passage, or needs key-ups and the source has none.
    """
    deaf = next((fault.kind for fault in faults if fault.kind in OF_KEY_UPS), None)
    if not source.knows.key_ups and deaf is not None:
        raise OptionError(
            f"taps have no key-up: “{deaf}” cannot be played.",
            where="fault",
            kept="Nothing was written.",
            todo="Let it play MIDI.",
        )
    rng = np.random.default_rng(seed)
    onsets = np.array([float(e.onset_quarters) for e in task.expected])
    map_onsets = np.unique(onsets)
    # A fault in drift or spread takes the place of the student's own drift or leading hand.
    kinds = {fault.kind for fault in faults}
    beat = _beat_map(task, level, rng, map_onsets, 0.0 if "drift" in kinds else 1.0)
    draft = TakeDraft(task, rng, onsets, map_onsets, beat, np.zeros(len(onsets)))
    draft.shift_s += _motor_noise(task, level, rng, onsets, 0.0 if "spread" in kinds else 1.0)
    for fault in faults:
        plant(draft, fault)
    strikes = strikes_of(draft, lead_s, source, level)
    bpm = task.assigned_bpm
    # A file of keys does not say when the click began; taps are taken down by what plays it.
    beside_click = source.knows.clock and not source.knows.pitch
    return Performance(source, tuple(strikes), lead_s if beside_click else None, bpm if beside_click else None)


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
    breathing = _breathing(task, limits, rng.spawn(1)[0], grid, wander)
    rate = breathing / (tempo * np.exp(_level(wander, grid)) * (1 + drift * (grid / length - 0.5)))
    rate = rate * np.diff(task.paces.due_of(np.append(grid, grid[-1] + step))) / step
    times = np.concatenate([[0.0], np.cumsum(rate[:-1] * step)]) * task.quarter_s
    return np.interp(map_onsets, grid, times) + rng.normal(0, 0.1 * task.quarter_s * limits.tempo_share)


#: Phrases of so many bars are so much broader (shares) over their last beats.
_PHRASE_BARS, _BROADER, _BROAD_BEATS = (2, 4), (0.05, 0.15), (0.5, 1.0)
#: With each phrase the tempo settles anew, by this share of its limit.
_SETTLES = 0.08


def _breathing(task: Task, limits: Limits, rng: np.random.Generator, grid: Floats, wander: Floats) -> Floats:
    """How much longer everything lasts by the phrases; the steps of tempo between them go into ``wander``."""
    breathing = np.ones(len(grid))
    bars, broader = int(rng.choice(_PHRASE_BARS)), float(rng.uniform(*_BROADER))
    beats = float(rng.choice(_BROAD_BEATS))
    if len(task.measures) < 2 * bars:
        return breathing
    for measure in task.measures[bars - 1 :: bars]:
        end = float(task.bar_start(measure) + measure.length_quarters)
        begin = end - beats * float(measure.meter.beat_quarters)
        breathing[(grid >= begin) & (grid < end)] *= 1 + broader
        wander[grid >= end] += rng.normal(0, _SETTLES * limits.tempo_share)
    level: Floats = breathing / breathing.mean()
    return level


def _level(wander: Floats, grid: Floats) -> Floats:
    """A wander without what it drifts on the whole: that is the student's own drift, and drawn by itself."""
    if len(grid) < 3:
        return wander
    fallen = np.polyfit(grid, wander, 1)
    level: Floats = wander - np.polyval(fallen, grid)
    return level


#: How heavy the tails of motor noise are: a normal value z is played as z (1 + tail · z²), the median kept.
_TAIL = 0.06


def _heavy(normal: float) -> float:
    return normal * (1 + _TAIL * normal * normal) / (1 + _TAIL * _MEDIAN_ABS * _MEDIAN_ABS)


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
            shared[onset] = _heavy(float(rng.normal()))
        key = (expected.hand, onset)
        if key not in per_hand:
            per_hand[key] = _heavy(float(rng.normal()))
        lead = {Hand.RIGHT: ahead / 2, Hand.LEFT: -ahead / 2}.get(expected.hand, 0.0) if expected.hand else 0.0
        result[i] = common * shared[onset] + own * per_hand[key] + lead
        if expected.pitch is not None:
            result[i] += float(rng.normal(0, 0.004))
    return result


def strikes_of(draft: TakeDraft, lead_s: Seconds, source: Source, level: Level) -> list[Strike]:
    """What is struck by a plan: the zero of its map at ``lead_s``, faults of strikes and key-ups carried out."""
    rng = draft.rng
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
    ends = _key_ups(draft, level) if source.knows.key_ups else np.zeros(len(times))
    strikes = [
        _strike(draft, i, lead_s + time, lead_s + max(time + 0.04, ends[i] + time - times[i]), source)
        for time, i in played
        if i not in draft.left_out
    ]
    strikes = _no_key_twice(strikes)
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


def _strike(draft: TakeDraft, index: int, played_s: Seconds, released_s: Seconds, source: Source) -> Strike:
    expected, rng = draft.task.expected[index], draft.rng
    if source.knows.pitch:
        pitch = expected.pitch if expected.pitch is not None else 60
        if index in draft.swapped and pitch != CLAP_KEY:
            pitch = min(108, max(21, pitch + int(rng.choice((-2, -1, 1, 2)))))
        velocity = int(np.clip(rng.normal(66, 7), 20, 120))
        return Strike(played_s, expected.hand, pitch, velocity, float(released_s))
    hand = expected.hand or Hand.RIGHT
    if index in draft.swapped:
        hand = Hand.LEFT if hand is Hand.RIGHT else Hand.RIGHT
    return Strike(played_s, hand)


#: Spread of a key-up round its own mean, as a share of the limit on key-ups; how much of a short note sounds.
_RELEASE_SPREAD, _SHORT_SOUNDS = 0.3, 0.92


def _key_ups(draft: TakeDraft, level: Level) -> Floats:
    """When every key is let go, as if all went on as planned: long notes a little early, before rests a little late,
    both by 60 % of the limit in the median."""
    task, rng = draft.task, draft.rng
    origin = task.measures[0].start_quarters
    written = sounding_quarters(task.score)
    limits, beat_ms = LIMITS[level], 1000 * draft.beat_s
    early_s = min(limits.cut_ms(beat_ms), 0.5 * beat_ms) / 1000
    late_s = limits.over_ms(beat_ms) / 1000
    strikes_of = {hand: sorted({e.onset_quarters for e in task.expected if e.hand is hand}) for hand in HANDS}
    times = draft.map_s[[draft.map_index(onset) for onset in draft.onsets]] + draft.shift_s
    ends = np.zeros(len(times))
    for i, expected in enumerate(task.expected):
        hand, onset = expected.hand, expected.onset_quarters
        length = written.get((hand, origin + onset, expected.pitch)) if hand else None
        length = length or expected.until_next_quarters or Fraction(1, 2)
        end = onset + length
        end_s = _on_map(draft, float(end)) + draft.shift_s[i]
        line = strikes_of[hand] if hand else []
        following = line[bisect_left(line, end)] if bisect_left(line, end) < len(line) else None
        rest = float(following - end) if following is not None else 0.0
        slower = 1 / task.paces.at(float(end))
        quarter_s = slower * task.quarter_s
        if rest > 0 and not (draft.cut_share and length >= task.beat_quarters):
            late = late_s * (SKILL_SHARE + _RELEASE_SPREAD * float(rng.normal()))
            late += draft.held_share * rest * quarter_s
            ends[i] = end_s + min(late, rest * quarter_s)
        elif length >= task.beat_quarters:
            early = slower * early_s * (SKILL_SHARE + _RELEASE_SPREAD * float(rng.normal()))
            ends[i] = end_s - early - draft.cut_share * float(length) * quarter_s
        else:
            ends[i] = times[i] + _SHORT_SOUNDS * (end_s - times[i])
    return ends


def _on_map(draft: TakeDraft, onset: float) -> Seconds:
    """When an instant falls on the student's beat, beyond the last strike too."""
    last = float(draft.map_onsets[-1])
    beyond = max(0.0, onset - last) * draft.task.quarter_s
    return float(np.interp(onset, draft.map_onsets, draft.map_s)) + beyond


def _no_key_twice(strikes: list[Strike]) -> list[Strike]:
    """A key is let go before it is struck again."""
    result: list[Strike] = []
    again: dict[int, Seconds] = {}
    for strike in sorted(strikes, key=lambda s: s.played_s, reverse=True):
        released_s, pitch = strike.released_s, strike.pitch
        if released_s is None or pitch is None:
            result.append(strike)
            continue
        before = again.get(pitch, math.inf) - 0.02
        again[pitch] = strike.played_s
        result.append(replace(strike, released_s=max(strike.played_s + 0.01, min(released_s, before))))
    return result[::-1]


def _extra_strikes(draft: TakeDraft, strikes: list[Strike], source: Source) -> list[Strike]:
    count = round(draft.extra_share * len(strikes))
    times = sorted(strike.played_s for strike in strikes)
    result = []
    for _ in range(count):
        at = int(draft.rng.integers(0, max(1, len(times) - 1)))
        gap = times[min(at + 1, len(times) - 1)] - times[at]
        model = strikes[int(draft.rng.integers(0, len(strikes)))]
        played_s = times[at] + gap * float(draft.rng.uniform(0.3, 0.7))
        released = None if model.released_s is None else played_s + 0.1
        pitch = model.pitch
        if pitch is not None and pitch != CLAP_KEY:
            pitch = int(np.clip(pitch + draft.rng.choice((-1, 1)), 21, 108))
        result.append(replace(model, played_s=played_s, released_s=released, pitch=pitch))
    return result
