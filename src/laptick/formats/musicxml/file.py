"""MusicXML → Score, from bytes.

Reads scores, plain or compressed (.mxl), partwise or timewise: one part with two staves, two parts, parts
chosen from more, or one hand. What is not used is listed in the score's notices, each with its first
place.

The parser expands no entities, loads no DTD and opens no network; archives are read up to a stated
unpacked size. Every failure is a ScoreError or LimitError.
"""

from __future__ import annotations

import io
import lzma
import re
import struct
import zipfile
import zlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from lxml import etree

from laptick.core.base.errors import LimitError, ScoreError
from laptick.core.score.score import Mark, Score
from laptick.formats.musicxml.head import read_head
from laptick.formats.musicxml.join import build_score
from laptick.formats.musicxml.part_hands import choose_parts, staves_of
from laptick.formats.musicxml.reader import PartReader
from laptick.formats.parts.notices import NoticeBook
from laptick.formats.parts.part import MAX_BARS, MAX_FILE_BYTES, PartInfo
from laptick.formats.parts.reading import Reading, with_hands, with_lines

MAX_UNPACKED_BYTES = 32 * 1024 * 1024

#: Elements of one file, counted while it is read: more than string quartets of a thousand bars have.
MAX_ELEMENTS = 250_000

#: Parts of one file: an orchestra's.
MAX_PARTS = 64

_TODO = "Export it again as MusicXML (.musicxml or .mxl) and drop that file here."
_KEPT = "Nothing was changed."


@dataclass(frozen=True)
class MusicXmlFile:
    """A file that has been read: the score, the tree it came from (partwise), the element of each note and rest by
    its id, those of each mark, and its parts."""

    score: Score
    tree: etree._ElementTree
    elements: Mapping[str, etree._Element]
    parts: tuple[PartInfo, ...]
    mark_elements: Mapping[Mark, tuple[etree._Element, ...]] = field(default_factory=dict)


def read_musicxml(data: bytes, *, filename: str = "the file", reading: Reading | None = None) -> Score:
    """The score in ``data``.

    Raises:
        ScoreError: not a score that can be read; ``where`` names the line or bar.
        LimitError: larger than the stated limits.
    """
    return open_musicxml(data, filename=filename, reading=reading).score


def open_musicxml(
    data: bytes, *, filename: str = "the file", reading: Reading | None = None, allow_silent: bool = False
) -> MusicXmlFile:
    """The score in ``data`` together with what it was read from; errors as ``read_musicxml``."""
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
        root = to_partwise(root)
    if root.tag != "score-partwise":
        raise ScoreError(
            f"this is XML, but no score: it begins with <{str(root.tag)[:40]}>.", where=filename, kept=_KEPT, todo=_TODO
        )
    return _read_partwise(root, filename, reading or Reading(), allow_silent)


def _looks_like_xml(data: bytes) -> bool:
    """Whether the first sign of a file, in any usual encoding, is an opening bracket."""
    begin = data[:64].removeprefix(b"\xef\xbb\xbf").removeprefix(b"\xff\xfe").removeprefix(b"\xfe\xff")
    return begin.replace(b"\0", b"").lstrip()[:1] == b"<"


