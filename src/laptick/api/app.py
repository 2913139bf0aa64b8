"""The application: ``create_app(settings)``. It holds no state of its own; everything is in MariaDB."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from http import HTTPStatus
from pathlib import Path
from typing import Any

import anyio
from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, Response
from fastapi.routing import APIRoute
from starlette.middleware.gzip import GZipMiddleware

from laptick import __version__
from laptick.api.request.asking import AT_ONCE, MORE_THREADS
from laptick.api.request.errors import error_answer, install_error_handlers
from laptick.api.request.guard import Guard
from laptick.api.request.headers import Head
from laptick.api.request.limits import BodyLimit
from laptick.api.request.observed import Observed, is_this_machine, metrics
from laptick.api.request.room import Room, RoomGuard
from laptick.api.request.settings import AppSettings as AppSettings  # who makes an application has it from here
from laptick.api.routers.people import audit, links, sign_in, students
from laptick.api.routers.pieces import (
    counts,
    drills,
    entry,
    pages,
    pencil,
    pieces,
    play_along,
    questions,
    roadmap,
    together,
)
from laptick.api.routers.studies import along, studies
from laptick.api.routers.studio import bundles, choices, jobs, voice
from laptick.api.routers.takes import judgements, listening, recordings, takes
from laptick.api.schemas.common import ErrorAnswer, HealthPublic
from laptick.core.base.errors import NotFoundError
from laptick.db.engine.connect import DbSettings, connect
from laptick.db.engine.pool import Pool
from laptick.studio.jobs.waiting import waiting_jobs
from laptick.studio.people.sign_in import NO_STUDIO
from laptick.studio.use_case import Studio

#: Of the page itself: nothing is loaded from elsewhere.
PAGE_POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; media-src 'self' blob:;"
    " base-uri 'none'; form-action 'self'"
)


def _operation_id(route: APIRoute) -> str:
    return route.name


def _refused(code: int) -> dict[str, Any]:
    """An error of any route, for the description. By reference: with the model itself every route would build seven
    more validators that nothing is ever validated by, which was two thirds of the time to the first answer."""
    schema = {"$ref": f"#/components/schemas/{ErrorAnswer.__name__}"}
    return {"description": HTTPStatus(code).phrase, "content": {"application/json": {"schema": schema}}}


def create_app(settings: AppSettings) -> FastAPI:
    @asynccontextmanager
    async def while_it_runs(app: FastAPI) -> AsyncIterator[None]:
        anyio.to_thread.current_default_thread_limiter().total_tokens = AT_ONCE + MORE_THREADS
        yield
        app.state.pool.close()

    app = FastAPI(
        title="Lap Tick",
        version=__version__,
        generate_unique_id_function=_operation_id,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        lifespan=while_it_runs,
        responses={code: _refused(code) for code in (401, 403, 404, 409, 413, 422, 503)},
    )
    use_database(app, settings.db)
    app.state.demo = settings.demo
    app.state.reach = settings.reach
    install_error_handlers(app)
    app.add_middleware(GZipMiddleware, minimum_size=800, compresslevel=4)
    room = Room(settings.data)
    app.add_middleware(BodyLimit)
    app.add_middleware(RoomGuard, room=room)
    app.add_middleware(Guard, hosts=settings.hosts, any_address=settings.any_address)
    app.add_middleware(Head)
    app.add_middleware(Observed)
    for router in (
        pieces.router,
        counts.router,
        roadmap.router,
        pages.router,
        play_along.router,
        entry.router,
        pencil.router,
        questions.router,
        together.router,
        drills.router,
        sign_in.router,
        links.router,
        audit.router,
        students.router,
        studies.router,
        along.router,
        takes.router,
        choices.router,
        voice.router,
        judgements.router,
        listening.router,
        recordings.router,
        jobs.router,
        bundles.router,
    ):
        app.include_router(router, prefix="/api")

    asking_health = anyio.CapacityLimiter(1)

    # One route brings the model of errors into the description, to which all others refer.
    @app.get("/api/health", tags=["health"], responses={503: {"model": ErrorAnswer}})
    async def get_health(request: Request) -> HealthPublic:
        """Answers when the database does; however much else is waiting, this does not wait behind it."""
        await anyio.to_thread.run_sync(_ask, request.app.state.db, limiter=asking_health)
        return HealthPublic(status="ok", version=__version__, warning=room.warning())

    @app.get("/api/metrics", include_in_schema=False)
    async def get_metrics(request: Request) -> Response:
        """What a monitor on this machine reads; to others there is nothing here."""
        if request.client is None or not is_this_machine(request.client.host):
            return await no_such_api("metrics")

        def read() -> bytes:
            with request.app.state.pool.lent() as connection:
                return metrics(waiting_jobs(Studio(connection, NO_STUDIO)), room.free_bytes())

        text = await anyio.to_thread.run_sync(read, limiter=asking_health)
        return Response(text, media_type="text/plain; version=0.0.4; charset=utf-8")

    @app.api_route("/api/{path:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False)
    async def no_such_api(path: str) -> Response:
        return error_answer(404, "not-found", f"there is nothing at /api/{path[:80]}.")

    if settings.web is not None:
        _serve_web(app, settings.web)
    return app


def use_database(app: FastAPI, settings: DbSettings) -> None:
    """What it asks from now on; a turn is a request's place among those that it may be asked by at once."""
    app.state.db = settings
    app.state.pool = Pool(settings, AT_ONCE)
    app.state.turns = anyio.Semaphore(AT_ONCE)


def _ask(settings: DbSettings) -> None:
    connect(settings).close()


def _serve_web(app: FastAPI, web: Path) -> None:
    """The built interface; every path that is no file is a view of its own and gets the page."""
    root = web.resolve()

    @app.get("/{path:path}", include_in_schema=False)
    def get_page(path: str) -> FileResponse:
        try:
            file = (root / path).resolve()
            is_file = bool(path) and file.is_file() and file.is_relative_to(root)
        except OSError:  # a name longer than any file's
            is_file = False
        headers = {"Content-Security-Policy": PAGE_POLICY}
        if is_file:
            if path.startswith("assets/"):  # their names change with their content
                headers["Cache-Control"] = "public, max-age=31536000, immutable"
            return FileResponse(file, headers=headers)
        headers["Cache-Control"] = "no-cache"
        if path.startswith("assets/"):
            # A page of an earlier version asks for a part that is gone; a page in its place would break it silently.
            raise NotFoundError("this part of the page is not here any more.", todo="Reload the page.")
        return FileResponse(root / "index.html", headers=headers)
