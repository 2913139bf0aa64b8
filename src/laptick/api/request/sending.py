"""How a route does its work: in one go in one thread, with the studio whose turn it is, from the connection to the
written answer.

Models are sent as they are: an answer is built by our own code from a model of ours, so it need not be checked again
and taken apart before it is written.
"""

from __future__ import annotations

import inspect
from collections.abc import Callable
from contextlib import ExitStack
from functools import wraps
from typing import Any

from fastapi import Response
from fastapi.routing import APIRoute
from pydantic import BaseModel

from laptick.api.request.asking import Turn


class ModelRoute(APIRoute):
    """A route whose endpoint is given the studio of its turn, and whose model is written by the model itself;
    everything else is sent as ever."""

    def __init__(self, path: str, endpoint: Callable[..., Any], **more: Any) -> None:
        super().__init__(path, _sending(endpoint, more.get("status_code")), **more)


def _sending(endpoint: Callable[..., Any], status: int | None) -> Callable[..., Any]:
    if inspect.iscoroutinefunction(endpoint) or hasattr(endpoint, "_sends"):
        return endpoint

    @wraps(endpoint)
    def sent(*args: Any, **kwargs: Any) -> Any:
        with ExitStack() as until_done:
            for name, given in kwargs.items():
                if isinstance(given, Turn):
                    kwargs[name] = until_done.enter_context(given.studio())
            answer = endpoint(*args, **kwargs)
        if not isinstance(answer, BaseModel):
            return answer
        return Response(answer.model_dump_json(), status_code=status or 200, media_type="application/json")

    sent._sends = True  # type: ignore[attr-defined] # included routers make their routes once more
    return sent
