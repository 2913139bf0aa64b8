"""Whether the second performer's hands are told to have met: ratio scales by chance, at the keys, the meeting played
right, by one hand early or late, and on another key.

    OPENBLAS_NUM_THREADS=1 .venv/bin/python benchmarks/drill_meetings.py --takes 60

Right is what was planted: *met* for a clean take, *not met* (with the hand and the side) for a fault. Prints shares
with 95 % intervals; a key that both hands share goes down once, so a fault of timing cannot be planted there.
"""

from __future__ import annotations

import argparse
from collections import Counter

import numpy as np
from operating_curve import share as shown
from performer.player import begin, play

from laptick.core.base.errors import LapTickError
from laptick.core.base.levels import Level
from laptick.core.base.units import quarters_to_text
from laptick.core.drills.met import SURE, met_at
from laptick.core.drills.ratios import MOTIONS, RATIOS, STARTS, RatioScale, make_ratio
from laptick.core.drills.scales import scale_of
from laptick.core.judging.judgement import judge_take
from laptick.core.judging.telling import tell
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import HANDS
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task

SCALES = ("C-major", "G-major", "Eb-major", "A-minor", "F#-minor")

#: What is planted at the meeting: a hand so many limits early or late, or on another key.
PLANTED = ("clean at 60 %", "clean at 90 %", "1.5 limits", "3 limits", "4 limits", "another key")


def told(planted: str, seed: int) -> str | None:
    """What came of it; ``None`` where it cannot be planted."""
    rng = np.random.default_rng([seed, PLANTED.index(planted)])
    try:
        drill = make_ratio(
            RatioScale(
                scale_of(str(rng.choice(SCALES))), int(rng.integers(1, 3)), str(rng.choice(list(RATIOS))),
                HANDS[int(rng.integers(2))], str(rng.choice(list(STARTS))), str(rng.choice(list(MOTIONS))), 72.0,
            )
        )  # fmt: skip
    except LapTickError:
        return None
    level = list(Level)[seed % 4]
    meetings = [one for one in drill.meetings if planted.startswith("clean") or not one.same_key]
    if not meetings:
        return None
    meeting = meetings[int(rng.integers(len(meetings)))]
    task = lap_task(drill.score, assigned_bpm=72, with_pitches=True)
    plan = begin(task, LIMITS[level], Source.MIDI, rng, 0.9 if "90" in planted else 0.6)
    hand = HANDS[int(rng.integers(2))]
    at = drill.score.measures[meeting.measure_index].start_quarters + meeting.offset_quarters
    side = int(rng.choice((-1, 1)))
    limit_ms = LIMITS[level].hands_apart_ms
    if planted.endswith("limits"):
        plan.moved_s[hand, at] = side * float(planted.split()[0]) * limit_ms / 1000
    elif planted == "another key":
        plan.other_key.add(next(i for i, e in enumerate(task.expected) if (e.hand, e.onset_quarters) == (hand, at)))
    document = tell(judge_take(task, play(plan), LIMITS[level]))
    if not document.followed:
        return "not followed"
    struck = {(n.measure, n.offset, n.hand): n.deviation_ms for n in document.notes if n.pitch}
    place = (drill.score.measures[meeting.measure_index].number, quarters_to_text(meeting.offset_quarters))
    met = met_at(meeting, {one: struck.get((*place, one.value)) for one in HANDS}, limit_ms)
    if met.is_met:
        return "met"
    if planted == "another key":
        return "rightly" if f"the {hand.value} hand was not on" in met.text else "otherwise"
    other = next(one for one in HANDS if one is not hand)
    first, second = (other, hand) if side > 0 else (hand, other)
    by_beat = f"the {hand.value} hand came" in met.text and ("late" if side > 0 else "early") in met.text
    by_other = f"the {first.value} hand came" in met.text and f"before the {second.value}" in met.text
    return "rightly" if by_beat or by_other else "otherwise"


def main() -> None:
    options = argparse.ArgumentParser()
    options.add_argument("--takes", type=int, default=60)
    asked = options.parse_args()
    print("| planted | takes | met | not met, by the right hand and side | not met, otherwise | not followed |")
    print("| --- | ---: | ---: | ---: | ---: | ---: |")
    for planted in PLANTED:
        found = Counter(one for seed in range(asked.takes) if (one := told(planted, seed)) is not None)
        tried = found.total()
        words = [shown(found[key], tried) for key in ("met", "rightly", "otherwise", "not followed")]
        print(f"| {planted} | {tried} | {' | '.join(words)} |")
    print(f"\nShares in %, with 95 % intervals. A pair is apart from {SURE:g} limits on.")


if __name__ == "__main__":
    main()
