"""How the studio counts: its systems with their words, its choices and those by level."""

from __future__ import annotations

from fastapi import APIRouter

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.choices import ChoiceLayer, ExampleBar, ExampleCount, LimitPublic, StudioChoices, SystemPublic
from laptick.api.schemas.trade import TradePublic
from laptick.api.views.counts import systems_public
from laptick.api.views.trade import trade_public
from laptick.core.base.levels import Level
from laptick.core.counting.choices import CountChoices
from laptick.core.counting.counting import count_line
from laptick.core.counting.example import example_score
from laptick.core.measuring.limits import LIMIT_FIELDS, LIMITS
from laptick.core.score.score import Hand
from laptick.formats.documents.choices import choice_of
from laptick.studio import choices as choices_of_studio

router = APIRouter(route_class=ModelRoute, tags=["choices"])


@router.get("/trade")
def get_trade() -> TradePublic:
    """What can be chosen or said, each key with its words; the same for every studio."""
    return trade_public()


@router.get("/count-systems")
def list_count_systems(studio: StudioNow) -> list[SystemPublic]:
    """The ways to count, and the words of each that can be changed."""
    return systems_public(choices_of_studio.get_naming(studio))


@router.post("/count-example")
def count_example(_studio: StudioNow, layer: ChoiceLayer) -> list[ExampleBar]:
    """A short rhythm counted as a layer says, before it is stored."""
    choice = choice_of(layer.model_dump(mode="json", exclude_none=True))
    counted = count_line(example_score(), Hand.RIGHT, CountChoices(studio=choice))
    return [
        ExampleBar(
            signature=str(bar.measure.signature),
            counts=[ExampleCount(say=count.say, kind=count.kind) for count in counts],
        )
        for bar, counts in zip(counted.by, counted.bars, strict=True)
    ]


@router.get("/limits")
def list_limits(_studio: StudioNow) -> list[LimitPublic]:
    """What a take is judged by at each level, where the studio sets nothing else."""
    return [
        LimitPublic(
            name=name,
            words=one.words,
            unit=one.unit,  # type: ignore[arg-type]
            low=one.low,
            high=one.high,
            usual={level: getattr(LIMITS[level], name) for level in Level},
        )
        for name, one in LIMIT_FIELDS.items()
    ]


@router.get("/choices")
def get_studio_choices(studio: StudioNow) -> StudioChoices:
    return StudioChoices.model_validate(choices_of_studio.get_studio_choices(studio))


@router.put("/choices")
def put_studio_choices(studio: StudioNow, choices: StudioChoices) -> StudioChoices:
    """How the studio counts, in place of what was chosen before."""
    document = choices.model_dump(mode="json", exclude_defaults=True)
    return StudioChoices.model_validate(choices_of_studio.put_studio_choices(studio, document, choices.voice_language))
