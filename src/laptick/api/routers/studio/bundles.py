"""A studio, or a student's share of it, as a file: made and taken along; sent in by parts, looked at, brought in."""

from __future__ import annotations

from collections.abc import AsyncIterator
from typing import Annotated
from urllib.parse import quote

import anyio.to_thread
from fastapi import APIRouter, Body, Depends, Path, Response
from fastapi.responses import StreamingResponse

from laptick.api.request.asking import StudioNow, Turn, wait_for_turn
from laptick.api.request.sending import ModelRoute
from laptick.api.routers.pieces.pieces import plain_name
from laptick.api.schemas.common import Id
from laptick.api.schemas.jobs import JobPublic
from laptick.api.schemas.people.bundles import BundleAsked, BundleAtWork, BundleCreate, BundlePublic
from laptick.api.views.jobs import job_public
from laptick.core.base.errors import ConflictError
from laptick.studio.moving import bundles, importing
from laptick.studio.moving.bundles import CHUNK_BYTES, MOST_CHUNKS, Bundle

router = APIRouter(route_class=ModelRoute, prefix="/bundles", tags=["bundles"])

PartNumber = Annotated[int, Path(ge=0, lt=MOST_CHUNKS)]


@router.post("", status_code=202)
def ask_for_bundle(studio: StudioNow, asked: BundleAsked) -> BundleAtWork:
    """All of the studio, or one student's share, as a file; in place of one asked for before."""
    bundle, job = bundles.ask_for_bundle(studio, asked.student_id)
    return BundleAtWork(bundle=_public(bundle), job=job_public(job))


@router.get("/{bundle_id}")
def get_bundle(studio: StudioNow, bundle_id: Id) -> BundlePublic:
    """How far a file is, and what is in it."""
    return _public(bundles.get_bundle(studio, bundle_id))


@router.get("/{bundle_id}/file", response_class=Response)
async def get_bundle_file(turn: Annotated[Turn, Depends(wait_for_turn, scope="function")], bundle_id: Id) -> Response:
    """The file, part by part: none of them waits in memory for another."""

    def found() -> Bundle:
        with turn.studio() as studio:
            return bundles.get_bundle(studio, bundle_id)

    def part(number: int) -> bytes:
        with turn.studio() as studio:
            return bundles.get_part(studio, bundle_id, number)

    async def parts() -> AsyncIterator[bytes]:
        for number in range(-(-bundle.size // CHUNK_BYTES)):
            yield await anyio.to_thread.run_sync(part, number)

    bundle = await anyio.to_thread.run_sync(found)
    if bundle.direction != "out" or not bundle.is_complete:
        raise ConflictError("this file is not ready.", kept="Nothing was changed.", todo="Wait until it is.")
    headers = {
        "Content-Length": str(bundle.size),
        "Content-Disposition": f"attachment; filename*=UTF-8''{quote(bundle.filename)}",
        "Content-Encoding": "identity",  # it is compressed
    }
    return StreamingResponse(parts(), media_type="application/zip", headers=headers)


@router.post("/coming", status_code=201)
def begin_bundle(studio: StudioNow, new: BundleCreate) -> BundlePublic:
    """A file that is about to come in; in place of one that came before."""
    return _public(bundles.begin_bundle(studio, plain_name(new.filename, "studio.zip")))


@router.put("/{bundle_id}/chunks/{number}", status_code=204)
def put_bundle_chunk(
    studio: StudioNow,
    bundle_id: Id,
    number: PartNumber,
    data: Annotated[bytes, Body(media_type="application/octet-stream", max_length=CHUNK_BYTES)],
) -> None:
    """A part of it, as often as it takes."""
    bundles.put_part(studio, bundle_id, number, data)


@router.post("/{bundle_id}/complete")
def complete_bundle(studio: StudioNow, bundle_id: Id) -> BundlePublic:
    """All of it is here: what is in it. Nothing is brought in yet."""
    return _public(bundles.complete_bundle(studio, bundle_id))


@router.post("/{bundle_id}/bring-in", status_code=202)
def bring_in_bundle(studio: StudioNow, bundle_id: Id) -> JobPublic:
    """Adds what is in it to the studio; a job does it."""
    return job_public(bundles.ask_to_bring_in(studio, bundle_id))


@router.post("/{bundle_id}/take-back")
def take_bundle_back(studio: StudioNow, bundle_id: Id) -> BundlePublic:
    """Takes what it brought off the shelf and the list again."""
    importing.take_back(studio, bundle_id)
    return _public(bundles.get_bundle(studio, bundle_id))


def _public(bundle: Bundle) -> BundlePublic:
    return BundlePublic(**vars(bundle) | {"here": list(bundle.here), "chunk_bytes": CHUNK_BYTES})