def _parse(data: bytes, filename: str) -> etree._Element:
    if _looks_like_xml(data):
        _check_amount(data, filename)
    parser = etree.XMLParser(resolve_entities=False, load_dtd=False, no_network=True, huge_tree=False)
    try:
        root = etree.fromstring(data, parser)
    except etree.XMLSyntaxError as error:
        line = error.lineno or 1
        if not _looks_like_xml(data):
            raise ScoreError(
                "this is no score: neither MusicXML nor MIDI.", where=filename, kept=_KEPT, todo=_TODO
            ) from None
        raise ScoreError(
            f"the file is damaged, or breaks off, at line {line}.",
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


#: Encodings in which a tag begins with the byte of an ASCII bracket, so that elements are counted before any is read.
_ENCODINGS = re.compile(
    rb"utf-?(8|16|16le|16be)|(us-)?ascii|iso-?8859-?\d+|latin-?\d|windows-?125\d|cp-?125\d|macintosh", re.I
)

_DECLARED = re.compile(rb"""<\?xml[^>]*?\sencoding\s*=\s*["']([^"']*)["']""")


def _check_amount(data: bytes, filename: str) -> None:
    """No element is made of a file that has too many.

    Raises:
        LimitError: it has more than are read.
        ScoreError: it is written in an encoding in which they cannot be counted.
    """
    declared = _DECLARED.search(data[:400].replace(b"\0", b""))
    if declared and not _ENCODINGS.fullmatch(declared[1].strip()):
        raise ScoreError(
            f"the file is written in {_plain(declared[1][:40].decode(errors='replace'))}, which is not read.",
            where=filename,
            kept=_KEPT,
            todo="Export it again as UTF-8.",
        )
    # Comments, instructions and what stands quoted count too: each is a node, or nearly none are in a score.
    if data.count(b"<") - data.count(b"</") - data.count(b"<\0/") > MAX_ELEMENTS:
        raise LimitError(f"the file has more than {MAX_ELEMENTS:,} elements.", where=filename, kept=_KEPT, todo=_TODO)


def _plain(message: str | None) -> str:
    return " ".join((message or "not well formed").split())[:160].rstrip(".")


def _unpack(data: bytes, filename: str) -> bytes:
    """The score file inside a compressed MusicXML archive."""
    broken = ScoreError("the compressed score (.mxl) cannot be unpacked.", where=filename, kept=_KEPT, todo=_TODO)
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            inner = _rootfile(archive, filename)
            return _read_capped(archive, inner, filename)
    except (
        zipfile.BadZipFile,
        zlib.error,
        struct.error,
        lzma.LZMAError,
        KeyError,
        EOFError,
        NotImplementedError,
        RuntimeError,
        OSError,
        ValueError,
        OverflowError,
    ):
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


def _read_partwise(root: etree._Element, filename: str, reading: Reading, allow_silent: bool) -> MusicXmlFile:
    parts = root.findall("part")
    if not parts or not any(part.find("measure") is not None for part in parts):
        raise ScoreError("the score has no bars.", where=filename, kept=_KEPT, todo=_TODO)
    if len(parts) > MAX_PARTS:
        raise LimitError(f"the score has more than {MAX_PARTS} parts.", where=filename, kept=_KEPT, todo=_TODO)
    bars = max(len(part.findall("measure")) for part in parts)
    if bars > MAX_BARS:
        raise LimitError(
            f"the score has {bars} bars; up to {MAX_BARS} are read.",
            where=filename,
            kept=_KEPT,
            todo="Split it into movements.",
        )
    notices = NoticeBook()
    chosen = choose_parts(parts, reading.parts)
    left_out = [part for part in parts if part not in chosen]
    if left_out:
        names = ", ".join(_part_name(root, part) for part in left_out)
        notices.add("unused", f"{len(left_out)} more part(s): {names[:120]}")
    readers = [PartReader(part, filename) for part in chosen]
    for reader in readers:
        reader.read()
    joined = build_score(
        readers,
        read_head(root, filename),
        notices,
        reading.staff_hands,
        allow_silent=allow_silent,
    )
    infos = tuple(
        PartInfo(part.get("id") or "?", _part_name(root, part), staves_of(part), part in chosen) for part in parts
    )
    score = with_lines(with_hands(joined.score, reading), reading)
    return MusicXmlFile(score, root.getroottree(), joined.elements, infos, joined.mark_elements)


def _part_name(root: etree._Element, part: etree._Element) -> str:
    identity = part.get("id")
    for listed in root.iterfind("part-list/score-part"):
        if listed.get("id") == identity:
            name = " ".join((listed.findtext("part-name") or "").split())
            if name:
                return name[:60]
    return identity or "?"


def _attributes(element: etree._Element) -> dict[str, str]:
    return {str(name): str(value) for name, value in element.attrib.items()}


def to_partwise(root: etree._Element) -> etree._Element:
    """A timewise score as a partwise one: the same elements, parts outside and bars inside."""
    result = etree.Element("score-partwise", _attributes(root))
    parts: dict[str, etree._Element] = {}
    for child in list(root):
        if child.tag != "measure":
            result.append(child)
            continue
        for inner in list(child.iterchildren("part")):
            identity = inner.get("id") or "?"
            if identity not in parts:
                parts[identity] = etree.Element("part", _attributes(inner))
            bar = etree.SubElement(parts[identity], "measure", _attributes(child))
            bar.extend(list(inner))
    result.extend(parts.values())
    return result
