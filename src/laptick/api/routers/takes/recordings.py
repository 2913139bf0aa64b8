"""Recordings sent in chunk by chunk, and consent to keep them."""

from __future__ import annotations

import re
from typing import Annotated

from fastapi import APIRouter, Body, Header, Path, Response

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.routers.pieces.pieces import plain_name
from laptick.api.schemas.common import Id
from laptick.api.schemas.recordings import (
    ConsentCreate,
    ConsentPublic,
    ConsentsPublic,
    ConsentWithdrawn,
    RecordingComplete,
    RecordingCreate,
    RecordingPublic,
)
from laptick.core.takes.heard import KnownClick
from laptick.studio.recordings import consents, playing, sending
from laptick.studio.recordings.consents import NewConsent
from laptick.studio.recordings.sending import CHUNK_BYTES, MOST_CHUNKS, MOST_STORED_BYTES, Coming, Sent

router = APIRouter(route_class=ModelRoute, tags=["recordings"])

ChunkNumber = Annotated[int, Path(ge=0, lt=MOST_CHUNKS)]


@router.post("/pieces/{piece_id}/recordings", status_code=201)
def begin_recording(studio: StudioNow, piece_id: Id, new: RecordingCreate) -> RecordingPublic:
    """A take whose sound is about to come: stored at once, heard when all of it is here."""
    name = plain_name(new.filename, "recording")
    click = None if new.first_beat_s is None else KnownClick(new.first_beat_s, tuple(new.clicks_s))
    sent = Sent(name, new.media_type, new.device, dict(new.recorder), new.consent_id, new.client_key, click)
    return _public(sending.begin_recording(studio, piece_id, new, sent))


@router.get("/recordings/{recording_id}")
def get_recording(studio: StudioNow, recording_id: Id) -> RecordingPublic:
    """What of it is here, for who goes on sending it."""
    return _public(sending.get_coming(studio, recording_id))


@router.put("/recordings/{recording_id}/chunks/{number}", status_code=204)
def put_chunk(
    studio: StudioNow,
    recording_id: Id,
    number: ChunkNumber,
    data: Annotated[bytes, Body(media_type="application/octet-stream", max_length=CHUNK_BYTES)],
) -> None:
    """A chunk, as often as it takes."""
    sending.put_chunk(studio, recording_id, number, data)


@router.post("/recordings/{recording_id}/complete")
def complete_recording(studio: StudioNow, recording_id: Id, whole: RecordingComplete) -> RecordingPublic:
    """All of it is here: its take waits to be heard."""
    return _public(sending.complete_recording(studio, recording_id, whole.sha256))


@router.get("/recordings/{recording_id}/playback", response_class=Response)
def get_playback(
    studio: StudioNow, recording_id: Id, asked: Annotated[str | None, Header(alias="Range", max_length=100)] = None
) -> Response:
    """The copy that is played: left what was recorded, right the click of its beat; a part of it where a range of bytes
    is asked for."""
    first, last = _range_of(asked)
    part = playing.get_playback(studio, recording_id, first, last)
    headers = {"Accept-Ranges": "bytes"}
    if first is None and last is None:
        return Response(part.data, media_type=playing.MEDIA_TYPE, headers=headers)
    headers["Content-Range"] = f"bytes {part.first}-{part.first + len(part.data) - 1}/{part.size}"
    return Response(part.data, status_code=206, media_type=playing.MEDIA_TYPE, headers=headers)


def _range_of(asked: str | None) -> tuple[int | None, int | None]:
    """A range of bytes as it is asked for (RFC 9110, 14.2), of several the first; anything else asks for all."""
    found = re.match(r"bytes=\s*(\d{0,12})-(\d{0,12})\s*(?:,|$)", asked or "")
    if found is None or found[1] == found[2] == "":
        return None, None
    first, last = (int(one) if one else None for one in found.groups())
    if first is not None and last is not None and last < first:
        return None, None
    return first, last


@router.delete("/recordings/{recording_id}/sound", status_code=204)
def drop_sound(studio: StudioNow, recording_id: Id) -> None:
    """Takes the sound away and leaves the take."""
    sending.drop_sound(studio, recording_id)


@router.get("/consents")
def list_consents(studio: StudioNow) -> ConsentsPublic:
    """The consents that hold, the newest first."""
    found = consents.list_consents(studio)
    return ConsentsPublic(
        items=[ConsentPublic(**vars(one)) for one in found.items],
        stored_bytes=found.stored_bytes,
        most_stored_bytes=MOST_STORED_BYTES,
    )


@router.post("/consents", status_code=201)
def add_consent(studio: StudioNow, new: ConsentCreate) -> ConsentPublic:
    """Notes that somebody agreed."""
    noted = NewConsent(new.student_id, new.given_by, new.purpose, new.given_on)
    return ConsentPublic(**vars(consents.add_consent(studio, noted)))


@router.delete("/consents/{consent_id}")
def withdraw_consent(studio: StudioNow, consent_id: Id) -> ConsentWithdrawn:
    """Ends a consent; the sound that was kept by it goes."""
    return ConsentWithdrawn(dropped=consents.withdraw_consent(studio, consent_id))


def _public(coming: Coming) -> RecordingPublic:
    return RecordingPublic(
        id=coming.id,
        take_id=coming.take_id,
        here=list(coming.here),
        is_complete=coming.is_complete,
        chunk_bytes=CHUNK_BYTES,
        most_chunks=MOST_CHUNKS,
    )
