"""What goes wrong in the second performer's takes: each fault by its code, at so many times its limit, and *where* – at
every place, at half of them, in one hand only, in the long runs only, in the bass only, from the middle on.

``plant`` changes a plan, and says whether the piece had room for the fault at all: at least three places for what
happens at a place, two runs, and amounts that fit into the note, the rest or the gap they are to change.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import TypeVar

import numpy as np

from laptick.core.score.score import Hand

from .player import Plan, Stretch

T = TypeVar("T")

EVERY, HALF, ONE_HAND, LONG_RUNS, BASS, FROM = "every", "half", "one hand", "long runs", "bass", "from a place on"


@dataclass(frozen=True)
class Fault:
    """``needs``: what of ``compose.STYLES`` has it; ``free``: the habit whose place it takes."""

    code: str
    words: str
    needs: str
    plant: Callable[[Plan, float, str], bool]
    wheres: tuple[str, ...] = (EVERY,)
    free: str = ""
    keys_only: bool = False


def some(plan: Plan, places: Sequence[T], where: str, at: Callable[[T], Fraction], least: int) -> list[T]:
    """Of the places those that the fault is at."""
    if where == HALF:
        count = len(places) // 2
        chosen = sorted(plan.rng.choice(len(places), size=count, replace=False)) if count else []
        places = [places[i] for i in chosen]
    elif where == FROM:
        middle = float(plan.task.length_quarters) * float(plan.rng.uniform(0.4, 0.6))
        places = [one for one in places if float(at(one)) >= middle]
    return list(places) if len(places) >= least else []


def _hand(plan: Plan, places: Sequence[T], of: Callable[[T], Hand | None], least: int) -> Hand | None:
    """A hand that has enough of them, by lot."""
    able = [h for h in plan.hands if sum(of(one) is h for one in places) >= least]
    return able[int(plan.rng.integers(len(able)))] if able else None


def _runs(plan: Plan, where: str, least_intervals: int = 2) -> list[Stretch]:
    runs = [run for run in plan.runs() if len(run.onsets) > least_intervals]
    if where == ONE_HAND:
        hand = _hand(plan, runs, lambda run: run.hand, 2)
        runs = [run for run in runs if run.hand is hand]
    if where == LONG_RUNS:
        runs = [run for run in runs if len(run.onsets) > 4]
    chosen = some(plan, runs, where, lambda run: run.onsets[0], 2)
    return chosen if sum(len(run.onsets) - 1 for run in chosen) >= 6 else []


def _wobble(plan: Plan) -> float:
    """No student repeats a fault exactly."""
    return float(plan.rng.uniform(0.75, 1.25))


def rush(plan: Plan, times: float, where: str) -> bool:
    """The runs go faster than the beat. Where one hand does it alone it lands before the other; else what comes after
    comes sooner; some wait at the end until the beat is there again."""
    runs = _runs(plan, where)
    waits = plan.rng.uniform() < 0.25 and where != ONE_HAND
    if waits:
        runs = [run for run in runs if len(run.onsets) > 4]
    pushed: set[Fraction] = set()
    for run in runs:
        share = min(0.5, times * plan.run_limit(run.interval) * _wobble(plan))
        interval_s = float(run.interval) * plan.quarter_s
        n = len(run.onsets) - 1
        if waits:
            for i in range(1, n):
                plan.move(run.hand, run.onsets[i], -i * share * interval_s)
        elif where == ONE_HAND:
            for i in range(1, n + 1):
                plan.move(run.hand, run.onsets[i], -i * share * interval_s)
        else:
            for i in range(n):
                if run.onsets[i] not in pushed:
                    pushed.add(run.onsets[i])
                    plan.push(run.onsets[i], -share * interval_s)
    return bool(runs)


def limp(plan: Plan, times: float, where: str) -> bool:
    runs = _runs(plan, where)
    pairs = 0
    for run in runs:
        share = min(0.7, times * plan.run_limit(run.interval))
        on_pair = (run.onsets[0] / (2 * run.interval)).denominator == 1
        for i in range(1, len(run.onsets) - 1):
            if (i % 2 == 1) == on_pair:
                pairs += 1
                plan.move(run.hand, run.onsets[i], share * _wobble(plan) * float(run.interval) * plan.quarter_s)
    return pairs >= 4


def _figures(plan: Plan, parts: tuple[int, ...], where: str) -> list[tuple[Hand | None, tuple[Fraction, ...]]]:
    """A beat (or two) of one hand filled by intervals in these proportions."""
    found = []
    for hand in plan.hands:
        line, ends = plan.line(hand), plan.ends(hand)
        for i in range(len(line) - len(parts)):
            strikes = line[i : i + len(parts) + 1]
            gaps = [b - a for a, b in itertools.pairwise(strikes)]
            unit = gaps[-1] / parts[-1]
            on_beat = (strikes[0] / plan.task.beat_quarters).denominator == 1
            fills = sum(gaps) == plan.task.beat_quarters
            joined = all(ends.get(a, a) >= b for a, b in itertools.pairwise(strikes))
            if on_beat and fills and joined and all(g == p * unit for g, p in zip(gaps, parts, strict=True)):
                found.append((hand, tuple(strikes)))
    if where == ONE_HAND:
        hand = _hand(plan, found, lambda one: one[0], 3)
        found = [one for one in found if one[0] is hand]
    return some(plan, found, where, lambda one: one[1][0], 3)


def bend(written: tuple[int, ...], *others: tuple[int, ...]) -> Callable[[Plan, float, str], bool]:
    """Part of the way to another figure, on the scale of ratios; its limit is the half."""

    def plant(plan: Plan, times: float, where: str) -> bool:
        other = others[int(plan.rng.integers(len(others)))]
        figures = _figures(plan, written, where)
        for hand, strikes in figures:
            way = 0.5 * times * float(plan.rng.uniform(0.9, 1.1))
            parts = [math.exp((1 - way) * math.log(w) + way * math.log(o)) for w, o in zip(written, other, strict=True)]
            whole = float(strikes[-1] - strikes[0]) * plan.quarter_s
            for i in range(1, len(written)):
                plan.move(hand, strikes[i], whole * (sum(parts[:i]) / sum(parts) - sum(written[:i]) / sum(written)))
        return bool(figures)

    return plant


def shorten_gaps(plan: Plan, times: float, where: str) -> bool:
    gaps = some(plan, plan.gaps(), where, lambda gap: gap[0], 6)
    for a, b in gaps:
        gap_s = float(b - a) * plan.quarter_s
        limit = plan.limits.evenness(1000 * gap_s) + 1.414 * plan.unsure_ms / 1000 / gap_s
        plan.push(a, -min(0.5, times * limit * _wobble(plan)) * gap_s)
    # What is long is long against something: enough short notes must be there.
    return bool(gaps) and len(plan.instants) - len(plan.gaps()) >= 8


def cut(plan: Plan, times: float, where: str) -> bool:
    beat = plan.task.beat_quarters
    longs = [
        (hand, onset, end)
        for hand in plan.hands
        for onset, end in plan.ends(hand).items()
        if end - onset >= beat and (hand, onset) in plan.cut_s
    ]
    if where == BASS:
        longs = [one for one in longs if one[0] is Hand.LEFT and one[2] - one[1] > beat]
    if where == ONE_HAND:
        hand = _hand(plan, longs, lambda one: one[0], 6)
        longs = [one for one in longs if one[0] is hand]
    chosen = some(plan, longs, where, lambda one: one[1], 6)
    amount_s = times * plan.limits.cut_ms(plan.beat_ms) / 1000
    for hand, onset, end in chosen:
        if amount_s > 0.85 * float(end - onset) * plan.quarter_s:
            return False
        plan.cut_s[hand, onset] = amount_s * (1 + 0.15 * float(plan.rng.normal()))
    return bool(chosen)


def hold_over(plan: Plan, times: float, where: str) -> bool:
    rests = plan.rests()
    if where == ONE_HAND:
        hand = _hand(plan, rests, lambda one: one[0], 3)
        rests = [one for one in rests if one[0] is hand]
    chosen = some(plan, rests, where, lambda one: one[1], 3)
    amount_s = times * plan.limits.over_ms(plan.beat_ms) / 1000
    for hand, onset, quiet, entry in chosen:
        if amount_s > 0.9 * float(entry - quiet) * plan.quarter_s:
            return False
        plan.over_s[hand, onset] = amount_s * (1 + 0.15 * float(plan.rng.normal()))
    return bool(chosen)


def enter_late(plan: Plan, times: float, where: str) -> bool:
    rests = plan.rests()
    if where == ONE_HAND:
        hand = _hand(plan, rests, lambda one: one[0], 3)
        rests = [one for one in rests if one[0] is hand]
    chosen = some(plan, rests, where, lambda one: one[3], 3)
    for hand, _, _, entry in chosen:
        plan.move(hand, entry, times * plan.off_limit_s * _wobble(plan))
    return bool(chosen)


def land_late(plan: Plan, times: float, where: str) -> bool:
    runs = plan.runs()
    if where == ONE_HAND:
        hand = _hand(plan, runs, lambda run: run.hand, 4)
        runs = [run for run in runs if run.hand is hand]
    chosen = some(plan, runs, where, lambda run: run.onsets[0], 4)
    for run in chosen:
        plan.move(run.hand, run.onsets[-1], times * plan.off_limit_s * _wobble(plan))
    return bool(chosen)


def begin_late(plan: Plan, times: float, where: str) -> bool:
    """The first note of a run late, made good note by note; the landing on time."""
    runs = [run for run in _runs(plan, where, 3) if len(run.onsets) > 4]
    amount_s = times * plan.off_limit_s
    for run in runs:
        n = len(run.onsets) - 1
        interval_s = float(run.interval) * plan.quarter_s
        if amount_s > 0.55 * n * interval_s:
            return False
        wobble = _wobble(plan)
        for i in range(n):
            plan.move(run.hand, run.onsets[i], amount_s * wobble * (1 - i / n))
    return len(runs) >= 3


def part_hands(plan: Plan, times: float, where: str) -> bool:
    both = set(plan.line(Hand.RIGHT)) & set(plan.line(Hand.LEFT))
    late = Hand.LEFT if plan.rng.uniform() < 0.6 else Hand.RIGHT
    amount_s = times * (plan.limits.hands_apart_ms + 1.414 * plan.unsure_ms) / 1000
    if where == EVERY:  # the hand is late throughout
        for onset in plan.line(late):
            plan.move(late, onset, amount_s)
    else:  # only where both strike
        for onset in both:
            plan.move(late, onset, amount_s * _wobble(plan))
    return len(both) >= 8


def stop(plan: Plan, times: float, where: str) -> bool:
    bar = plan.task.measures[int(plan.rng.integers(2, len(plan.task.measures) - 1))]
    at = plan.task.bar_start(bar)
    if at not in plan.instants:
        return False
    before = plan.instants[plan.instants.index(at) - 1]
    plan.push(before, times * plan.limits.hesitation_ms(plan.beat_ms) / 1000)
    return True


def drift(plan: Plan, times: float, where: str) -> bool:
    """A slope, or a step at a bar line between two and three fifths of the way."""
    change = times * plan.limits.drift_share * float(plan.rng.choice((-1, 1)))
    bars = [float(plan.task.bar_start(bar)) for bar in plan.task.measures]
    at = bars[round(len(bars) * float(plan.rng.uniform(0.4, 0.6)))]
    length = float(plan.task.length_quarters)
    # From first to last bar the change is to be what is asked: a bar less than the whole.
    whole = change * len(bars) / (len(bars) - 1)
    moved = np.zeros(len(plan.beat_s))
    for i in range(1, len(moved)):
        a, b = float(plan.instants[i - 1]), float(plan.instants[i])
        middle = (a + b) / 2
        faster = (change / 2 if middle >= at else -change / 2) if where == FROM else whole * (middle / length - 0.5)
        moved[i] = moved[i - 1] + (plan.beat_s[i] - plan.beat_s[i - 1]) / (1 + faster)
    plan.beat_s = moved
    return len(bars) >= 8


def other_tempo(plan: Plan, times: float, where: str) -> bool:
    plan.beat_s = plan.beat_s / (1 + times * plan.limits.tempo_share * float(plan.rng.choice((-1, 1))))
    return True


def unsteady(plan: Plan, times: float, where: str) -> bool:
    """Every instant so far from the beat."""
    spread_s = times * plan.off_limit_s
    for onset in plan.instants:
        shift = spread_s * float(np.clip(plan.rng.normal(), -2.2, 2.2))
        for hand in plan.hands:
            plan.move(hand, onset, shift)
    return len(plan.instants) >= 24


def _picked(plan: Plan, times: float) -> list[int]:
    count = math.ceil(times * plan.limits.slips_share * len(plan.task.expected))
    inner = [i for i, e in enumerate(plan.task.expected) if plan.instants[1] < e.onset_quarters < plan.instants[-1]]
    if count < 3 or count > len(inner) // 2:
        return []
    return [inner[i] for i in plan.rng.choice(len(inner), size=count, replace=False)]


def leave_out(plan: Plan, times: float, where: str) -> bool:
    plan.left_out |= set(_picked(plan, times))
    return bool(plan.left_out)


def other_keys(plan: Plan, times: float, where: str) -> bool:
    plan.other_key |= set(_picked(plan, times))
    return bool(plan.other_key)


def add_strikes(plan: Plan, times: float, where: str) -> bool:
    plan.added = len(_picked(plan, times))
    return plan.added > 0


def go_back(plan: Plan, times: float, where: str) -> bool:
    bars = plan.task.measures
    leave = int(plan.rng.integers(3, len(bars) - 1))
    to = leave - int(plan.rng.integers(1, 3))
    plan.back_from = (plan.task.bar_start(bars[leave]), plan.task.bar_start(bars[to]))
    return all(at in plan.instants for at in plan.back_from)


WIDE = (EVERY, ONE_HAND)
PART = (HALF, FROM)

FAULTS = (
    Fault("rushed-run", "short notes rushed", "runs", rush, (*WIDE, *PART), "runs"),
    Fault("rushed-run", "long runs rushed, short ones even", "long runs", rush, (LONG_RUNS,), "runs"),
    Fault("limping", "pairs limp", "runs", limp, (*WIDE, *PART), "limp"),
    Fault("dot-flattened", "dotted pairs towards 2:1", "dotted", bend((3, 1), (2, 1)), (EVERY, *PART)),
    Fault("triplet-bent", "triplets bent", "triplets", bend((1, 1, 1), (2, 1, 1), (1, 1, 2)), (EVERY, *PART)),
    Fault("duplet", "compound pairs towards 1:1", "compound", bend((2, 1), (1, 1)), (EVERY, *PART)),
    Fault("long-rushed", "long notes left too soon", "long", shorten_gaps, (EVERY, *PART), "long gaps"),
    Fault("long-cut", "long notes let go early", "holds", cut, (*WIDE, *PART), "cut", keys_only=True),
    Fault("long-cut", "the held bass let go early", "held bass", cut, (BASS,), "cut", keys_only=True),
    Fault("rest-run-over", "held on into rests", "rests", hold_over, (*WIDE, *PART), "over", keys_only=True),
    Fault("late-entry", "late after rests", "rests", enter_late, (*WIDE, *PART), "entries"),
    Fault("late-landing", "late after runs", "landings", land_late, (*WIDE, *PART), "landings"),
    Fault("late-then-compensated", "runs begun late, then hurried", "long runs", begin_late, (EVERY,), "runs"),
    Fault("hands-apart", "one hand late", "any", part_hands, (EVERY, "where both strike"), "apart"),
    Fault("hesitation", "a stop", "any", stop),
    Fault("drift", "the tempo moves", "any", drift, (EVERY, FROM), "drift"),
    Fault("off-tempo", "another tempo", "any", other_tempo, (EVERY,), "tempo"),
    Fault("uneven", "unsteady throughout", "any", unsteady, (EVERY,), "noise"),
    Fault("missing", "strikes left out", "any", leave_out),
    Fault("extra", "strikes too many", "any", add_strikes),
    Fault("wrong-notes", "other keys", "any", other_keys, keys_only=True),
    Fault("restart", "back to an earlier bar", "any", go_back),
)  # fmt: skip
