"""What a MusicXML file is called and who made it: where the file says so, else by the words on its first page.

Files that were laid out by hand, and many that were scanned, hold their title only as words (``<credit>``). The largest
of them at the head of the page is the title; the composer stands at its right. A copyright line is neither. Common
practice of engraving, no source.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from lxml import etree


@dataclass(frozen=True)
class ScoreHead:
    """What a score is called, who made it, and which file it is read from (for errors)."""

    title: str
    composer: str
    filename: str


_RIGHTS = re.compile(
    r"©|\(c\)\s*(\d{4}|by\b)|℗|copyright|all rights|rights reserved|public domain|licen[cs]ed?\b|https?:|www\.|@\w+\.",
    re.IGNORECASE,
)

#: What programs write where nobody gave a title.
_UNTITLED = {"untitled", "untitled score", "title", "no title", "score", "new score"}

#: Words before a composer's name.
_MADE_BY = re.compile(r"^(music|composed|words and music|musik|musique|música)\s*(by|von|de|:)+\s*", re.IGNORECASE)

#: Who stands on a page too and did not compose.
_OTHERS = re.compile(r"^(arr(anged)?|edited|edition|words|text|lyrics?|transcr\w*|engraved|typeset)\b", re.IGNORECASE)

#: Words that begin beyond this share of the page's width stand at its right.
RIGHT_SHARE = 0.66

#: What is written above music and is no title: a tempo, a number, a page.
_NO_TITLE = re.compile(r"^[\W\d_]*$|^page\b|^\d+\s*$", re.IGNORECASE)


@dataclass(frozen=True)
class _Words:
    """A credit of the first page. ``size`` of its letters, ``y`` of its place (tenths from the bottom), each 0 where
    the file does not say; ``kinds``: what the file calls it."""

    text: str
    kinds: frozenset[str]
    size: float
    y: float
    at_right: bool


def read_head(root: etree._Element, filename: str) -> ScoreHead:
    """The head of a score; a file without any title is called by its own name."""
    on_page = [words for words in _credits(root) if words.text and not _RIGHTS.search(words.text)]
    by_role = [words for words in on_page if not words.kinds]
    title = _named_title(root) or _of_kind(on_page, "title") or _title_on_page(by_role, on_page)
    composer = _named_composer(root) or _of_kind(on_page, "composer") or _composer_on_page(by_role, title)
    stem = filename.rsplit("/", 1)[-1].rsplit(".", 1)[0]
    return ScoreHead((title or stem)[:200] or "Untitled", composer[:200], filename)


def _plain(text: str | None) -> str:
    return " ".join((text or "").split())


def _named_title(root: etree._Element) -> str:
    for path in ("work/work-title", "movement-title"):
        text = _plain(root.findtext(path))
        if text and text.lower() not in _UNTITLED and not _RIGHTS.search(text):
            return text
    return ""


def _named_composer(root: etree._Element) -> str:
    for creator in root.iterfind("identification/creator"):
        text = _plain(creator.text)
        if creator.get("type") in (None, "composer") and text and text.lower() != "composer":
            return text
    return ""


def _credits(root: etree._Element) -> list[_Words]:
    found = []
    width = _number(root.findtext("defaults/page-layout/page-width"))
    for credit in root.iterfind("credit"):
        if credit.get("page") not in (None, "1"):
            continue
        words = credit.findall("credit-words")
        if not words:
            continue
        lines = [line for one in words for line in (one.text or "").splitlines() or [""]]
        first = words[0]
        found.append(
            _Words(
                text=_plain(" ".join(lines)),
                kinds=frozenset(_plain(kind.text).lower() for kind in credit.iterfind("credit-type")) - {""},
                size=_number(first.get("font-size")),
                y=_number(first.get("default-y")),
                at_right="right" in (first.get("justify"), first.get("halign"))
                or (first.get("justify") is None and _number(first.get("default-x")) > RIGHT_SHARE * width > 0),
            )
        )
    return found


def _number(text: str | None) -> float:
    found = re.match(r"-?\d{1,6}(\.\d{1,6})?", text or "")
    return float(found[0]) if found else 0.0


def _of_kind(on_page: Sequence[_Words], kind: str) -> str:
    return next((words.text for words in on_page if kind in words.kinds), "")


def _title_on_page(by_role: Sequence[_Words], on_page: Sequence[_Words]) -> str:
    """The largest words at the head of the page, the higher ones of two as large."""
    head = max((words.y for words in on_page), default=0.0) / 2
    candidates = [
        words
        for words in by_role
        if words.y >= head and not words.at_right and not _NO_TITLE.match(words.text) and not _OTHERS.match(words.text)
    ]
    best = max(candidates, key=lambda words: (words.size, words.y), default=None)
    return best.text if best else ""


def _composer_on_page(by_role: Sequence[_Words], title: str) -> str:
    """The words at the right of the head that name nobody else."""
    head = max((words.y for words in by_role), default=0.0) / 2
    for words in sorted(by_role, key=lambda words: -words.y):
        if words.text == title or words.y < head or _NO_TITLE.match(words.text):
            continue
        if words.at_right and not _OTHERS.match(words.text):
            return _MADE_BY.sub("", words.text)
        if _MADE_BY.match(words.text):
            return _MADE_BY.sub("", words.text)
    return ""
