"""A student who climbs a ladder through the real checker: she errs where it is hard to go on, the more the less she has
practised there, and plays the rest with her level's human timing.

She stops before a bar with a chance that grows with how hard the way into it is and fades with every time it was played;
``talent`` says how soon (0: never, she cannot pass where it is hard). A day is over when there is nothing left to try.
"""

from __future__ import annotations

import random
from collections import Counter
from dataclasses import dataclass, field, replace

from laptick.core.base.activity import Activity
from laptick.core.base.levels import Level
from laptick.core.judging.finding import FindingCode
from laptick.core.judging.judgement import Judgement, judge_take
from laptick.core.measuring.limits import limits_of
from laptick.core.practice.ladder.building import Practised, build_ladder
from laptick.core.practice.ladder.events import UNTRIED, Event, EventKind, Standing, standing_of
from laptick.core.practice.ladder.gates import Outcome
from laptick.core.practice.ladder.spots import HALTED_IN, Halt
from laptick.core.practice.ladder.stages import AT_TEMPO, GateKind, Rung
from laptick.core.practice.ladder.standing import Played, leads_to, next_rung, start_tempo, ticked_by
from laptick.core.score.hands import HAND_KEYS
from laptick.core.score.roadmap import laid_round
from laptick.core.score.score import HANDS, Place, Score
from laptick.core.score.within import Cut
from laptick.core.student.faults import Fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task
from laptick.core.together.difficulty import quarters_a_minute
from laptick.core.together.seams import seams_of

#: What is said of a take lasts 1.8 to 3.7 s; with the judging before it and a breath after it.
BETWEEN_S = 4.5


@dataclass
class Climb:
    """``ends``: how each day ended; ``tempos``: at which each rung was passed."""

    takes: int = 0
    seconds: float = 0.0
    days: int = 1
    is_done: bool = False
    tempos: dict[str, float] = field(default_factory=dict)
    ends: list[str] = field(default_factory=list)
    tries_a_day: dict[tuple[int, str], int] = field(default_factory=dict)


