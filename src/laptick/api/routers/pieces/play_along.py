"""Play-along, echo and first hearing: the schedule, and the same as a file."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response

from laptick.api.request.asking import AskingNow, DbNow
from laptick.api.routers.pieces.pieces import quoted, stored_choices
from laptick.api.schemas.play_along import (
    GroovePublic,
    PlayOptions,
    PlayQuery,
    SchedulePublic,
    SoundQuery,
)
from laptick.api.views import pieces as views
from laptick.api.views.play_along import schedule_public
from laptick.api.views.voices import bank_of
from laptick.core.base.errors import OptionError
from laptick.core.base.units import slower_mark
from laptick.core.play_along.grooves import GROOVES, check_groove, grooves_for
from laptick.core.play_along.rounds import echo_parts, hear_parts, play_parts
from laptick.core.play_along.schedule import Schedule, Sounding, Track
from laptick.core.play_along.scheduling import VOICE, Part, make_schedule
from laptick.core.score.hands import HAND_KEYS
from laptick.core.score.score import HANDS, Measure, Score
from laptick.db import pieces as pieces_db
from laptick.db.engine.connect import Row
from laptick.formats.sound.play_along import MIX, sound_midi, sound_wav
from laptick.formats.sound.sound_pack import pack_bytes
from laptick.formats.sound.voices import VoiceBank

router = APIRouter(tags=["playing"])

#: Shown where the volume is set (handbook 3.6).
CAUTION = (
    "Click and headphones at a comfortable level: turn it down first, then up until the count is just clear. "
    "A short break every 20 to 25 minutes."
)

#: What a play-along can be written as: format → media type.
SOUNDS: dict[str, str] = {"wav": "audio/wav", "mid": "audio/midi"}


@router.get("/pieces/{piece_id}/schedule")
def get_schedule(
    asking: AskingNow, connection: DbNow, piece_id: int, query: Annotated[PlayQuery, Query()]
) -> SchedulePublic:
    """When everything of a play-along sounds, in played order; the cursor moves on the written score."""
    piece = pieces_db.get_piece(connection, asking.studio_id, piece_id)
    bank = bank_of(asking, connection)
    return schedule_public(_schedule(asking, connection, piece, query, bank), bank)


@router.get("/pieces/{piece_id}/sound", response_class=Response)
def get_sound(asking: AskingNow, connection: DbNow, piece_id: int, query: Annotated[SoundQuery, Query()]) -> Response:
    """The same as a file: WAV with everything, or MIDI with the count as lyrics."""
    piece = pieces_db.get_piece(connection, asking.studio_id, piece_id)
    bank = bank_of(asking, connection, with_whispers=query.format == "wav")
    schedule = _schedule(asking, connection, piece, query, bank)
    levels = levels_of(query.levels)
    data = sound_wav(schedule, bank, levels) if query.format == "wav" else sound_midi(schedule, levels)
    name = f"{piece['filename'].rsplit('.', 1)[0]}-{NAMES[query.mode]}.{query.format}"
    return Response(
        data,
        media_type=SOUNDS[query.format],
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quoted(name)}"},
    )


#: Mode → what its file is called.
NAMES: dict[Literal["play", "echo", "hear"], str] = {"play": "play-along", "echo": "echo", "hear": "first-hearing"}


@router.get("/pieces/{piece_id}/play-options")
def get_play_options(asking: AskingNow, connection: DbNow, piece_id: int) -> PlayOptions:
    """What can be chosen for a piece's play-along."""
    score = views.played_of(pieces_db.get_piece(connection, asking.studio_id, piece_id))
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


def _schedule(asking: AskingNow, connection: DbNow, piece: Row, query: PlayQuery, bank: VoiceBank) -> Schedule:
    score, hand = views.played_of(piece), HAND_KEYS[query.hands]
    check_groove(query.groove)
    sounding = Sounding(
        voice=bank,
        groove=query.groove,
        quiet=(min(query.quiet_bars, query.quiet_of), query.quiet_of),
        knocks=query.knocks,
        clicks_counts=query.click_counts,
        cues=query.cues,
    )
    schedule = make_schedule(
        score,
        _parts(score, score.select_measures(query.measures), query),
        hands=(hand,) if hand else HANDS,
        choices=stored_choices(asking, connection, piece),
        sounding=sounding,
    )
    return replace(schedule, remarks=(*schedule.remarks, *_missing(bank)))


def _parts(score: Score, measures: tuple[Measure, ...], query: PlayQuery) -> list[Part]:
    if query.mode == "echo":
        return echo_parts(score, measures, query.bpm, by=query.echo_by, given_in=query.echo_in)
    if query.mode == "hear":
        return hear_parts(score, measures, query.bpm, query.slow_bpm or slower_mark(query.bpm, SLOW_MARKS))
    return play_parts(score, measures, query.bpm, rounds=query.rounds, between=query.between, gap_beats=query.gap_beats)


#: How many metronome marks slower a piece is heard the second time, where nobody chose.
SLOW_MARKS = 10


def _missing(bank: VoiceBank) -> tuple[str, ...]:
    if not bank.missing:
        return ()
    words = ", ".join(f"“{reading}”" for reading in sorted(bank.missing))
    return (f"Not spoken: {words}: {next(iter(bank.missing.values()))} Record them under Settings.",)
