"""The document of ``check`` as JSON, written and read: the command line's, the stored one, the API's.

The fields are those of ``core.judging.document``; this is the one place that turns them into JSON and back.
"""

from __future__ import annotations

import dataclasses
from typing import Any, TypeVar

from pydantic import ConfigDict, TypeAdapter, ValidationError

from laptick.core.base.errors import StorageError
from laptick.core.judging import document as fields
from laptick.core.judging.document import CheckDocument, VerdictTold
from laptick.core.judging.judgement import Judgement
from laptick.core.judging.telling import tell

Document = dict[str, Any]

#: Python's own words carry an underscore inside, and none outside. ``extra``: what a later version adds is passed over.
_CONFIG = ConfigDict(
    alias_generator=lambda name: name.rstrip("_"), validate_by_name=True, validate_by_alias=True,
    serialize_by_alias=True, extra="ignore", allow_inf_nan=False,
)  # fmt: skip

#: Where pydantic looks for how a class of somebody else's is to be read.
_WHERE = "__pydantic_config__"

for _class in vars(fields).values():
    if isinstance(_class, type) and dataclasses.is_dataclass(_class):
        setattr(_class, _WHERE, _CONFIG)

Read = TypeVar("Read")


_readers: dict[type, TypeAdapter[Any]] = {}


def _reader(told: type[Read]) -> TypeAdapter[Read]:
    """Made when it is first asked for: it takes a tenth of a second, and most commands read none."""
    if told not in _readers:
        _readers[told] = TypeAdapter(told)
    return _readers[told]


def check_document(judged: Judgement) -> Document:
    """What ``laptick check`` prints of a judged take."""
    return write_check(tell(judged))


def write_check(document: CheckDocument) -> Document:
    written: Document = _reader(CheckDocument).dump_python(document, mode="json", by_alias=True)
    return written


def read_check(document: Any) -> CheckDocument:
    """A stored document.

    Raises:
        StorageError: it is damaged, or of a version of the checker that told less.
    """
    return _read(CheckDocument, document)


def read_verdict(document: Any) -> VerdictTold:
    """A stored verdict.

    Raises:
        StorageError: it is damaged.
    """
    return _read(VerdictTold, document)


def _read(told: type[Read], document: Any) -> Read:
    try:
        return _reader(told).validate_python(document)
    except ValidationError as error:
        first = error.errors()[0]
        raise StorageError(
            "what was said of this take cannot be read.",
            where=".".join(map(str, first["loc"])),
            kept="What was played is kept.",
            todo="Judge the take again.",
        ) from error


__all__ = ["CheckDocument", "VerdictTold", "check_document", "read_check", "read_verdict", "write_check"]
