"""The JSON document of ``ladder``: the rungs from the floor up, and the school they follow.

Bars are named as in the file; tempos count ``beat_quarters``. Field names are fixed: fields may be added, never
renamed.
"""

from __future__ import annotations

from typing import Any

from laptick.core.base.units import quarters_to_text
from laptick.core.practice.ladder.school import QUESTIONS
from laptick.core.practice.ladder.stages import Ladder
from laptick.core.practice.ladder.ways import stage_words
from laptick.core.score.score import Score

Document = dict[str, Any]


def ladder_document(score: Score, ladder: Ladder) -> Document:
    return {
        "rungs": [
            {
                "key": rung.key,
                "title": f"{stage_words(rung)}: {rung.title[0].lower() + rung.title[1:]}",
                "stage": rung.stage.value,
                "measures": [score.measures[index].number for index in range(rung.first, rung.last + 1)],
                "hands": rung.hands,
                "group": rung.group,
                "rounds": rung.rounds,
                "tempos": list(rung.tempos),
                "beat_quarters": quarters_to_text(rung.beat_quarters),
                "gate": {"kind": rung.gate.value},
                "touch": rung.touch,
                "why": rung.why,
            }
            for rung in ladder.rungs
        ],
        "school": dict(ladder.school.values),
        "chosen": sorted(ladder.school.chosen),
        "questions": {key: question.answer(ladder.school[key]).why for key, question in QUESTIONS.items()},
    }
