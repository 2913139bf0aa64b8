"""Which columns of which tables travel with a studio, as facts.

What can be worked out again does not travel (what a shelf shows of a piece, the copy of a recording that is played),
nor what is of this machine only (who signs in, links, jobs, the log). Rows are named by numbers of the file's own.
Source: the tables themselves; ``tests/studio/test_moving.py`` holds every column against these facts.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from laptick.core.base.levels import Level


class Kind(Enum):
    """What a column holds, and how that is written: an instant as ISO 8601 in UTC, JSON as itself, ``PACKED`` likewise,
    though stored compressed."""

    TEXT = "text"
    NUMBER = "number"
    WHOLE = "whole number"
    TRUTH = "true or false"
    INSTANT = "instant"
    DAY = "day"
    JSON = "JSON"
    PACKED = "packed JSON"


#: Bytes of JSON in one column.
MOST_JSON = 8 * 2**20


@dataclass(frozen=True)
class Column:
    """``most``: characters of a text, or the greatest whole number; ``among``: the only values there are."""

    name: str
    kind: Kind
    most: int = 0
    may_be_none: bool = False
    among: tuple[str, ...] = ()


@dataclass(frozen=True)
class Moved:
    """``apart``: columns that travel otherwise, as files or by number; ``left``: that do not travel, and why."""

    table: str
    columns: tuple[Column, ...]
    apart: frozenset[str] = frozenset()
    left: frozenset[str] = frozenset()
    has_id: bool = True


def _text(name: str, most: int, *, none: bool = False, among: tuple[str, ...] = ()) -> Column:
    return Column(name, Kind.TEXT, most, none, among)


def _number(name: str, *, none: bool = False) -> Column:
    return Column(name, Kind.NUMBER, may_be_none=none)


def _whole(name: str, most: int = 2**32 - 1, *, none: bool = False) -> Column:
    return Column(name, Kind.WHOLE, most, none)


def _truth(name: str, *, none: bool = False) -> Column:
    return Column(name, Kind.TRUTH, may_be_none=none)


def _at(name: str, *, none: bool = False) -> Column:
    return Column(name, Kind.INSTANT, may_be_none=none)


def _json(name: str, *, none: bool = False) -> Column:
    return Column(name, Kind.JSON, MOST_JSON, none)


def _left(names: str) -> frozenset[str]:
    return frozenset(names.split())


_LEVELS = tuple(level.value for level in Level)

#: A note has as many characters as a column of that kind holds in any alphabet.
_NOTE = 16_000

STUDIO = Moved(
    "studio",
    (_text("name", 200), _text("time_zone", 64), _whole("sound_days", 65_535, none=True)),
    left=_left("created_at"),
)
PIECE = Moved(
    "piece",
    (
        _text("title", 200), _text("composer", 200), _text("filename", 255), _text("level", 20, among=_LEVELS),
        _number("target_bpm"), _json("reading", none=True), _json("play_order", none=True), _json("entry", none=True),
        _json("drill", none=True), _at("created_at"),
    ),
    apart=_left("original original_sha256 pencil_version_id"),
    left=_left(
        "entry_version demo_key deleted_at signature bars beat_quarters hands opening unread face_of takes_changed"
        " progress progress_of is_asymmetric difficulty"
    ),
)  # fmt: skip
PENCIL_VERSION = Moved("pencil_version", (_json("changes"), _at("made_at")), apart=_left("piece_id before_id"))
COUNT_CHOICE = Moved("count_choice", (_json("document"),), apart=_left("piece_id"), left=_left("piece_key changed_at"))
ANSWER = Moved(
    "answer",
    (_text("kind", 20), _text("question", 100), _json("given"), _truth("is_right"), _at("answered_at")),
    apart=_left("piece_id"),
)
VOICE_WORD = Moved(
    "voice_word",
    (_text("reading", 24), _text("spoken", 24), _number("vowel_s"), _truth("is_used"), _at("recorded_at")),
    apart=_left("audio"),
)
SCHOOL_CHOICE = Moved("school_choice", (_text("level", 20), _json("answers")), has_id=False)
STUDENT = Moved(
    "student",
    (
        _text("name", 200), _truth("is_built_in"), _text("level", 20, none=True, among=_LEVELS),
        _whole("span", 255, none=True), _json("school"), _whole("days_a_week", 255, none=True),
        _whole("minutes_a_day", 65_535, none=True), _text("note", _NOTE), _truth("is_paused"), _at("created_at"),
        _whole("things_a_day", 255, none=True), _whole("softer_percent", 65_535),
    ),
    left=_left("version deleted_at demo_key"),
)  # fmt: skip
STUDY = Moved(
    "study",
    (
        _text("measures", 40), _json("school"), _json("edits"), _truth("takes_told"), _at("created_at"),
        _at("given_at", none=True), _at("ended_at", none=True),
    ),
    apart=_left("student_id piece_id"),
    left=_left("edits_version progress progress_of"),
)  # fmt: skip
TAKE = Moved(
    "take",
    (
        _text("activity", 20), _json("settings"), _number("assigned_bpm"), _text("level", 20, among=_LEVELS),
        _json("strikes", none=True), _text("played_by", 20), _text("note", _NOTE), _at("created_at"),
        _text("state", 20, among=("waiting", "judged", "failed")), _text("failure", 1000, none=True),
    ),
    apart=_left("piece_id study_id"),
    # What a list shows of a take is what its judgements and overrules say: set again from them.
    left=_left("client_key deleted_at status overruled checker_version judged_at verdict codes median_bpm is_noted"),
)  # fmt: skip
JUDGEMENT = Moved(
    "judgement",
    (
        _text("checker_version", 20), _text("status", 20), _json("verdict", none=True), _json("codes"),
        _number("median_bpm", none=True), _at("judged_at"), Column("document", Kind.PACKED, MOST_JSON, True),
    ),
    apart=_left("take_id"),
)  # fmt: skip
OVERRULE = Moved(
    "overrule",
    (_text("status", 20), _text("reason", 1000), _at("created_at"), _at("withdrawn_at", none=True)),
    apart=_left("take_id"),
)
LISTENING = Moved(
    "listening",
    (_json("settings"), _json("slips"), _number("first_beat_s"), _text("note", _NOTE), _at("created_at")),
    apart=_left("piece_id study_id"),
    left=_left("client_key deleted_at"),
)
RUNG_EVENT = Moved(
    "rung_event",
    (
        _text("rung", 120), _text("kind", 20), _whole("day"), _text("said_by", 200), _text("outcome", 20, none=True),
        _number("bpm", none=True), _truth("at_target"), _text("feel", 20, none=True), _text("why", 1000),
        _at("created_at"),
    ),
    apart=_left("study_id take_id"),
)  # fmt: skip
RUNG_STATE = Moved(
    "rung_state",
    (
        _text("rung", 120), _text("gate", 20), _whole("passed_day", none=True), _text("passed_by", 200),
        _json("state"),
    ),
    apart=_left("study_id"),
    has_id=False,
)  # fmt: skip
CONSENT = Moved(
    "consent",
    (
        _text("student", 120), _text("given_by", 120), _text("purpose", 500), Column("given_on", Kind.DAY),
        _at("created_at"), _at("withdrawn_at", none=True),
    ),
    apart=_left("student_id"),
)  # fmt: skip
RECORDING = Moved(
    "recording",
    (
        _text("filename", 200), _text("media_type", 100), _text("device", 300), _json("recorder"),
        _number("first_beat_s", none=True), _json("clicks"), _truth("is_kept"), _whole("size", 2**40),
        _text("sha256", 64, none=True), _at("created_at"), _at("completed_at", none=True),
        _at("dropped_at", none=True),
    ),
    apart=_left("take_id consent_id"),
    left=_left("playback_size"),
)  # fmt: skip

MOVED = (
    STUDIO, PIECE, PENCIL_VERSION, COUNT_CHOICE, ANSWER, VOICE_WORD, SCHOOL_CHOICE, STUDENT, STUDY, TAKE, JUDGEMENT,
    OVERRULE, LISTENING, RUNG_EVENT, RUNG_STATE, CONSENT, RECORDING,
)  # fmt: skip

#: Tables that do not travel: of this machine, made anew from what travels, or sound that travels as a file.
STAYING = _left(
    "schema_migration teacher sign_in_device personal_link session audit job made recording_chunk playback_chunk"
    " bundle bundle_chunk"
)
