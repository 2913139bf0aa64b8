"""How the second performer plays: a tempo that wanders, phrases that breathe, heavy tails, habits of each hand.

``share`` is where its habits lie: every one is drawn up to that share of its limit, and one of them, drawn by lot, is
at it. Phrase shapes (ends 5–15 % broader, an arch, a stressed first beat) are music, not skill: they do not scale with
the level. From memory: motor noise has heavier tails than a normal; hands share some of it; the melody leads a little.
"""

from __future__ import annotations

import math
from bisect import bisect_left, bisect_right
from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from laptick.core.measuring.limits import Limits
from laptick.core.score.score import Hand, MarkKind
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import Task

Floats = NDArray[np.float64]
Place = tuple[Hand | None, Fraction]
T = TypeVar("T")

#: What may be a habit: up to its share of the limit in every take.
HABITS = ("tempo", "drift", "entries", "landings", "runs", "limp", "long gaps", "cut", "over", "apart", "noise")


@dataclass(frozen=True)
class Stretch:
    """Equal short intervals of one hand: where its strikes fall, the landing last."""

    hand: Hand | None
    onsets: tuple[Fraction, ...]
    interval: Fraction


@dataclass
class Plan:
    """A take in the making. ``instants`` → ``beat_s`` is the time both hands share; ``moved_s`` is each hand's own
    place; ``up_s`` when each expected strike is let go, against what its end would be."""

    task: Task
    limits: Limits
    source: Source
    rng: np.random.Generator
    share: float
    instants: list[Fraction]
    beat_s: Floats
    moved_s: dict[Place, float] = field(default_factory=dict)
    cut_s: dict[Place, float] = field(default_factory=dict)
    over_s: dict[Place, float] = field(default_factory=dict)
    left_out: set[int] = field(default_factory=set)
    other_key: set[int] = field(default_factory=set)
    added: int = 0
    back_from: tuple[Fraction, Fraction] | None = None
    _kept: dict[object, object] = field(default_factory=dict)

    # -- the score, as a player sees it -------------------------------------------------------------
    @property
    def quarter_s(self) -> float:
        return self.task.quarter_s

    @property
    def beat_ms(self) -> float:
        return 1000 * float(self.task.beat_quarters) * self.quarter_s

    @property
    def unsure_ms(self) -> float:
        return self.source.knows.uncertainty_ms

    def kept(self, key: object, make: Callable[[], T]) -> T:
        if key not in self._kept:
            self._kept[key] = make()
        return self._kept[key]  # type: ignore[return-value]

    def line(self, hand: Hand | None) -> list[Fraction]:
        return self.kept(
            ("line", hand), lambda: sorted({e.onset_quarters for e in self.task.expected if e.hand is hand})
        )

    @property
    def hands(self) -> list[Hand | None]:
        return sorted({e.hand for e in self.task.expected}, key=str)

    def ends(self, hand: Hand | None) -> dict[Fraction, Fraction]:
        """Onset → when the longest note struck there ends by its written length."""
        return self.kept(("ends", hand), lambda: self._ends(hand))

    def _ends(self, hand: Hand | None) -> dict[Fraction, Fraction]:
        origin = self.task.measures[0].start_quarters
        found: dict[Fraction, Fraction] = {}
        for note in self.task.score.notes:
            if note.hand is hand:
                at = note.onset_quarters - origin
                found[at] = max(found.get(at, at), at + note.duration_quarters)
        return found

    def runs(self) -> list[Stretch]:
        """Equal intervals shorter than a beat, two or more, without silence between."""
        return self.kept("runs", self._runs)

    def _runs(self) -> list[Stretch]:
        limit = self.task.beat_quarters
        found = []
        for hand in self.hands:
            line, ends = self.line(hand), self.ends(hand)
            begin = 0
            for i in range(1, len(line) + 1):
                gap = line[i] - line[i - 1] if i < len(line) else None
                first = line[begin + 1] - line[begin] if begin + 1 < len(line) else None
                if gap == first and gap is not None and ends.get(line[i - 1], line[i - 1]) >= line[i]:
                    continue
                if i - begin >= 3 and first is not None and first < limit:
                    found.append(Stretch(hand, tuple(line[begin:i]), first))
                begin = i - 1
                if gap is not None and ends.get(line[i - 1], line[i - 1]) < line[i]:
                    begin = i
        return found

    def rests(self) -> list[tuple[Hand | None, Fraction, Fraction, Fraction]]:
        """(hand, strike before, where silence begins, entry after it)."""
        return self.kept("rests", self._rests)

    def _rests(self) -> list[tuple[Hand | None, Fraction, Fraction, Fraction]]:
        found = []
        for hand in self.hands:
            line, ends = self.line(hand), self.ends(hand)
            quiet = Fraction(0)
            for i, onset in enumerate(line[:-1]):
                quiet = max(quiet, ends.get(onset, onset))
                if quiet < line[i + 1]:
                    found.append((hand, onset, quiet, line[i + 1]))
        return found

    def gaps(self) -> list[tuple[Fraction, Fraction]]:
        """Neighbouring instants of both hands a beat or more apart, with sound between."""
        through = [ends for hand in self.hands for ends in [self.ends(hand)]]
        found = []
        for a, b in zip(self.instants, self.instants[1:], strict=False):
            sounds = any(ends.get(a, a) >= b for ends in through)
            if b - a >= self.task.beat_quarters and sounds:
                found.append((a, b))
        return found

    # -- moving things -----------------------------------------------------------------------------
    def push(self, after: Fraction, seconds: float) -> None:
        """All that comes after an instant is so much later (or earlier)."""
        self.beat_s[bisect_right(self.instants, after) :] += seconds

    def move(self, hand: Hand | None, onset: Fraction, seconds: float) -> None:
        self.moved_s[hand, onset] = self.moved_s.get((hand, onset), 0.0) + seconds

    def at(self, onset: Fraction) -> float:
        """When an instant falls on the shared beat, between strikes and beyond the last too."""
        index = bisect_left(self.instants, onset)
        if index < len(self.instants) and self.instants[index] == onset:
            return float(self.beat_s[index])
        if index >= len(self.instants):
            return float(self.beat_s[-1]) + float(onset - self.instants[-1]) * self.quarter_s
        a, b = self.instants[index - 1], self.instants[index]
        part = float((onset - a) / (b - a))
        return float((1 - part) * self.beat_s[index - 1] + part * self.beat_s[index])

    def run_limit(self, interval: Fraction) -> float:
        """As a share of the interval, with what the source cannot tell."""
        ms = 1000 * float(interval) * self.quarter_s
        return self.limits.evenness(ms) + 1.414 * self.unsure_ms / ms

    @property
    def off_limit_s(self) -> float:
        """For a strike off the beat."""
        return (self.limits.spread_ms(self.beat_ms) + self.unsure_ms) / 1000


