"""A row as a document of plain values, and back: by the facts of its table, each value checked on both ways."""

from __future__ import annotations

import json
import math
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any

from laptick.core.base.errors import BundleError
from laptick.db.engine.connect import Row
from laptick.db.moving.facts import Column, Kind, Moved

Document = dict[str, Any]

#: The server takes JSON no deeper than this.
MOST_DEPTH = 30

_KEPT = "Nothing was brought in."


def document_of(moved: Moved, row: Row) -> Document:
    """A row's columns as they are written.

    Raises:
        BundleError: the row is damaged.
    """
    return {column.name: _written(column, row[column.name]) for column in moved.columns}


def values_of(moved: Moved, document: Any, where: str) -> dict[str, Any]:
    """Column → what is stored of it. ``where``: the place in the file, for errors.

    Raises:
        BundleError: a value is missing or none that the column has.
    """
    if not isinstance(document, dict):
        raise BundleError("this is no list of names and values.", where=where, kept=_KEPT)
    values = {}
    for column in moved.columns:
        path = f"{where}.{column.name}"
        if column.name not in document:
            raise BundleError("this is missing.", where=path, kept=_KEPT)
        values[column.name] = _stored(column, document[column.name], path)
    return values


@dataclass(frozen=True)
class _Both:
    """``written``: as it stands in a document; ``stored``: as it goes into a row; either raises ``ValueError``."""

    written: Callable[[Column, Any], Any]
    stored: Callable[[Column, Any], Any]


def _written(column: Column, value: Any) -> Any:
    if value is None:
        if column.may_be_none:
            return None
        raise BundleError("a value is missing in what is stored.", where=column.name)
    try:
        written = _KINDS[column.kind].written(column, value)
        _KINDS[column.kind].stored(column, written)  # what could not be read back is not written
    except (ValueError, TypeError, RecursionError, UnicodeError):
        raise BundleError("a value in what is stored cannot be read.", where=column.name) from None
    return written


def _stored(column: Column, value: Any, path: str) -> Any:
    if value is None:
        if column.may_be_none:
            return None
        raise BundleError("this is missing.", where=path, kept=_KEPT)
    try:
        return _KINDS[column.kind].stored(column, value)
    except (ValueError, TypeError, RecursionError, OverflowError, UnicodeError):
        raise BundleError(f"this takes {column.kind.value}{_bound(column)}.", where=path, kept=_KEPT) from None


def _bound(column: Column) -> str:
    if column.among:
        return ": " + ", ".join(column.among)
    if column.kind is Kind.TEXT:
        return f" of at most {column.most} characters"
    return f" up to {column.most:,}" if column.kind is Kind.WHOLE else ""


def _of(kind: type, value: Any) -> Any:
    if type(value) is not kind:
        raise ValueError(value)
    return value


def _text(column: Column, value: Any) -> str:
    text: str = _of(str, value)
    if len(text) > column.most or (column.among and text not in column.among):
        raise ValueError(text)
    text.encode()
    return text


def _number(_column: Column, value: Any) -> float:
    if type(value) not in (int, float) or not math.isfinite(value):
        raise ValueError(value)
    return float(value)


def _whole(column: Column, value: Any) -> int:
    if not 0 <= _of(int, value) <= column.most:
        raise ValueError(value)
    return int(value)


def _instant_written(_column: Column, value: Any) -> str:
    moment: datetime = _of(datetime, value)
    return moment.isoformat(timespec="microseconds") + "Z"


def _instant(_column: Column, value: Any) -> datetime:
    moment = datetime.fromisoformat(_of(str, value))
    if moment.tzinfo is None or not 1970 <= moment.year < 2200:
        raise ValueError(value)
    return moment.astimezone(UTC).replace(tzinfo=None)


def _day(_column: Column, value: Any) -> date:
    day = date.fromisoformat(_of(str, value))
    if not 1900 <= day.year < 2200:
        raise ValueError(value)
    return day


def _json_written(_column: Column, value: Any) -> Any:
    return json.loads(value, parse_constant=_no_number)


def _json(column: Column, value: Any) -> str:
    if _depth(value) > MOST_DEPTH:
        raise ValueError("too deep")
    text = json.dumps(value, allow_nan=False, separators=(",", ":"))
    if len(text) > column.most:
        raise ValueError("too large")
    return text


def _no_number(name: str) -> float:
    raise ValueError(name)


def _depth(value: Any) -> int:
    level, inside = 0, [value]
    while inside:
        level += 1
        if level > MOST_DEPTH:
            break
        parts = [one.values() if isinstance(one, dict) else one for one in inside if isinstance(one, dict | list)]
        inside = [one for part in parts for one in part]
    return level


_KINDS: dict[Kind, _Both] = {
    Kind.TEXT: _Both(_text, _text),
    Kind.NUMBER: _Both(_number, _number),
    Kind.WHOLE: _Both(_whole, _whole),
    Kind.TRUTH: _Both(lambda _, value: bool(value), lambda _, value: _of(bool, value)),
    Kind.INSTANT: _Both(_instant_written, _instant),
    Kind.DAY: _Both(lambda _, value: _of(date, value).isoformat(), _day),
    Kind.JSON: _Both(_json_written, _json),
    Kind.PACKED: _Both(_json_written, _json),
}
