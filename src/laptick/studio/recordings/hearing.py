"""A recording heard: decoded, followed, judged; what is not to be kept of it goes.

Done by a job. Decoding and listening hold no transaction: what they need is read first, what comes of them is stored
after, if the take still waits.
"""

from __future__ import annotations

import hashlib
import json
import logging
import tempfile
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from laptick.core.base.errors import LapTickError, NotFoundError, StorageError, TakeError
from laptick.core.base.levels import Level
from laptick.core.following.by_ear.take import hear_take
from laptick.core.hearing.quality import envelope_of
from laptick.core.takes.heard import KnownClick
from laptick.core.takes.performance import Source
from laptick.core.takes.take_state import TakeState
from laptick.core.takes.task import Task
from laptick.db import recordings as db
from laptick.db import takes as takes_db
from laptick.db.engine.connect import Row
from laptick.formats.audio.decoding import decode_file
from laptick.formats.audio.playback import playback_of
from laptick.formats.documents.take import stored_strikes
from laptick.studio.pieces.open_piece import open_piece
from laptick.studio.recordings import playing
from laptick.studio.takes.first_judging import judge_kept
from laptick.studio.takes.judging import performance_of, task_of
from laptick.studio.takes.settings import kept_settings
from laptick.studio.use_case import Studio, use_case

log = logging.getLogger("laptick")

#: What is said of a recording that the ear broke on.
FAILURE = "Listening broke on this recording. That is a fault of ours. Send the recording again; the take stays."


@dataclass(frozen=True)
class ToHear:
    """``path``: the sound; ``is_whole``: is it what was sent, bit for bit? ``task``: what was to be played; ``whole``:
    the same over all bars; ``click``: what the recorder sounded meanwhile."""

    path: Path
    is_whole: bool
    filename: str
    task: Task
    whole: Callable[[], Task]
    click: KnownClick | None


@use_case
def prepare_hearing(studio: Studio, take_id: int, path: Path) -> ToHear | None:
    """Lays a recording out as a file; ``None`` where its take waits for nothing any more."""
    try:
        take = takes_db.get_take(studio.connection, studio.id, take_id)
    except NotFoundError:
        return None
    recording = db.recording_of_take(studio.connection, studio.id, take_id)
    if recording is None or recording["dropped_at"] or take["state"] != TakeState.WAITING.value:
        return None
    is_whole = _lay_out(studio, recording, path)
    piece, settings = open_piece(studio, take["piece_id"]), kept_settings(take["settings"])
    score, level, knows = piece.played_then(settings), Level(take["level"]), Source.AUDIO.knows
    task = task_of(score, settings, level, knows)
    everything = settings.model_copy(update={"measures": None, "times_round": 1, "within": None})
    return ToHear(
        path,
        is_whole,
        recording["filename"],
        task,
        lambda: task_of(score, everything, level, knows),
        _click_of(recording["first_beat_s"], recording["clicks"]),
    )


def _lay_out(studio: Studio, recording: Row, path: Path) -> bool:
    """Writes the sound to a file; is it what was sent, bit for bit?"""
    digest = hashlib.sha256()
    with path.open("wb") as file:
        for chunk in db.chunks(studio.connection, studio.id, recording["id"]):
            file.write(chunk)
            digest.update(chunk)
    return digest.hexdigest() == str(recording["sha256"])


def _click_of(first_beat_s: object, clicks: object) -> KnownClick | None:
    """Read as if it were damaged: a click that cannot be read is not known."""
    if not isinstance(first_beat_s, float) or not isinstance(clicks, str):
        return None
    try:
        times = json.loads(clicks)
        return KnownClick(first_beat_s, tuple(sorted(float(at_s) for at_s in times)))
    except (TypeError, ValueError):
        return KnownClick(first_beat_s)


