"""Drills: the kinds there are, one to look at, one to keep."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.pieces import (
    DrillChoice,
    DrillCreate,
    DrillKind,
    DrillOption,
    DrillPublic,
    DrillWith,
    PiecePublic,
)
from laptick.api.views.counts import counts_public
from laptick.api.views.pieces import meetings_public, piece_public, ruler_public
from laptick.core.counting.choices import CountChoices
from laptick.core.counting.counting import default_bpm
from laptick.core.drills.drill import MOST_BARS, Drill, beginning
from laptick.formats.drills import KINDS
from laptick.studio.pieces import drills
from laptick.studio.pieces.shelf import UNMARKED_BPM

router = APIRouter(route_class=ModelRoute, prefix="/drills", tags=["drills"])


@router.get("")
def list_drill_kinds(studio: StudioNow) -> list[DrillKind]:
    return [
        DrillKind(
            key=key,
            title=kind.title,
            trains=kind.trains,
            options=[
                DrillOption(
                    key=name,
                    words=option.words,
                    usual=option.usual or "",
                    choices=[DrillChoice(value=value, words=words) for value, words in option.choices],
                    of_piece=option.is_score,
                    is_needed=option.usual is None,
                    is_list=option.is_list,
                    is_extra=option.is_extra,
                    picks=option.picks,
                    only_with=None
                    if option.only_with is None
                    else DrillWith(key=option.only_with[0], value=option.only_with[1]),
                )
                for name, option in kind.options.items()
            ],
        )
        for key, kind in KINDS.items()
    ]


@router.post("/look")
def look_at_drill(
    studio: StudioNow, wanted: DrillCreate, bars: Annotated[int, Query(ge=1, le=MOST_BARS)] = MOST_BARS
) -> DrillPublic:
    """A drill as it would be, of its ruler so many bars; nothing is kept."""
    return _public(*drills.try_drill(studio, drills.Wanted(wanted.kind, wanted.options)), bars)


@router.post("", status_code=201)
def add_drill(studio: StudioNow, wanted: DrillCreate) -> PiecePublic:
    """Keeps it on the shelf, as a piece like any other."""
    return piece_public(drills.add_drill(studio, drills.Wanted(wanted.kind, wanted.options)))


def _public(drill: Drill, choices: CountChoices, bars: int) -> DrillPublic:
    score = beginning(drill.score, bars)
    return DrillPublic(
        title=score.title,
        sentence=drill.sentence,
        meetings=meetings_public(drill),
        roots=list(drill.roots),
        bars=len(drill.score.measures),
        ruler=ruler_public(score),
        counts=counts_public(score, "both", choices, default_bpm(score) or UNMARKED_BPM),
    )
