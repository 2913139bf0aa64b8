"""Core's errors as HTTP answers, translated here and nowhere else.

Every error has one shape: ``{"error": {"code", "what", "where", "kept", "todo"}}``.
"""

from __future__ import annotations

import logging

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from laptick.api.request.headers import set_usual
from laptick.core.base.errors import (
    ConflictError,
    InputError,
    LapTickError,
    LimitError,
    NotFoundError,
    RefusedError,
    SignedOutError,
    SpeechUnavailableError,
    StorageError,
)

log = logging.getLogger("laptick")

#: First match wins, so members stand before their families.
STATUS: tuple[tuple[type[LapTickError], int], ...] = (
    (LimitError, 413),
    (InputError, 422),
    (SignedOutError, 401),
    (RefusedError, 403),
    (NotFoundError, 404),
    (ConflictError, 409),
    (StorageError, 503),
    (SpeechUnavailableError, 501),
)


def error_answer(
    status: int, code: str, what: str, *, where: str | None = None, kept: str | None = None, todo: str | None = None
) -> JSONResponse:
    content = {"error": {"code": code, "what": what, "where": where, "kept": kept, "todo": todo}}
    answer = JSONResponse(content, status_code=status)
    set_usual(answer.headers)  # an answer to a fault of ours passes by what heads the others
    return answer


def install_error_handlers(app: FastAPI) -> None:
    @app.exception_handler(LapTickError)
    def on_ours(request: Request, error: LapTickError) -> JSONResponse:
        status = next((s for family, s in STATUS if isinstance(error, family)), 500)
        if status >= 500:
            log.error("%s %s: %s (%r)", request.method, request.url.path, error.what, error.__cause__)
        return error_answer(status, error.code, error.what, where=error.where, kept=error.kept, todo=error.todo)

    @app.exception_handler(RequestValidationError)
    def on_validation(request: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0] if error.errors() else {"loc": (), "msg": "not understood"}
        if first["loc"][:1] == ("path",):
            # An address with letters where a number should be: nobody typed a field wrong.
            return error_answer(404, "not-found", "there is nothing at this address.", todo="Go back to the pieces.")
        where = ".".join(str(part) for part in first["loc"] if part not in ("body", "query")) or None
        return error_answer(
            422,
            "bad-request",
            f"a value is not as it should be: {first['msg']}.",
            where=where,
            kept="Nothing was changed.",
        )

    @app.exception_handler(HTTPException)
    def on_http(request: Request, error: HTTPException) -> JSONResponse:
        return error_answer(error.status_code, "http", f"{error.detail}.")

    @app.exception_handler(Exception)
    def on_anything(request: Request, error: Exception) -> JSONResponse:
        log.exception("%s %s", request.method, request.url.path, exc_info=error)
        return error_answer(
            500,
            "fault",
            "something went wrong on our side.",
            kept="What was stored before is untouched.",
            todo="Try again; if it stays so, the server's log says more.",
        )
