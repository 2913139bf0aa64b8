"""The application: ``create_app(settings)``. It holds no state of its own; everything is in MariaDB."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from fastapi import FastAPI
from fastapi.responses import FileResponse, Response
from fastapi.routing import APIRoute
from starlette.middleware.gzip import GZipMiddleware

from laptick import __version__
from laptick.api.request.errors import error_answer, install_error_handlers
from laptick.api.request.limits import BodyLimit
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
from laptick.api.routers.studies import studies
from laptick.api.routers.studio import choices, voice
from laptick.api.routers.takes import judgements, listening, takes
from laptick.api.schemas.common import ErrorAnswer
from laptick.core.base.errors import NotFoundError
from laptick.db.engine.connect import DbSettings, connect

#: Nothing is loaded from elsewhere, and no other page may frame this one.
SECURITY_HEADERS = {
    "Content-Security-Policy": "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:;"
    " frame-ancestors 'none'; base-uri 'none'; form-action 'self'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
}


@dataclass(frozen=True)
class AppSettings:
    """``web`` is the built interface, or ``None`` to serve the API alone."""

    db: DbSettings
    web: Path | None = None


def _operation_id(route: APIRoute) -> str:
    return route.name


def create_app(settings: AppSettings) -> FastAPI:
    app = FastAPI(
        title="Lap Tick",
        version=__version__,
        generate_unique_id_function=_operation_id,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        responses={code: {"model": ErrorAnswer} for code in (404, 409, 413, 422, 503)},
    )
    app.state.db = settings.db
    install_error_handlers(app)
    app.add_middleware(GZipMiddleware, minimum_size=800)
    app.add_middleware(BodyLimit)
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
        studies.router,
        takes.router,
        choices.router,
        voice.router,
        judgements.router,
        listening.router,
    ):
        app.include_router(router, prefix="/api")

    @app.get("/api/health", tags=["health"])
    def get_health() -> dict[str, Any]:
        """Answers when the database does."""
        connect(settings.db).close()
        return {"status": "ok", "version": __version__}

    @app.api_route("/api/{path:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False)
    def no_such_api(path: str) -> Response:
        return error_answer(404, "not-found", f"there is nothing at /api/{path[:80]}.")

    if settings.web is not None:
        _serve_web(app, settings.web)
    return app


def _serve_web(app: FastAPI, web: Path) -> None:
    """The built interface; every path that is no file is a view of its own and gets the page."""
    root = web.resolve()

    @app.get("/{path:path}", include_in_schema=False)
    def get_page(path: str) -> FileResponse:
        file = (root / path).resolve()
        headers = dict(SECURITY_HEADERS)
        if path and file.is_file() and file.is_relative_to(root):
            if path.startswith("assets/"):  # their names change with their content
                headers["Cache-Control"] = "public, max-age=31536000, immutable"
            return FileResponse(file, headers=headers)
        headers["Cache-Control"] = "no-cache"
        if path.startswith("assets/"):
            # A page of an earlier version asks for a part that is gone; a page in its place would break it silently.
            raise NotFoundError("this part of the page is not here any more.", todo="Reload the page.")
        return FileResponse(root / "index.html", headers=headers)