def begin(task: Task, limits: Limits, source: Source, rng: np.random.Generator, share: float, free: str = "") -> Plan:
    """A take with its habits and noise, and no fault. ``free``: a habit that is left out because a fault takes its
    place."""
    instants = sorted({e.onset_quarters for e in task.expected})
    worst = str(rng.choice([habit for habit in HABITS if habit != free]))

    def habit(name: str, low: float, high: float) -> float:
        """A share of its limit."""
        if name == free:
            return 0.0
        if name == worst:
            return share * (math.copysign(1, rng.normal()) if low <= -0.6 else 1.0)
        return share * float(rng.uniform(low, high))

    plan = Plan(task, limits, source, rng, share, instants, np.zeros(len(instants)))
    plan.beat_s = _beat(plan, habit("tempo", -1, 1), habit("drift", -1, 1))
    _habits(plan, habit)
    _noise(plan, habit("noise", 0.7, 1.0) or 0.8 * share, habit("apart", 0.2, 0.8))
    return plan


def _beat(plan: Plan, tempo: float, drift: float) -> Floats:
    """Seconds at every instant: tempo, its drift and wander, and how the phrases go."""
    task, limits, rng = plan.task, plan.limits, plan.rng
    length = float(task.length_quarters)
    step = float(task.beat_quarters) / 12
    grid = np.arange(0.0, length + step, step)
    pace = np.full(len(grid), 1 / (1 + tempo * limits.tempo_share))
    pace /= 1 + drift * limits.drift_share * (grid / length - 0.5)
    # A wander that forgets itself over some eight beats, by pseudo-random sums of slow waves: no grid of its own.
    reach = 8 * float(task.beat_quarters)
    wander = np.zeros(len(grid))
    for _ in range(12):
        wave = reach * math.exp(rng.normal(0.3, 0.7))
        wander += rng.normal(0, 1 / math.sqrt(12)) * np.sin(2 * math.pi * grid / wave + rng.uniform(0, 2 * math.pi))
    pace *= np.exp(0.2 * limits.tempo_share * math.sqrt(2) * wander)
    bar = float(task.measures[0].length_quarters)
    beat = float(task.beat_quarters)
    bars, shift = int(rng.choice((2, 2, 4, 4, 3))), float(rng.choice((0, 0, 0, 0.5, 1, 2))) * beat
    broad, width = float(rng.uniform(0.05, 0.15)), float(rng.choice((1, 1, 1.5, 2))) * beat
    phrase = bars * bar
    inside = np.mod(grid + shift, phrase)
    pace *= 1 + broad * (inside >= phrase - width)
    pace *= 1 + float(rng.uniform(-0.01, 0.02)) * np.cos(2 * math.pi * inside / phrase)  # slower at both ends
    if rng.uniform() < 0.6:
        last = float(rng.choice((1, 2))) * beat
        pace *= 1 + float(rng.uniform(0.05, 0.15)) * (grid >= length - last - bar)
    if rng.uniform() < 0.5:
        pace *= 1 + float(rng.uniform(0.005, 0.02)) * (np.mod(grid, bar) < beat)  # the first beat is stressed
    seconds = np.concatenate([[0.0], np.cumsum(pace[:-1] * step)]) * task.quarter_s
    return np.interp([float(one) for one in plan.instants], grid, seconds)


