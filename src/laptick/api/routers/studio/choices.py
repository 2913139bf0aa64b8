"""How the studio counts: its systems with their words, its choices and those by level."""

from __future__ import annotations

from fastapi import APIRouter

from laptick.api.request.asking import AskingNow, DbNow
from laptick.api.schemas.choices import ChoiceLayer, ExampleBar, ExampleCount, LimitPublic, StudioChoices, SystemPublic
from laptick.api.views import counts as count_views
from laptick.core.base.levels import Level
from laptick.core.counting.choices import CountChoices
from laptick.core.counting.counting import count_line
from laptick.core.counting.example import example_score
from laptick.core.measuring.limits import LIMIT_FIELDS, LIMITS, limits_of
from laptick.core.score.score import Hand
from laptick.db import choices as db
from laptick.formats.documents.choices import choice_of, choices_of, naming_of
from laptick.formats.sound.speech import check_language

router = APIRouter(tags=["choices"])


@router.get("/count-systems")
def list_count_systems(asking: AskingNow, connection: DbNow) -> list[SystemPublic]:
    """The ways to count, and the words of each that can be changed."""
    return count_views.systems_public(naming_of(db.get_choices(connection, asking.studio_id, None)))


@router.post("/count-example")
def count_example(layer: ChoiceLayer) -> list[ExampleBar]:
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
def list_limits() -> list[LimitPublic]:
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
def get_studio_choices(asking: AskingNow, connection: DbNow) -> StudioChoices:
    return StudioChoices.model_validate(db.get_choices(connection, asking.studio_id, None))


@router.put("/choices")
def put_studio_choices(asking: AskingNow, connection: DbNow, choices: StudioChoices) -> StudioChoices:
    """How the studio counts, in place of what was chosen before."""
    document = choices.model_dump(mode="json", exclude_defaults=True)
    for level in Level:
        choices_of(document, {}, level.value)  # raises for what cannot be counted so
        limits_of(level, document.get("limits"))  # raises for what cannot be a limit
    check_language(choices.voice_language)
    db.put_choices(connection, asking.studio_id, None, document)
    return get_studio_choices(asking, connection)
