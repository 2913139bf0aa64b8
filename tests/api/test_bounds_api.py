"""Every number, text and list that a request may hold has a bound, and every request that breaks HTTP itself an answer.

Sources: JSON Schema 2020-12 validation keywords (``maximum``, ``maxLength``, ``maxItems``, ``maxProperties``) as the
application describes itself; RFC 9110 for HEAD and Host; Fetch standard for Origin.
"""

from __future__ import annotations

import json
import time
from collections.abc import Iterator
from typing import Any

import anyio
import pytest
from export_openapi import describe

from helpers import demo_bytes
from laptick.api.request import limits


@pytest.fixture
def demo_piece(client) -> int:
    data = demo_bytes("harbour-steps")
    return int(client.post("/api/pieces", files={"file": ("harbour-steps.musicxml", data)}).json()["id"])


# -- stated bounds ------------------------------------------------------------------------------------------------

#: Checked by a bound of its own: an edit's fields by the class of the edit, in ``ladder_edits``.
BOUND_ELSEWHERE = {"edit_ladder.edit"}


def unbounded(schema: dict[str, Any], names: dict[str, Any], where: str) -> Iterator[str]:
    """The places of a request's description at which nothing says how large it may be."""
    if "$ref" in schema:
        yield from unbounded(names[schema["$ref"].rpartition("/")[2]], names, where)
        return
    for word in ("anyOf", "oneOf", "allOf"):
        for one in schema.get(word, ()):
            yield from unbounded(one, names, where)
    kind = schema.get("type")
    is_chosen = "enum" in schema or "const" in schema
    if kind in ("integer", "number") and not is_chosen:
        low, high = {"minimum", "exclusiveMinimum"} & schema.keys(), {"maximum", "exclusiveMaximum"} & schema.keys()
        if not (low and high):
            yield where
    if kind == "string" and not is_chosen and "contentMediaType" not in schema and "maxLength" not in schema:
        yield where
    if kind == "array":
        if "maxItems" not in schema:
            yield where
        yield from unbounded(schema.get("items", {}), names, f"{where}[]")
    if kind == "object":
        for name, one in schema.get("properties", {}).items():
            yield from unbounded(one, names, f"{where}.{name}")
        extra = schema.get("additionalProperties", False)
        if extra is not False and "maxProperties" not in schema:
            yield where
        if isinstance(extra, dict):
            yield from unbounded(extra, names, f"{where}{{}}")


def test_everything_that_comes_in_is_bounded():
    described = json.loads(describe())
    names, found = described["components"]["schemas"], []
    for methods in described["paths"].values():
        for operation in methods.values():
            name = operation["operationId"]
            for parameter in operation.get("parameters", ()):
                found += unbounded(parameter["schema"], names, f"{name}?{parameter['name']}")
            for content in operation.get("requestBody", {}).get("content", {}).values():
                found += unbounded(content["schema"], names, name)
    assert set(found) - BOUND_ELSEWHERE == set()


def test_the_walk_finds_what_is_not_bounded():
    """The opponent of the test above: one of each kind, each found."""
    open_ones = {
        "type": "object",
        "properties": {
            "n": {"type": "integer", "minimum": 0},
            "t": {"type": "string"},
            "l": {"type": "array", "items": {"type": "string", "maxLength": 3}},
            "d": {"type": "object", "additionalProperties": {"type": "number", "minimum": 0, "maximum": 1}},
            "ok": {"type": "array", "maxItems": 2, "items": {"type": "integer", "minimum": 0, "maximum": 1}},
        },
    }
    assert list(unbounded(open_ones, {}, "x")) == ["x.n", "x.t", "x.l", "x.d"]


# -- numbers that cost more than they look ----------------------------------------------------------------------------

GIANTS = ["1e99999999", "9" * 5000, "1/" + "9" * 400, "-1", "1e5000", "0x10", "1_000", "１", "1/0", "NaN"]


@pytest.mark.parametrize("text", GIANTS)
def test_a_number_of_quarters_that_is_none_is_refused_at_once(client, demo_piece, text):
    begun = time.monotonic()
    answers = [
        client.put(
            f"/api/pieces/{demo_piece}/choices",
            json={"syllables": [{"measure": "1", "offset": text, "hand": "right", "say": "ta"}]},
        ),
        client.post(
            f"/api/pieces/{demo_piece}/pencil",
            json={"version": None, "change": {"kind": "rest", "at": {"measure": "1", "offset": text}}},
        ),
        client.put(f"/api/pieces/{demo_piece}/reading", json={"phrase_starts": [{"measure": "1", "offset": text}]}),
        client.get(f"/api/pieces/{demo_piece}/counts", params={"bpm": text}),
        client.get(f"/api/pieces/{text}x"),
    ]
    assert {answer.status_code for answer in answers} <= {404, 422}
    assert all(answer.json()["error"]["what"] for answer in answers)
    assert time.monotonic() - begun < 60  # of old it took for ever