def _habits(plan: Plan, habit: Callable[[str, float, float], float]) -> None:
    rng = plan.rng
    for hand in plan.hands:
        late, landing = habit("entries", -0.3, 0.8), habit("landings", -0.4, 0.5)
        pace, limp = habit("runs", -0.6, 0.6), habit("limp", -0.7, 0.7)
        for where, _, _, entry in plan.rests():
            if where is hand:
                plan.move(hand, entry, late * plan.off_limit_s * float(rng.uniform(0.6, 1.4)))
        for run in plan.runs():
            if run.hand is not hand:
                continue
            limit, interval_s = plan.run_limit(run.interval), float(run.interval) * plan.quarter_s
            n = len(run.onsets) - 1
            plan.move(
                hand, run.onsets[-1], landing * min(plan.off_limit_s, 0.25 * interval_s) * float(rng.uniform(0.5, 1.5))
            )
            if _alone(plan, run):
                for i in range(n):
                    plan.push(run.onsets[i], -pace * limit * interval_s * float(rng.uniform(0.5, 1.5)))
            on_pair = (run.onsets[0] / (2 * run.interval)).denominator == 1
            for i in range(1, n):
                if (i % 2 == 1) == on_pair:
                    plan.move(hand, run.onsets[i], limp * limit * interval_s * float(rng.uniform(0.6, 1.4)))
    short = habit("long gaps", -0.4, 0.5)
    for a, b in plan.gaps():
        gap_ms = 1000 * float(b - a) * plan.quarter_s
        limit = plan.limits.evenness(gap_ms) + 1.414 * plan.unsure_ms / gap_ms
        plan.push(a, -short * limit * gap_ms / 1000 * float(rng.uniform(0.3, 1.7)))
    _let_go(plan, habit)


def _alone(plan: Plan, run: Stretch) -> bool:
    """Does the other hand strike nothing inside a run but at its ends?"""
    others = {e.onset_quarters for e in plan.task.expected if e.hand is not run.hand}
    return not others & set(run.onsets[1:-1])


