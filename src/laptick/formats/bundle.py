"""A studio's file: one zip of open formats, written from front to back and read by name.

Every entry carries the same date and comes in a fixed order, so that the same studio makes the same bytes. What came
from elsewhere is read as if it were hostile: every entry and every line within a stated bound, nothing by its name on
disk. Format of the container: ZIP with 64-bit sizes (PKWARE APPNOTE 6.3, from memory), by Python's ``zipfile``.
"""

from __future__ import annotations

import csv
import io
import json
import re
import unicodedata
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from typing import IO, Any

from laptick.core.base.errors import BundleError, LimitError

FORMAT, VERSION = "lap-tick-studio", 1

#: The last entry, which names the others.
CONTENTS = "contents.json"

#: Stated bounds: entries; bytes of a document, of a line of one, of a score or a spoken word.
MOST_ENTRIES = 300_000
MOST_DOCUMENT = 64 * 2**20
MOST_LINE = 12 * 2**20
MOST_FILE = 8 * 2**20

_KEPT = "Nothing was brought in."
_BROKEN = (
    zipfile.BadZipFile, NotImplementedError, RuntimeError, zlib.error, EOFError, OSError, ValueError, KeyError,
)  # fmt: skip

#: What a spreadsheet takes for a formula when a cell begins with it.
_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def plain_name(text: str, most: int = 40) -> str:
    """What a title or name comes to in the name of an entry."""
    letters = "".join(c if c.isalnum() or c in " -_" else " " for c in unicodedata.normalize("NFC", text))
    return " ".join(letters.split())[:most].strip() or "unnamed"


def suffix_of(filename: str) -> str:
    """The ending of a file's name, if it is one."""
    found = re.search(r"\.[A-Za-z0-9]{1,8}$", filename)
    return found[0].lower() if found else ".bin"


class BundleWriter:
    """Writes entries in the order in which they are given."""

    def __init__(self, out: IO[bytes]) -> None:
        self._zip = zipfile.ZipFile(out, "w", allowZip64=True)

    def close(self) -> None:
        self._zip.close()

    def document(self, name: str, document: Any) -> None:
        self.file(name, [_told(document, indent=1) + b"\n"])

    def text(self, name: str, text: str) -> None:
        self.file(name, [text.encode()])

    def table(self, name: str, columns: Sequence[str], rows: Iterable[Sequence[Any]]) -> None:
        """CSV with a heading line (RFC 4180)."""
        out = io.StringIO()
        writer = csv.writer(out, lineterminator="\r\n")
        writer.writerow(columns)
        for row in rows:
            writer.writerow([_cell(cell) for cell in row])
        self.file(name, [out.getvalue().encode()])

    def lines(self, name: str, documents: Iterable[Any]) -> None:
        """JSON, one document a line."""
        self.file(name, (_told(document) + b"\n" for document in documents))

    def file(self, name: str, parts: Iterable[bytes], *, is_packed: bool = False) -> None:
        """``is_packed``: what it holds is compressed already."""
        entry = zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0))
        entry.compress_type = zipfile.ZIP_STORED if is_packed else zipfile.ZIP_DEFLATED
        entry.external_attr = 0o644 << 16
        with self._zip.open(entry, "w", force_zip64=True) as into:
            for part in parts:
                into.write(part)


def _told(document: Any, indent: int | None = None) -> bytes:
    separators = (",", ": ") if indent else (",", ":")
    return json.dumps(
        document, ensure_ascii=False, allow_nan=False, sort_keys=True, indent=indent, separators=separators
    ).encode()


def _cell(cell: Any) -> Any:
    if cell is None:
        return ""
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(_FORMULA) else cell


class BundleReader:
    """Reads entries by name.

    Raises:
        BundleError: it is no such file; so do all of its methods, where what they read is broken.
    """

    def __init__(self, file: IO[bytes]) -> None:
        try:
            self._zip = zipfile.ZipFile(file)
            self._names = set(self._zip.namelist())
        except _BROKEN:
            raise BundleError(
                "this is no zip, or not all of it.", kept=_KEPT, todo="Take the file as it was saved, whole."
            ) from None
        if len(self._names) > MOST_ENTRIES:
            raise LimitError(f"this file has more than {MOST_ENTRIES:,} entries.", kept=_KEPT)
        if CONTENTS not in self._names:
            raise BundleError(
                "this is no file of a studio: nothing in it tells what it holds.",
                kept=_KEPT,
                todo="Take a file that was saved from a studio or a student here.",
            )
        self.contents = self.document(CONTENTS)
        of_ours = isinstance(self.contents, dict) and self.contents.get("format") == FORMAT
        if not of_ours or not isinstance(self.contents.get("version"), int):
            raise BundleError("this is no file of a studio.", where=CONTENTS, kept=_KEPT)
        if self.contents["version"] > VERSION:
            raise BundleError(
                "this file was saved by a later version.", where=CONTENTS, kept=_KEPT, todo="Update this one first."
            )

    def has(self, name: str) -> bool:
        return name in self._names

    def names(self, key: str) -> list[str]:
        """Names of entries that the contents list."""
        listed = self.contents.get(key)
        if not isinstance(listed, list) or not all(isinstance(name, str) for name in listed):
            raise BundleError(f"{key} are not listed.", where=CONTENTS, kept=_KEPT)
        return listed

    def document(self, name: str) -> Any:
        return _read(self.file(name, MOST_DOCUMENT), name)

    def file(self, name: str, most: int = MOST_FILE) -> bytes:
        """All of an entry."""
        with self._opened(name) as entry:
            data = entry.read(most + 1)
        if len(data) > most:
            raise LimitError(f"this is larger than {most // 2**20} MB.", where=name[:200], kept=_KEPT)
        return data

    def parts(self, name: str, size: int, most: int) -> Iterator[bytes]:
        """An entry in parts of a size, up to so many bytes."""
        came = 0
        with self._opened(name) as entry:
            while part := entry.read(size):
                came += len(part)
                if came > most:
                    raise LimitError(f"this is larger than {most // 2**20} MB.", where=name[:200], kept=_KEPT)
                yield part

    def lines(self, name: str) -> Iterator[Any]:
        """The documents of an entry, one by one."""
        number = 0
        with self._opened(name) as entry:
            while line := entry.readline(MOST_LINE + 1):
                number += 1
                where = f"{name[:200]}, line {number}"
                if len(line) > MOST_LINE:
                    raise LimitError(f"this is larger than {MOST_LINE // 2**20} MB.", where=where, kept=_KEPT)
                yield _read(line, where)

    @contextmanager
    def _opened(self, name: str) -> Iterator[IO[bytes]]:
        if name not in self._names:
            raise BundleError("this is not in the file.", where=name[:200], kept=_KEPT)
        try:
            with self._zip.open(name) as entry:
                yield entry
        except _BROKEN as broken:
            raise BundleError("this part of the file is damaged.", where=name[:200], kept=_KEPT) from broken


def _read(data: bytes, where: str) -> Any:
    try:
        return json.loads(data, parse_constant=_no_number)
    except (ValueError, RecursionError):
        raise BundleError("this cannot be read as JSON.", where=where[:200], kept=_KEPT) from None


def _no_number(name: str) -> float:
    raise ValueError(name)
