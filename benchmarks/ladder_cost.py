"""What a ladder costs: takes and minutes from the floor to the end, at 7 of 10 takes clean, at half of them, and when
all are; every gate folded as the studio would, a day over after six tries of one rung. The mean of 400 climbs each.

A take lasts its bars at its tempo as often as they go round, with a bar of count-in, and 4.5 s until the next: what is
said of it lasts 1.8 to 3.7 s, with the judging before and a breath after. What goes by word lasts as long as it is
heard or said once. Run: .venv/bin/python benchmarks/ladder_cost.py
"""

from __future__ import annotations

import random
import sys
from pathlib import Path
from statistics import fmean

sys.path[:0] = [str(Path(__file__).resolve().parents[1] / name) for name in ("src", "tests", "tools")]

from hard_score import hard_score
from helpers import demo_score, score_of
from laptick.core.base.levels import LEVEL_NAMES, Level
from laptick.core.base.units import Quarters
from laptick.core.counting.counting import default_bpm
from laptick.core.planning.tonight import try_s
from laptick.core.practice.ladder.building import Practised, build_ladder
from laptick.core.practice.ladder.gates import Evidence, Outcome, RungState, after
from laptick.core.practice.ladder.stages import GateKind, Rung, Stage
from laptick.core.practice.ladder.tempo_steps import Move, after_try, first_tempo
from laptick.core.score.score import Score

CLIMBS = 400
SHARES = (0.7, 0.5, 1.0)

RIGHT = ("q q q q", "e e q h", "q e e q q", "q. e h", "e e e e q q", "h q q")
LEFT = ("h h", "q q h", "w", "q q q q")


def common_score(bars: int) -> Score:
    """So many bars of 4/4 by chance, as an intermediate piece has them: eighths and quarters over longer ones."""
    rng = random.Random(4)
    hands = []
    for shapes, low, high in ((RIGHT, 60, 79), (LEFT, 43, 57)):
        at, made = (low + high) // 2, []
        for _ in range(bars):
            notes = []
            for length in rng.choice(shapes).split():
                at = min(high, max(low, at + rng.choice((-4, -2, -1, 1, 2, 3, 5))))
                notes.append(f"{NAMES[at % 12]}{at // 12 - 1}/{length}")
            made.append(" ".join(notes))
        hands.append(" | ".join(made))
    return score_of(*hands)


#: Each key by a natural: where it is none, the one below.
NAMES = "CCDDEFFGGAAB"

COMMON, COMMON_BPM = common_score(24), 96.0

PIECES: list[tuple[str, Score, Level]] = [
    ("Harbour Steps, 8 bars", demo_score("harbour-steps"), Level.FIRST_YEAR),
    ("Lantern Boat, 8 bars", demo_score("lantern-boat"), Level.FIRST_YEAR),
    ("Kite over the Orchard, 13 bars", demo_score("kite-over-the-orchard"), Level.ELEMENTARY),
    ("Copper Kettle Parade, 16 bars", demo_score("copper-kettle-parade"), Level.INTERMEDIATE),
    ("a common one by chance at 96, 24 bars", COMMON, Level.INTERMEDIATE),
    ("a hard one by chance, 24 bars", hard_score(24), Level.INTERMEDIATE),
]


def lengths(score: Score) -> list[Quarters]:
    return [measure.length_quarters for measure in score.measures]


def climbed(score: Score, rung: Rung, target: float, clean: float, rng: random.Random) -> tuple[int, float]:
    """(takes, seconds) of one rung until it is passed."""
    if rung.gate is GateKind.WORD:
        return 0, try_s(lengths(score), rung, rung.tempos[0])
    takes, lasted, day, state = 0, 0.0, 1, RungState()
    tempo = first_tempo(target)
    while not state.is_passed:
        bpm = tempo.bpm if rung.stage is Stage.TEMPO else rung.tempos[0]
        takes, lasted = takes + 1, lasted + try_s(lengths(score), rung, bpm)
        outcome = Outcome.STEADY if rng.random() < clean else Outcome.NOT_YET
        at_target = rung.stage is not Stage.TEMPO or bpm >= tempo.target
        state = after(rung.gate, state, Evidence(outcome, day, "", at_target))
        tempo, move = after_try(tempo, outcome)
        if state.is_enough_on(day) or (move is Move.REACHED and rung.gate is GateKind.TWO_DAYS):
            day += 1
    return takes, lasted


def main() -> None:
    heads = " | ".join(f"{100 * share:.0f} % clean" for share in SHARES)
    print(f"| piece | level | rungs | {heads} |\n| --- | --- | ---: |" + " ---: |" * len(SHARES))
    for name, score, level in PIECES:
        target = COMMON_BPM if score is COMMON else default_bpm(score) or 60.0
        ladder, cells = build_ladder(score, level, Practised(target)), []
        for share in SHARES:
            rng = random.Random(1)
            climbs = [[climbed(score, rung, target, share, rng) for rung in ladder.rungs] for _ in range(CLIMBS)]
            takes = fmean(sum(one for one, _ in climb) for climb in climbs)
            minutes = fmean(sum(lasted for _, lasted in climb) for climb in climbs) / 60
            cells.append(f"{takes:.0f} takes, {minutes:.0f} min")
        print(f"| {name} | {LEVEL_NAMES[level]} | {len(ladder.rungs)} | {' | '.join(cells)} |")


if __name__ == "__main__":
    main()
