"""A piece's play-along: which parts sound when, with the studio's own voice."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from laptick.core.base.errors import OptionError, TakeError
from laptick.core.base.units import MAX_BPM, MIN_BPM, Seconds, slower_mark
from laptick.core.counting.choices import Density
from laptick.core.play_along.grooves import AUTO_GROOVE, check_groove
from laptick.core.play_along.rounds import (
    MAX_GAP_BEATS,
    MAX_ROUNDS,
    Between,
    EchoBy,
    EchoIn,
    echo_parts,
    hear_parts,
    play_parts,
)
from laptick.core.play_along.schedule import Schedule, Sounding, Track
from laptick.core.play_along.scheduling import VOICE, Part, make_schedule
from laptick.core.score.hands import HAND_KEYS
from laptick.core.score.score import HANDS, Measure, Score
from laptick.core.score.within import MOST_LETTERS
from laptick.core.takes.task import lap_task
from laptick.formats.sound.play_along import MIX
from laptick.formats.sound.voices import VoiceBank
from laptick.studio.pieces.open_piece import Piece, open_piece
from laptick.studio.takes.passage import cut_of
from laptick.studio.takes.settings import HandChoice
from laptick.studio.use_case import Studio, use_case
from laptick.studio.voice import voice_bank

#: How many metronome marks slower a piece is heard the second time, where nobody chose.
SLOW_MARKS = 10

#: Bars in the cycle of which some are silent.
MAX_QUIET = 16


class PlayQuery(BaseModel):
    """How a passage is played. ``within``: of the hands only that spot of it; ``mode``: in rounds, as an echo, or heard
    whole and then slowly. ``quiet_bars`` of every ``quiet_of`` bars are silent, the last ones; ``density``: counted so
    densely, whatever was chosen."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    bpm: float = Field(ge=MIN_BPM, le=MAX_BPM)
    hands: HandChoice = "both"
    measures: str | None = Field(default=None, max_length=40)
    within: str | None = Field(default=None, max_length=MOST_LETTERS)
    mode: Literal["play", "echo", "hear"] = "play"
    rounds: int = Field(default=1, ge=1, le=MAX_ROUNDS)
    between: Between = Between.COUNT_IN
    gap_beats: int = Field(default=2, ge=0, le=MAX_GAP_BEATS)
    quiet_bars: int = Field(default=0, ge=0, le=MAX_QUIET)
    quiet_of: int = Field(default=1, ge=1, le=MAX_QUIET)
    groove: str = Field(default=AUTO_GROOVE, max_length=30)
    knocks: bool = False
    echo_by: EchoBy = EchoBy.GROWING
    echo_in: EchoIn = EchoIn.TONES
    slow_bpm: float | None = Field(default=None, ge=MIN_BPM, le=MAX_BPM)
    click_counts: bool = False
    density: Density | None = None
    cues: bool = True


@dataclass(frozen=True)
class Ending:
    """When a take along with it is over: so many taps or keys were struck, the last one (on one of ``last_pitches``) is
    due at ``last_s``, and between two of them pass at most ``gap_s``."""

    taps: int
    keys: int
    last_s: Seconds
    gap_s: Seconds
    last_pitches: tuple[int, ...]


@dataclass(frozen=True)
class PlayAlong:
    """A schedule with the voice that says its words. ``ending``: of a plain one, where something is struck."""

    piece: Piece
    schedule: Schedule
    bank: VoiceBank
    ending: Ending | None = None


@use_case
def play_along(studio: Studio, piece_id: int, query: PlayQuery, *, with_whispers: bool = False) -> PlayAlong:
    """When everything of a play-along sounds, in played order. ``with_whispers``: the studio's own recordings whispered
    too, which takes a moment each.

    Raises:
        OptionError: bars that the piece has not, or an unknown groove.
    """
    piece, bank = open_piece(studio, piece_id), voice_bank(studio, with_whispers=with_whispers)
    schedule = schedule_of(piece, query, bank)
    return PlayAlong(piece, schedule, bank, _ending(piece.played, query, schedule) if query.mode == "play" else None)


def _ending(score: Score, query: PlayQuery, schedule: Schedule) -> Ending | None:
    hand = HAND_KEYS[query.hands]
    hands, measures = (hand,) if hand else HANDS, score.select_measures(query.measures)
    cut = cut_of(score, query.measures, query.within)
    try:
        tapped = lap_task(score, assigned_bpm=query.bpm, measures=measures, hands=hands, cut=cut)
        keyed = lap_task(score, assigned_bpm=query.bpm, measures=measures, hands=hands, with_pitches=True, cut=cut)
    except TakeError:
        return None  # nothing is struck there
    at = tapped.clock(query.bpm)
    struck_s = sorted({at(one.onset_quarters) for one in tapped.expected})
    gaps_s = [after - before for before, after in pairwise(struck_s)]
    if cut is not None:  # from one time round to the next
        gaps_s.append(tapped.clock(query.bpm)(tapped.length_quarters) - struck_s[-1] + struck_s[0])
    begins_s = schedule.stretches[-1].first_beat_s
    last = keyed.expected[-1].onset_quarters
    words = sum(not word.is_count_in for word in schedule.words)
    return Ending(
        taps=words if query.click_counts else query.rounds * len(tapped.expected),
        keys=query.rounds * len(keyed.expected),
        last_s=begins_s + struck_s[-1],
        gap_s=max(gaps_s, default=struck_s[-1] or 1.0),
        last_pitches=tuple(one.pitch for one in keyed.expected if one.onset_quarters == last and one.pitch is not None),
    )


def schedule_of(piece: Piece, query: PlayQuery, bank: VoiceBank) -> Schedule:
    """What sounds when; errors as ``play_along``."""
    score, hand = piece.played, HAND_KEYS[query.hands]
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
        choices=piece.choices_at(query.density),
        sounding=sounding,
    )
    return replace(schedule, remarks=(*schedule.remarks, *_missing(bank)))


def _parts(score: Score, measures: tuple[Measure, ...], query: PlayQuery) -> list[Part]:
    if query.mode == "echo":
        return echo_parts(score, measures, query.bpm, by=query.echo_by, given_in=query.echo_in)
    if query.mode == "hear":
        return hear_parts(score, measures, query.bpm, query.slow_bpm or slower_mark(query.bpm, SLOW_MARKS))
    rounds, gap_beats = query.rounds, query.gap_beats
    parts = play_parts(score, measures, query.bpm, rounds=rounds, between=query.between, gap_beats=gap_beats)
    cut = cut_of(score, query.measures, query.within)
    return [replace(part, cut=cut) for part in parts]


def _missing(bank: VoiceBank) -> tuple[str, ...]:
    if not bank.missing:
        return ()
    words = ", ".join(f"“{reading}”" for reading in sorted(bank.missing))
    return (f"Not spoken: {words}: {next(iter(bank.missing.values()))} Record them under Settings.",)


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
