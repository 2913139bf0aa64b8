"""What commands share: a score or a take read from a file, an answer written or printed."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

from laptick.core.base.errors import OptionError
from laptick.core.score.score import Score
from laptick.formats.parts.part import MAX_FILE_BYTES
from laptick.formats.parts.reading import Reading
from laptick.formats.score_files import ScoreFile, open_score

#: Assigned tempo when neither the caller nor the score gives one.
FALLBACK_BPM = 60.0


def read_bytes(path: str, most: int) -> bytes:
    """A file's bytes, up to just over the limit: what is larger is refused by the reader."""
    try:
        with Path(path).open("rb") as file:
            return file.read(most + 1)
    except OSError as error:
        raise OptionError(f"the file cannot be read: {error.strerror or 'unknown reason'}.", where=path) from None


def load_file(path: str, parts: str | None = None, *, allow_silent: bool = False) -> ScoreFile:
    reading = Reading(parts=tuple(part.strip() for part in parts.split(",") if part.strip()) if parts else ())
    data = read_bytes(path, MAX_FILE_BYTES)
    file = open_score(data, filename=Path(path).name, reading=reading, allow_silent=allow_silent)
    known = {part.id for part in file.parts}
    for part in reading.parts:
        if part not in known:
            raise OptionError(f"the file has no part “{part}”; it has {', '.join(sorted(known))}.", where="--parts")
    return file


def load_score(path: str) -> Score:
    return load_file(path).score


def write_bytes(path: str, data: bytes) -> None:
    try:
        Path(path).write_bytes(data)
    except OSError as error:
        raise OptionError(f"the file cannot be written: {error.strerror}.", where=path) from None


def print_json(document: dict[str, Any]) -> None:
    json.dump(document, sys.stdout, ensure_ascii=False)
    sys.stdout.write("\n")
