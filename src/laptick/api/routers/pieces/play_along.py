"""Play-along, echo and first hearing: the schedule, and the same as a file."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response

from laptick.api.request.asking import StudioNow
from laptick.api.routers.pieces.pieces import named
from laptick.api.schemas.common import Id
from laptick.api.schemas.play_along import (
    GroovePublic,
    PlayOptions,
    SchedulePublic,
    SoundQuery,
)
from laptick.api.views.play_along import schedule_public
from laptick.core.base.errors import OptionError
from laptick.core.play_along.grooves import GROOVES, grooves_for
from laptick.core.play_along.schedule import Track
from laptick.core.play_along.scheduling import VOICE
from laptick.formats.sound.play_along import MIX, sound_midi, sound_wav
from laptick.formats.sound.sound_pack import pack_bytes
from laptick.studio.pieces import shelf
from laptick.studio.pieces.play_along import PlayQuery, play_along

router = APIRouter(tags=["playing"])

#: Shown where the volume is set (docs/trade.md 3.6).
CAUTION = (
    "Click and headphones at a comfortable level: turn it down first, then up until the count is just clear. "
    "A short break every 20 to 25 minutes."
)

#: What a play-along can be written as: format → media type.
SOUNDS: dict[str, str] = {"wav": "audio/wav", "mid": "audio/midi"}


@router.get("/pieces/{piece_id}/schedule")
def get_schedule(studio: StudioNow, piece_id: Id, query: Annotated[PlayQuery, Query()]) -> SchedulePublic:
    """When everything of a play-along sounds, in played order; the cursor moves on the written score."""
    made = play_along(studio, piece_id, query)
    return schedule_public(made.schedule, made.bank, made.ending)


@router.get("/pieces/{piece_id}/sound", response_class=Response)
def get_sound(studio: StudioNow, piece_id: Id, query: Annotated[SoundQuery, Query()]) -> Response:
    """The same as a file: WAV with everything, or MIDI with the count as lyrics."""
    made = play_along(studio, piece_id, query, with_whispers=query.format == "wav")
    levels = levels_of(query.levels)
    data = sound_wav(made.schedule, made.bank, levels) if query.format == "wav" else sound_midi(made.schedule, levels)
    name = f"{made.piece.stem}-{NAMES[query.mode]}.{query.format}"
    return Response(data, media_type=SOUNDS[query.format], headers=named(name))


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
def get_pack() -> Response:
    """All sounds that ship, in one file; its address changes with its content."""
    return Response(
        pack_bytes(), media_type="audio/flac", headers={"Cache-Control": "public, max-age=31536000, immutable"}
    )


def levels_of(text: str | None) -> dict[Track, float]:
    """``click:60,voice:100`` → how loud each track is; those that are not named are silent.

    Raises:
        OptionError: a track that there is not, or no percentage.
    """
    if text is None:
        return dict(MIX)
    levels: dict[Track, float] = {}
    for item in text.split(","):
        name, _, percent = item.partition(":")
        try:
            level = float(percent) / 100
            tracks = list(VOICE) if name == "voice" else [Track(name)]
        except ValueError:
            level, tracks = -1.0, []
        if not 0 <= level <= 1:
            raise OptionError(f"“{item[:30]}” should read like click:60.", where="levels")
        levels |= dict.fromkeys(tracks, level)
    return levels
