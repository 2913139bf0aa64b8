"""MusicXML → Score, from bytes.

Reads partwise scores, plain or compressed (.mxl): one part with two staves, two parts, or one hand.
Positions are exact: a note advances by its written type, dots and tuplet where these agree with the
rounded ``<duration>``. What is not used is listed in the score's notices, each with its first place.

The parser expands no entities, loads no DTD and opens no network; archives are read up to a stated
unpacked size. Every failure is a ScoreError or LimitError.
"""

from __future__ import annotations

import io
import zipfile
import zlib
from typing import Any

from lxml import etree

from laptick.core.errors import LimitError, ScoreError
from laptick.core.score import Score
from laptick.formats.musicxml_join import build_score
from laptick.formats.musicxml_reader import PartReader

#: Stated limits: the file as it comes, a compressed file unpacked, and bars.
MAX_FILE_BYTES = 8 * 1024 * 1024
MAX_UNPACKED_BYTES = 64 * 1024 * 1024
MAX_BARS = 4000

_TODO = "Export it again as MusicXML (.musicxml or .mxl) and drop that file here."
_KEPT = "Nothing was changed."


def read_musicxml(data: bytes, *, filename: str = "the file") -> Score:
    """The score in ``data``.

    Raises:
        ScoreError: not a score that can be read; ``where`` names the line or bar.
        LimitError: larger than the stated limits.
    """
    if len(data) > MAX_FILE_BYTES:
        raise LimitError(
            f"this file is larger than {MAX_FILE_BYTES // 2**20} MB.", where=filename, kept=_KEPT, todo=_TODO
        )
    if not data.strip():
        raise ScoreError("the file is empty.", where=filename, kept=_KEPT, todo=_TODO)
    if data[:4] == b"PK\x03\x04":
        data = _unpack(data, filename)
    root = _parse(data, filename)
    if root.tag == "score-timewise":
        raise ScoreError(
            "this score is ordered bar by bar (timewise), which is not read yet.",
            where=filename,
            kept=_KEPT,
            todo="Export it as a partwise MusicXML score.",
        )
    if root.tag != "score-partwise":
        raise ScoreError(
            f"this is XML, but no score: it begins with <{str(root.tag)[:40]}>.", where=filename, kept=_KEPT, todo=_TODO
        )
    return _read_partwise(root, filename)


def _parse(data: bytes, filename: str) -> etree._Element:
    parser = etree.XMLParser(
        resolve_entities=False, load_dtd=False, no_network=True, huge_tree=False, remove_comments=True, remove_pis=True
    )
    try:
        root = etree.fromstring(data, parser)
    except etree.XMLSyntaxError as error:
        line = error.lineno or 1
        raise ScoreError(
            f"the XML is broken at line {line}: {_plain(error.msg)}.",
            where=f"{filename}, line {line}",
            kept=_KEPT,
            todo=_TODO,
        ) from None
    except ValueError as error:
        raise ScoreError(f"the file cannot be read as XML: {_plain(str(error))}.", where=filename, kept=_KEPT) from None
    dtd: Any = root.getroottree().docinfo.internalDTD
    if dtd is not None and dtd.entities():
        raise ScoreError(
            "the file defines XML entities; scores need none, and they can be used to do harm.",
            where=filename,
            kept=_KEPT,
            todo=_TODO,
        )
    return root


def _plain(message: str | None) -> str:
    return " ".join((message or "not well formed").split())[:160].rstrip(".")


def _unpack(data: bytes, filename: str) -> bytes:
    """The score file inside a compressed MusicXML archive."""
    broken = ScoreError("the compressed score (.mxl) cannot be unpacked.", where=filename, kept=_KEPT, todo=_TODO)
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            inner = _rootfile(archive, filename)
            return _read_capped(archive, inner, filename)
    except (zipfile.BadZipFile, zlib.error, KeyError, EOFError, NotImplementedError, RuntimeError, OSError):
        raise broken from None


def _read_capped(archive: zipfile.ZipFile, name: str, filename: str) -> bytes:
    with archive.open(name) as member:
        content = member.read(MAX_UNPACKED_BYTES + 1)
    if len(content) > MAX_UNPACKED_BYTES:
        raise LimitError(
            f"unpacked, the score is larger than {MAX_UNPACKED_BYTES // 2**20} MB.",
            where=f"{filename}, {name}",
            kept=_KEPT,
            todo=_TODO,
        )
    return content


def _rootfile(archive: zipfile.ZipFile, filename: str) -> str:
    names = archive.namelist()
    if "META-INF/container.xml" in names:
        container = _parse(_read_capped(archive, "META-INF/container.xml", filename), filename)
        for rootfile in container.iter("{*}rootfile"):
            path = rootfile.get("full-path")
            if path in names:
                return str(path)
    for name in names:
        if name.lower().endswith((".musicxml", ".xml")) and not name.startswith("META-INF"):
            return name
    raise ScoreError("the archive holds no score.", where=filename, kept=_KEPT, todo=_TODO)


def _read_partwise(root: etree._Element, filename: str) -> Score:
    parts = root.findall("part")
    if not parts or not any(part.find("measure") is not None for part in parts):
        raise ScoreError("the score has no bars.", where=filename, kept=_KEPT, todo=_TODO)
    bars = max(len(part.findall("measure")) for part in parts)
    if bars > MAX_BARS:
        raise LimitError(
            f"the score has {bars} bars; up to {MAX_BARS} are read.",
            where=filename,
            kept=_KEPT,
            todo="Split it into movements.",
        )
    chosen, left_out = _choose_parts(parts)
    readers = [PartReader(part, filename) for part in chosen]
    for reader in readers:
        reader.read()
    return build_score(readers, _title(root, filename), _composer(root), left_out, filename)


def _choose_parts(parts: list[etree._Element]) -> tuple[list[etree._Element], list[str]]:
    """The part with two staves, else the first two parts; and the ids of those left out."""
    with_staves = [part for part in parts if any((s.text or "").strip() == "2" for s in part.iter("staves"))]
    chosen = with_staves[:1] or parts[:2]
    return chosen, [part.get("id") or "?" for part in parts if part not in chosen]


def _title(root: etree._Element, filename: str) -> str:
    for path in ("work/work-title", "movement-title"):
        text = " ".join((root.findtext(path) or "").split())
        if text:
            return text[:200]
    stem = filename.rsplit("/", 1)[-1].rsplit(".", 1)[0]
    return stem[:200] or "Untitled"


def _composer(root: etree._Element) -> str:
    for creator in root.iterfind("identification/creator"):
        if creator.get("type") in (None, "composer"):
            return " ".join((creator.text or "").split())[:200]
    return ""