def _let_go(plan: Plan, habit: Callable[[str, float, float], float]) -> None:
    rng = plan.rng
    cut_ms = min(plan.limits.cut_ms(plan.beat_ms), 0.5 * plan.beat_ms)
    over_ms = plan.limits.over_ms(plan.beat_ms)
    before_rest = {(hand, onset) for hand, onset, _, _ in plan.rests()}
    for hand in plan.hands:
        early, late = habit("cut", 0.1, 0.8), habit("over", -0.1, 0.8)
        for onset, end in plan.ends(hand).items():
            if (hand, onset) in before_rest:
                plan.over_s[hand, onset] = (late + 0.25 * float(rng.standard_t(6)) * plan.share) * over_ms / 1000
            elif end - onset >= plan.task.beat_quarters:
                plan.cut_s[hand, onset] = (early + 0.25 * float(rng.standard_t(6)) * plan.share) * cut_ms / 1000


def _noise(plan: Plan, share: float, apart: float) -> None:
    """Heavy-tailed, some of it shared by the hands; the right hand leads a little, or the left."""
    rng, limits = plan.rng, plan.limits
    lead_s = apart * limits.hands_apart_ms / 1000 * float(rng.choice((-1, 1, 1)))
    own_most_s = share * limits.hands_apart_ms / 1000 / (0.6745 * math.sqrt(2)) * 0.8
    shared = {onset: float(rng.standard_t(4)) / math.sqrt(2) for onset in plan.instants}
    for hand in plan.hands:
        line = plan.line(hand)
        for i, onset in enumerate(line):
            beside = [b - a for a, b in zip(line[max(0, i - 1) :], line[max(1, i) : i + 2], strict=False)]
            near = min(beside, default=2)
            near_s = float(near) * plan.quarter_s
            spread_s = share * min(
                limits.evenness(1000 * near_s) * near_s / math.sqrt(2), limits.spread_ms(plan.beat_ms) / 1000
            )
            own = float(rng.standard_t(4)) / math.sqrt(2)
            if rng.uniform() < 0.01:
                own *= 2.0
            plan.move(hand, onset, 0.77 * spread_s * shared[onset] + min(0.63 * spread_s, own_most_s) * own)
            plan.move(hand, onset, -lead_s / 2 if hand is Hand.RIGHT else lead_s / 2)


# -- from a plan to strikes ----------------------------------------------------------------------------


def play(plan: Plan) -> Performance:
    """What is heard: chords a little spread, keys let go, ornaments, strikes left out and added."""
    task, rng, source = plan.task, plan.rng, plan.source
    lead_s = 2.0 + float(rng.uniform(0, 0.3)) * (source is Source.MIDI)
    ends = {hand: plan.ends(hand) for hand in plan.hands}
    rest_of = {(hand, onset): (quiet, entry) for hand, onset, quiet, entry in plan.rests()}
    trilled = {m.note_id for m in task.score.marks if m.kind is MarkKind.ORNAMENT}
    notes = {(n.hand, n.onset_quarters - task.measures[0].start_quarters, n.pitch): n for n in task.score.notes}
    strikes: list[Strike] = []
    for index, expected in enumerate(task.expected):
        if index in plan.left_out:
            continue
        hand, onset = expected.hand, expected.onset_quarters
        on_s = lead_s + plan.at(onset) + plan.moved_s.get((hand, onset), 0.0)
        if source is not Source.MIDI:
            side = hand or Hand.RIGHT
            if index in plan.other_key:
                side = Hand.LEFT if side is Hand.RIGHT else Hand.RIGHT
            strikes.append(Strike(max(0.0, on_s), side))
            continue
        on_s += float(rng.normal(0, 0.003))
        note = notes.get((hand, onset, expected.pitch))
        length = note.duration_quarters if note else ends[hand].get(onset, onset + 1) - onset
        end = onset + length
        off_s = lead_s + plan.at(end) + plan.moved_s.get((hand, onset), 0.0)
        if (hand, onset) in rest_of and rest_of[hand, onset][0] == end:
            entry_s = lead_s + plan.at(rest_of[hand, onset][1])
            off_s = min(lead_s + plan.at(end) + plan.over_s.get((hand, onset), 0.0), entry_s - 0.02)
        elif length >= task.beat_quarters and (note is None or end == ends[hand].get(onset)):
            off_s -= plan.cut_s.get((hand, onset), 0.0)
        elif length >= task.beat_quarters:
            off_s -= abs(float(rng.normal(0.05, 0.03)))
        else:
            off_s = on_s + (off_s - on_s) * float(rng.uniform(0.8, 1.08))  # blurred: now short, now into the next
        pitch = expected.pitch if expected.pitch is not None else 60
        if index in plan.other_key:
            pitch += int(rng.choice((-2, -1, 1, 2)))
        if note is not None and note.id in trilled:
            strikes += _trill(plan, on_s, off_s, pitch, hand)
            continue
        strikes.append(Strike(on_s, None, pitch, int(np.clip(rng.normal(64, 9), 15, 125)), max(on_s + 0.03, off_s)))
    strikes = _went_back(plan, strikes, lead_s)
    times = sorted(one.played_s for one in strikes)
    for _ in range(plan.added):
        at = int(rng.integers(1, len(times) - 1))
        on_s = times[at] + (times[at + 1] - times[at]) * float(rng.uniform(0.25, 0.75))
        model = strikes[int(rng.integers(len(strikes)))]
        pitch = None if model.pitch is None else model.pitch + int(rng.choice((-1, 1)))
        strikes.append(Strike(on_s, model.hand, pitch, model.velocity, None if pitch is None else on_s + 0.12))
    ordered = sorted(_one_key_once(strikes), key=lambda one: one.played_s)
    early = max(0.0, -ordered[0].played_s)
    ordered = [
        Strike(s.played_s + early, s.hand, s.pitch, s.velocity, s.released_s and s.released_s + early) for s in ordered
    ]
    if source is Source.MIDI:
        return Performance(source, tuple(ordered))
    return Performance(source, tuple(ordered), lead_s + early, task.assigned_bpm)


