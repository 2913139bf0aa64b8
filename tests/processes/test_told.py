"""What a process of the application is told by whoever started it: the same at the other end, nothing that cannot be."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from laptick.api.request.settings import AppSettings
from laptick.core.base.errors import StorageError
from laptick.db.engine.connect import DbSettings
from laptick.serving import told, words

DB = DbSettings("10.0.0.3", 3307, "a user", "pass\nword “x”", "studio", None, "/etc/ca.pem")


@pytest.mark.parametrize(
    "settings",
    [
        AppSettings(DB),
        AppSettings(DB, Path("/web"), frozenset({"a.example", "b"}), True, Path("/data"), True, Path("/reach.json")),
    ],
    ids=["least", "most"],
)
def test_there_and_back(settings):
    line = words(settings)
    assert "\n" not in line
    assert told(line) == settings


@pytest.mark.parametrize("change", [{"db": None}, {"db": {"hosts": 1}}, {"hosts": 5}, {"web": 7}, {"demo": ...}])
def test_what_cannot_be_is_said(change):
    document = json.loads(words(AppSettings(DB, Path("/web"))))
    for name, value in change.items():
        document[name] = value
        if value is ...:
            del document[name]
    with pytest.raises(StorageError, match="not told"):
        told(json.dumps(document))


@pytest.mark.parametrize("line", ["", "serve", "[]", "null", "{"])
def test_a_line_that_is_none(line):
    with pytest.raises(StorageError, match="not told"):
        told(line)