def heard_strikes(to_hear: ToHear) -> dict[str, Any]:
    """What was struck in a recording, as it is kept with its take.

    Raises:
        TakeError, LimitError: it holds nothing that can be heard, or is no longer what was sent.
    """
    if not to_hear.is_whole:
        raise TakeError(
            "what is stored of this recording is damaged.", kept="The take stays.", todo="Send the recording again."
        )
    decoded = decode_file(to_hear.path, filename=to_hear.filename)
    performance = hear_take(decoded.sound, to_hear.task, rate=decoded.rate, click=to_hear.click, whole=to_hear.whole)
    envelope = asdict(envelope_of(decoded.sound))
    return stored_strikes(performance) | {
        "codec": decoded.codec,
        "breaks_off": decoded.breaks_off,
        "envelope": envelope,
    }


@use_case
def keep_heard(studio: Studio, take_id: int, strikes: dict[str, Any] | None, failure: str | None) -> None:
    """Stores what was heard, or why nothing was, judges it and drops the sound that nobody agreed to keep."""
    try:
        take = takes_db.get_take(studio.connection, studio.id, take_id)
    except NotFoundError:
        return
    if take["state"] != TakeState.WAITING.value:
        return
    recording = db.recording_of_take(studio.connection, studio.id, take_id)
    if strikes is None:
        takes_db.set_state(studio.connection, studio.id, take_id, TakeState.FAILED.value, failure or FAILURE)
    else:
        takes_db.set_strikes(studio.connection, studio.id, take_id, strikes)
        judge_kept(studio, open_piece(studio, take["piece_id"]), {**take, "strikes": strikes})
    if recording is not None and not recording["is_kept"]:
        db.drop_sound(studio.connection, studio.id, recording["id"])


def hear(studio: Studio, take_id: int) -> None:
    """Hears and judges a take that waits for it."""
    with tempfile.TemporaryDirectory(prefix="laptick-heard-") as folder:
        to_hear = prepare_hearing(studio, take_id, Path(folder) / "sound")
        if to_hear is None:
            return
        strikes, failure = None, None
        try:
            strikes = heard_strikes(to_hear)
        except StorageError:
            raise
        except LapTickError as error:
            failure = error.one_line()
        except Exception:
            log.exception("the ear broke on take %s", take_id)
        keep_heard(studio, take_id, strikes, failure)
        if strikes is not None:
            copy_to_play(studio, take_id, to_hear.path, float(strikes["heard"]["seconds"]))


@use_case
def lay_out_kept(studio: Studio, take_id: int, path: Path) -> float | None:
    """Lays a kept recording out as a file, and tells its length in seconds; ``None`` where there is none any more, or
    what is stored is not what was sent."""
    try:
        take = takes_db.get_take(studio.connection, studio.id, take_id)
    except NotFoundError:
        return None
    recording = db.recording_of_take(studio.connection, studio.id, take_id)
    if recording is None or not recording["is_kept"] or recording["dropped_at"] or take["strikes"] is None:
        return None
    heard = performance_of(take["strikes"]).heard
    return heard.seconds if heard is not None and _lay_out(studio, recording, path) else None


def copy_again(studio: Studio, take_id: int) -> None:
    """The copy that is played made anew, after its take was judged anew: its click is the beat found then."""
    with tempfile.TemporaryDirectory(prefix="laptick-heard-") as folder:
        path = Path(folder) / "sound"
        seconds = lay_out_kept(studio, take_id, path)
        if seconds is not None:
            copy_to_play(studio, take_id, path, seconds)


def copy_to_play(studio: Studio, take_id: int, path: Path, seconds: float) -> None:
    """Makes the copy that is played, of a recording that is kept; without one the take stands all the same."""
    to_play = playing.prepare_playback(studio, take_id)
    if to_play is None:
        return
    try:
        data = playback_of(path, seconds, to_play.beats, filename=to_play.filename)
    except LapTickError:
        log.exception("no copy to play of take %s", take_id)
        return
    playing.keep_playback(studio, to_play.recording_id, data)