def _trill(plan: Plan, on_s: float, off_s: float, pitch: int, hand: Hand | None) -> list[Strike]:
    """From above as often as from the note itself; it ends on the note."""
    rng = plan.rng
    each_s = float(rng.uniform(0.075, 0.12))
    from_above = rng.uniform() < 0.5
    count = max(3, int((off_s - on_s) * 0.7 / each_s))
    found = []
    for i in range(count):
        is_above = (i % 2 == 0) == from_above
        at_s = on_s + i * each_s + float(rng.normal(0, 0.008))
        found.append(Strike(at_s, None, pitch + 2 if is_above else pitch, 60, at_s + 0.8 * each_s))
    if found[-1].pitch != pitch:
        at_s = on_s + count * each_s
        found.append(Strike(at_s, None, pitch, 60, at_s + 0.8 * each_s))
    last = found.pop()
    return [*found, Strike(last.played_s, None, last.pitch, 60, max(last.played_s + 0.05, off_s))]


def _went_back(plan: Plan, strikes: list[Strike], lead_s: float) -> list[Strike]:
    if plan.back_from is None:
        return strikes
    leave, to = plan.back_from
    leave_s, to_s = lead_s + plan.at(leave), lead_s + plan.at(to)
    beat_s = plan.beat_ms / 1000
    again_s = leave_s - to_s + beat_s * float(plan.rng.uniform(1.2, 2.5))
    first = [one for one in strikes if one.played_s < leave_s - 0.1]
    second = [
        Strike(s.played_s + again_s, s.hand, s.pitch, s.velocity, s.released_s and s.released_s + again_s)
        for s in strikes
        if s.played_s > to_s - 0.1
    ]
    return first + second


def _one_key_once(strikes: list[Strike]) -> list[Strike]:
    """A key goes up before it goes down again."""
    found: list[Strike] = []
    next_s: dict[int, float] = {}
    for one in sorted(strikes, key=lambda s: -s.played_s):
        off_s = one.released_s
        if one.pitch is not None and off_s is not None:
            off_s = max(one.played_s + 0.02, min(off_s, next_s.get(one.pitch, math.inf) - 0.015))
            next_s[one.pitch] = one.played_s
        found.append(Strike(one.played_s, one.hand, one.pitch, one.velocity, off_s))
    return found
