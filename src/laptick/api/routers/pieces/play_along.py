"""Play-along, echo and first hearing: the schedule, and the same as a file."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request, Response

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.request.waiting import made_or_job
from laptick.api.routers.pieces.made import BEING_MADE, file_answer
from laptick.api.schemas.common import Id
from laptick.api.schemas.play_along import (
    GroovePublic,
    PlayOptions,
    SchedulePublic,
    SoundQuery,
)
from laptick.api.views.play_along import schedule_public
from laptick.core.play_along.grooves import GROOVES, grooves_for
from laptick.formats.sound.play_along import MIX
from laptick.formats.sound.sound_pack import pack_bytes
from laptick.studio.jobs.making import MadeWanted
from laptick.studio.pieces import shelf
from laptick.studio.pieces.play_along import PlayQuery, play_along

router = APIRouter(route_class=ModelRoute, tags=["playing"])

#: Shown where the volume is set (docs/trade.md 3.6).
CAUTION = (
    "Click and headphones at a comfortable level: turn it down first, then up until the count is just clear. "
    "A short break every 20 to 25 minutes."
)


@router.get("/pieces/{piece_id}/schedule")
def get_schedule(studio: StudioNow, piece_id: Id, query: Annotated[PlayQuery, Query()]) -> SchedulePublic:
    """When everything of a play-along sounds, in played order; the cursor moves on the written score."""
    made = play_along(studio, piece_id, query)
    return schedule_public(made.schedule, made.bank, made.ending)


@router.get("/pieces/{piece_id}/sound", response_class=Response, responses=BEING_MADE)
async def get_sound(request: Request, piece_id: Id, query: Annotated[SoundQuery, Query()]) -> Response:
    """The same as a file: WAV with everything, or MIDI with the count as lyrics; 202 while it is being made."""
    asked = query.model_dump(mode="json")
    options = {"format": asked.pop("format"), "levels": asked.pop("levels"), "play": asked}
    made = await made_or_job(request, MadeWanted("sound", piece_id, options))
    return await file_answer(request, made, piece_id, f"-{NAMES[query.mode]}.{query.format}")


#: Mode → what its file is called.
NAMES: dict[Literal["play", "echo", "hear"], str] = {"play": "play-along", "echo": "echo", "hear": "first-hearing"}


@router.get("/pieces/{piece_id}/play-options")
def get_play_options(studio: StudioNow, piece_id: Id) -> PlayOptions:
    """What can be chosen for a piece's play-along."""
    score = shelf.get_piece(studio, piece_id).played
    fitting = dict.fromkeys(key for measure in score.measures for key in grooves_for(measure.meter))
    grooves = [GroovePublic(key=key, words=GROOVES[key].words) for key in fitting]
    return PlayOptions(grooves=grooves, levels=MIX, caution=CAUTION)


@router.get("/sounds/pack.flac", response_class=Response)
def get_pack(_studio: StudioNow) -> Response:
    """All sounds that ship, in one file; its address changes with its content."""
    return Response(
        pack_bytes(), media_type="audio/flac", headers={"Cache-Control": "public, max-age=31536000, immutable"}
    )
