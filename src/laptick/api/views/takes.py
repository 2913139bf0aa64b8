"""A take as it is shown: what was asked for, what was said of it, what was played, on its ruler."""

from __future__ import annotations

from pydantic import ValidationError

from laptick.api.schemas.takes import (
    EnvelopePublic,
    HeardSlip,
    ListeningPublic,
    MetPublic,
    StudentTake,
    TakePublic,
    TakeShort,
)
from laptick.api.views.counts import counts_public
from laptick.api.views.pieces import ruler_public
from laptick.core.base.units import Quarters
from laptick.core.drills.met import Met
from laptick.core.measuring.checking import CHECKER_VERSION
from laptick.core.score.places import beat_words, place_words, time_words
from laptick.core.score.score import Score
from laptick.core.takes.heard_words import heard_words
from laptick.formats.documents.check import VerdictTold
from laptick.formats.documents.take import heard_of
from laptick.studio.pieces.open_piece import Document
from laptick.studio.takes.judging import strikes_shown, take_choices
from laptick.studio.takes.listening import Listening
from laptick.studio.takes.shown import ShownTake

#: Columns of a take that are sent as they are stored.
_AS_STORED = (
    "id", "piece_id", "activity", "created_at", "assigned_bpm", "level", "played_by", "note", "checker_version",
    "judged_at", "status", "state", "failure",
)  # fmt: skip
_AS_LISTED = (
    "id", "activity", "created_at", "assigned_bpm", "median_bpm", "played_by", "note", "checker_version", "overruled",
    "state", "failure", "filename",
)  # fmt: skip


def take_public(shown: ShownTake) -> TakePublic:
    row, settings = shown.row, shown.settings
    return TakePublic.model_validate(
        {
            **{name: row[name] for name in _AS_STORED},
            "student_id": row["student_id"],
            "student": row["student"],
            "settings": settings.asked(),
            "checker_is_current": row["checker_version"] == CHECKER_VERSION,
            "overrule": shown.overrule,
            "verdict": shown.verdict,
            "document": shown.document,
            "earlier": [{**row, "verdict": verdict} for row, verdict in shown.earlier],
            "met": [_met_public(shown.score, one) for one in shown.met],
            "touched": [{"is_kept": one.is_kept, "text": one.text} for one in shown.touched],
            "strikes": strikes_shown(row["strikes"]),
            "recording": _recorded(shown),
            "envelope": _envelope(row["strikes"]),
            "heard_words": _heard_words(row["strikes"]),
            "ruler": ruler_public(shown.score),
            "counts": counts_public(shown.score, settings.hands, take_choices(settings, shown.level), settings.bpm),
        }
    )


def _recorded(shown: ShownTake) -> dict[str, object] | None:
    row = shown.recording
    if row is None:
        return None
    told = {name: row[name] for name in ("id", "filename", "size", "is_kept")}
    return told | {
        "is_complete": row["completed_at"] is not None,
        "may_hear": shown.may_hear,
        "can_play": shown.may_hear and row["playback_size"] > 0,
    }


def _envelope(strikes: object) -> EnvelopePublic | None:
    """The shape of the sound a take was heard in, read as if it were damaged."""
    if not isinstance(strikes, dict) or "envelope" not in strikes:
        return None
    try:
        return EnvelopePublic.model_validate(strikes["envelope"])
    except ValidationError:
        return None


def _heard_words(strikes: object) -> tuple[str, ...]:
    heard = heard_of(strikes.get("heard")) if isinstance(strikes, dict) else None
    return () if heard is None else heard_words(heard)


def _met_public(score: Score, met: Met) -> MetPublic:
    measure = score.measures[met.meeting.measure_index]
    words = f"bar {measure.number}, {beat_words(measure, met.meeting.offset_quarters)}"
    if met.time > 1:
        words += f", {time_words(met.time)}"
    return MetPublic(place_text=words, is_met=met.is_met, text=met.text)


def take_short(row: Document, verdict: VerdictTold | None) -> TakeShort:
    """A take in its piece's list."""
    return TakeShort.model_validate(
        {
            "hands": row["settings"].get("hands", "both"),
            "measures": row["settings"].get("measures"),
            "times_round": row["settings"].get("times_round", 1),
            "within": row["settings"].get("within"),
            "verdict": verdict,
            **{name: row[name] for name in _AS_LISTED},
        }
    )


def student_take(row: Document, verdict: VerdictTold | None) -> StudentTake:
    """A take in its student's list."""
    return StudentTake(**dict(take_short(row, verdict)), piece_id=row["piece_id"], title=row["title"])


def listening_public(listening: Listening) -> ListeningPublic:
    settings = listening.settings
    return ListeningPublic(
        id=listening.id,
        created_at=listening.created_at,
        bpm=settings.bpm,
        measures=settings.measures,
        hands=settings.hands,
        slips=[slip_public(listening.score, onset) for onset in listening.onsets_quarters],
    )


def slip_public(score: Score, onset: Quarters) -> HeardSlip:
    place = score.place_at(onset)
    words = f"{place_words(score, place)} · {beat_words(score.measure_of(place), place.offset_quarters)}"
    return HeardSlip(onset_quarters=float(onset), place_text=words)
