"""Ladders as they were read and approved, rung by rung with its reason: tests/core/ladder/golden/*.txt.

Written anew by tools/write_golden_ladders.py; what has changed is then read before it is kept.
"""

from __future__ import annotations

from pathlib import Path

from hard_score import hard_score
from helpers import demo_score
from laptick.core.base.levels import LEVEL_NAMES, Level
from laptick.core.counting.counting import default_bpm
from laptick.core.editing.entry import entry_score
from laptick.core.practice.ladder.building import Practised, build_ladder
from laptick.core.practice.ladder.stages import STAGE_WORDS, Ladder
from laptick.core.score.score import Score
from laptick.studio.demo import demo_passage

FOLDER = Path(__file__).resolve().parent / "golden"

#: Name → score and level: every demo piece at its level, and two longer pieces.
PIECES: dict[str, tuple[Score, Level]] = {
    "thimble-waltz": (entry_score(demo_passage()), Level.ELEMENTARY),
    "harbour-steps": (demo_score("harbour-steps"), Level.FIRST_YEAR),
    "lantern-boat": (demo_score("lantern-boat"), Level.FIRST_YEAR),
    "kite-over-the-orchard": (demo_score("kite-over-the-orchard"), Level.ELEMENTARY),
    "five-stones": (demo_score("five-stones"), Level.ELEMENTARY),
    "copper-kettle-parade": (demo_score("copper-kettle-parade"), Level.INTERMEDIATE),
    "hard-24-bars": (hard_score(24), Level.INTERMEDIATE),
    "hard-48-bars": (hard_score(48), Level.ADVANCED),
}


def built(name: str) -> tuple[Score, Level, Ladder]:
    score, level = PIECES[name]
    return score, level, build_ladder(score, level, Practised(default_bpm(score) or 60.0))


def text_of(name: str) -> str:
    score, level, ladder = built(name)
    lines = [f"{score.title}, {LEVEL_NAMES[level]}, {len(ladder.rungs)} rungs"]
    group = ""
    for rung in ladder.rungs:
        if rung.group != group:
            group = rung.group
            lines.append(f"{group}:")
        rounds = f" x{rung.rounds}" if rung.rounds > 1 else ""
        tempos = " ".join(map(str, rung.tempos))
        where = f"{STAGE_WORDS[rung.stage]}, {rung.title}, {rung.hands}{rounds}"
        lines.append(f"  {where} | {tempos} | {rung.gate.value} | {rung.why}")
    return "\n".join(lines) + "\n"
