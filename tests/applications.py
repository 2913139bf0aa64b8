"""The application for tests: built once for all that start it alike, since its routes take longer to build than most
tests last. It holds no state of its own; which database it asks is set anew for every test."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

from fastapi import FastAPI

from laptick.api.app import AppSettings, create_app, use_database
from laptick.db.engine.connect import DbSettings


def app_at(settings: AppSettings) -> FastAPI:
    """The application so started. One asked before with the same settings asks the new database from now on: who wants
    two beside each other makes the second with ``create_app``."""
    app = _built(replace(settings, db=DbSettings(port=1)))
    use_database(app, settings.db)
    return app


@cache
def _built(settings: AppSettings) -> FastAPI:
    return create_app(settings)