class Student:
    def __init__(self, score: Score, level: Level, target_bpm: float, *, talent: float, seed: int) -> None:
        self.score, self.level, self.target = score, level, target_bpm
        self.talent, self.rng = talent, random.Random(seed)
        self.ladder = build_ladder(score, level, Practised(target_bpm))
        self.events: dict[str, list[Event]] = {}
        self.practised = [0.0] * len(score.measures)
        self.hard = [0.0] * len(score.measures)
        for seam in seams_of(score, quarters_a_minute(score, target_bpm)):
            index = seam.to.measure_index
            self.hard[index] = max(self.hard[index], seam.points / 100)
        self.climb = Climb()
        self.halts: Counter[Place] = Counter()

    # -- what it comes to --------------------------------------------------------------------------------

    def standing(self, rung: Rung) -> Standing:
        return self.standings.get(rung.key, UNTRIED)

    @property
    def standings(self) -> dict[str, Standing]:
        gates = {rung.key: rung.gate for rung in self.ladder.rungs}
        return {
            key: standing_of(gates.get(key, GateKind.ONE_CLEAN), self.target, events)
            for key, events in self.events.items()
        }

    def go(self, most_days: int = 12) -> Climb:
        climb = self.climb
        while climb.days <= most_days:
            rung = next_rung(self.ladder, self._states(), climb.days)
            while rung is not None:
                self._practise(rung)
                rung = self._onward(rung)
            if all(self.standing(one).state.is_passed for one in self.ladder.rungs):
                climb.is_done = True
                climb.ends.append("done")
                return climb
            climb.ends.append("enough for today")
            climb.days += 1
        return climb

    def _states(self):
        return {key: one.state for key, one in self.standings.items()}

    def _onward(self, rung: Rung) -> Rung | None:
        states, day = self._states(), self.climb.days
        if not self.standing(rung).state.is_passed and self.standing(rung).state.is_enough_on(day):
            return leads_to(self.ladder, rung, states, day) or next_rung(self.ladder, states, day)
        return next_rung(self.ladder, states, day)

    # -- a try -------------------------------------------------------------------------------------------

    def _practise(self, rung: Rung) -> None:
        climb, day = self.climb, self.climb.days
        if rung.gate is GateKind.WORD:
            self.events.setdefault(rung.key, []).append(Event(EventKind.WORD, day, "the student"))
            climb.seconds += self._seconds(rung, rung.tempos[0])
            return
        fastest = {key: one.fastest_bpm for key, one in self.standings.items() if one.fastest_bpm}
        tempo = self.standing(rung).tempo
        bpm = tempo.bpm if tempo else start_tempo(self.ladder, rung, fastest)
        outcome = self._play(rung, bpm)
        climb.takes += 1
        climb.seconds += self._seconds(rung, bpm) + BETWEEN_S
        key = (day, rung.key)
        climb.tries_a_day[key] = climb.tries_a_day.get(key, 0) + 1
        at_target = bpm >= round(self.target) - 2
        take = climb.takes
        event = Event(EventKind.TRY, day, "the checker", take, outcome, bpm, at_target)
        self.events.setdefault(rung.key, []).append(event)
        if outcome is Outcome.STEADY:
            self._tick(rung, take, day)
        if self.standing(rung).state.is_passed:
            climb.tempos.setdefault(rung.key, bpm)
        self._halted(rung, self.judged)

    def _tick(self, rung: Rung, take: int, day: int) -> None:
        played = Played(rung.first, rung.last, rung.activity or Activity.PLAY, rung.hands, rung.within)
        for below in ticked_by(self.ladder, played, rung, self._states()):
            event = Event(EventKind.TICK, day, "the checker", take, Outcome.STEADY)
            self.events.setdefault(below.key, []).append(event)

    def _halted(self, rung: Rung, judged: Judgement) -> None:
        """Where two takes of both hands waited, the seam has a rung of its own from then on."""
        main, place = judged.verdict.main, judged.verdict.place
        if main is None or place is None or main.finding.code is not FindingCode.HESITATION or rung.hands != "both":
            return
        if rung.activity is not Activity.PLAY:
            return
        self.halts[Place(place.measure, place.offset_quarters)] += 1
        halts = tuple(Halt(at, takes) for at, takes in self.halts.most_common() if takes >= HALTED_IN)
        if halts:
            self.ladder = build_ladder(self.score, self.level, Practised(self.target, halts=halts))

    def _play(self, rung: Rung, bpm: float) -> Outcome:
        hand = HAND_KEYS[rung.hands]  # type: ignore[index]
        bars = self.score.measures[rung.first : rung.last + 1]
        faults = []
        for bar in bars[1:]:
            joined = 1.0 if rung.hands == "both" else 0.3
            chance = joined * self.hard[bar.index] * (0.35 + 0.65 * bpm / self.target)
            chance *= 1.0 if not self.talent else 2.0 ** (-self.practised[bar.index] * self.talent)
            if self.rng.random() < chance:
                faults.append(Fault("hesitate", 1.0 + self.rng.random(), bar.number))
            self.practised[bar.index] += rung.rounds
        score = laid_round(self.score, bars, rung.rounds) if rung.rounds > 1 else self.score
        measures = score.measures if rung.rounds > 1 else bars
        keys = rung.activity is Activity.PLAY
        cut = None if rung.within is None else Cut(rung.within, len(bars))
        hands = (hand,) if hand else HANDS
        task = lap_task(score, assigned_bpm=bpm, measures=measures, hands=hands, with_pitches=keys, cut=cut)
        source = Source.MIDI if keys else Source.TAPS
        seed = self.rng.randrange(2**31)
        played = simulate(task, level=self.level, seed=seed, faults=faults, source=source)
        if rung.stage not in AT_TEMPO:
            task = replace(task, slower_passes=True)
        judged = judge_take(task, played, limits_of(self.level, None))
        self.judged = judged
        return Outcome(judged.verdict.status.value)

    def _seconds(self, rung: Rung, bpm: float) -> float:
        bars = self.score.measures[rung.first : rung.last + 1]
        quarter_s = 60 / bpm / float(rung.beat_quarters)
        length = float(bars[-1].end_quarters - bars[0].start_quarters) * quarter_s
        return rung.rounds * length + float(bars[0].length_quarters) * quarter_s