@pytest.mark.parametrize("number", ["1e5000", "-1e5000", "9" * 5000, "NaN", "Infinity", "1e99999999"])
def test_a_number_in_a_body_that_is_none_is_refused(client, demo_piece, number):
    body = f'{{"activity": "tap", "bpm": {number}, "taps": [{{"t": {number}}}]}}'
    answer = client.post(f"/api/pieces/{demo_piece}/takes", content=body, headers={"content-type": "application/json"})
    assert answer.status_code in (400, 422)


@pytest.mark.parametrize("number", [2**53, 2**64, 10**30, -1])
def test_a_row_of_no_possible_number_is_not_there(client, number):
    assert client.get(f"/api/pieces/{number}").status_code == 404
    assert client.get(f"/api/takes/{number}").status_code == 404


# -- HTTP itself ----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("path", ["/%00", "/api/%00", "/api/pieces/%00", "/" + "a" * 3000, "/%ff%fe", "/..%2f..%2fetc"])
def test_an_odd_address_is_no_fault_of_ours(client, path):
    assert client.get(path).status_code in (404, 422)


def test_head_is_get_without_its_body(client, demo_piece):
    for path in ("/api/pieces", f"/api/pieces/{demo_piece}", f"/api/pieces/{demo_piece}/original"):
        head, get = client.head(path), client.get(path)
        assert (head.status_code, head.content) == (200, b"")
        assert head.headers["content-type"] == get.headers["content-type"]


@pytest.mark.parametrize(
    ("host", "is_here"),
    [("127.0.0.1:8000", True), ("localhost", True), ("LOCALHOST:8000", True), ("[::1]:8000", True), ("127.9.9.9", True),
     ("studio.example", False), ("127.0.0.1.studio.example", False), ("192.168.1.9", False), ("", False),
     ("localhost.evil.example:8000", False), ("[::1", False)],
)  # fmt: skip
def test_only_its_own_names_are_answered(client, host, is_here):
    """A page that lets its own name point here reads nothing (DNS rebinding)."""
    assert client.get("/api/me", headers={"host": host}).status_code == (200 if is_here else 421)


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({}, 204),
        ({"origin": "http://127.0.0.1"}, 204),
        ({"sec-fetch-site": "same-origin"}, 204),
        ({"origin": "http://127.0.0.1:9999"}, 403),
        ({"origin": "https://studio.example"}, 403),
        ({"origin": "null"}, 403),
        ({"origin": ""}, 403),
        ({"sec-fetch-site": "cross-site"}, 403),
        ({"sec-fetch-site": "same-site"}, 403),
    ],
)
def test_another_sites_page_changes_nothing(client, demo_piece, headers, status):
    answer = client.delete(f"/api/pieces/{demo_piece}", headers=headers)
    assert answer.status_code == status
    assert client.get(f"/api/pieces/{demo_piece}").status_code == (404 if status == 204 else 200)


def test_a_form_of_another_site_stores_nothing(client, demo_piece):
    before = len(client.get("/api/pieces").json()["items"])
    for content in ({"files": {"file": ("a.musicxml", b"<score-partwise/>")}}, {"content": b""}):
        answer = client.post("/api/pieces", headers={"origin": "https://studio.example"}, **content)
        assert answer.status_code == 403
    assert len(client.get("/api/pieces").json()["items"]) == before


def test_what_heads_every_answer(client, demo_piece):
    paths = [
        "/api/pieces",
        "/api/nothing",
        f"/api/pieces/{demo_piece}/sheet?format=html",
        "/api/pieces/x",
        "/api/health",
    ]
    for path in paths:
        headers = client.get(path).headers
        assert headers["x-content-type-options"] == "nosniff", path
        assert "frame-ancestors 'none'" in headers["content-security-policy"], path
        assert headers["cache-control"] == "no-store", path
        assert headers["cross-origin-resource-policy"] == "same-origin", path


def test_a_body_that_stops_coming_is_answered(client, demo_piece, monkeypatch):
    monkeypatch.setattr(limits, "PAUSE_S", 0.05)
    sent: list[Any] = []

    async def never() -> dict[str, Any]:
        if not sent:
            sent.append(1)
            return {"type": "http.request", "body": b'{"activity"', "more_body": True}
        await anyio.sleep(5)
        raise AssertionError("waited for")

    told: list[Any] = []

    async def tell(message: dict[str, Any]) -> None:
        told.append(message)

    scope = {
        "type": "http", "http_version": "1.1", "method": "POST", "path": f"/api/pieces/{demo_piece}/takes",
        "raw_path": b"", "query_string": b"", "root_path": "", "scheme": "http", "server": ("127.0.0.1", 80),
        "client": ("127.0.0.1", 9), "headers": [(b"host", b"127.0.0.1"), (b"content-type", b"application/json")],
    }  # fmt: skip
    client.portal.call(client.app, scope, never, tell)
    assert told[0]["status"] == 408
