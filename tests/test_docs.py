"""What the documents name is there: files by their names or the end of their paths, documents they link to."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
DOCUMENTS = (ROOT / "README.md", ROOT / "CHANGELOG.md", *sorted((ROOT / "docs").glob("*.md")))
FILES = [
    path.relative_to(ROOT).as_posix()
    for top in ("src", "web/src", "tests", "tools", "benchmarks", "deploy", "docs")
    for path in (ROOT / top).rglob("*")
    if path.is_file()
]
#: A file of ours in backticks, maybe after ``python`` and before arguments.
NAMED = re.compile(r"`(?:\S*python )?((?:[\w.-]+/)*[\w-]+\.(?:py|tsx?|sql))\b[^`]*`")
LINKED = re.compile(r"\]\((?!https?:|#)([^)#\s]+)")


@pytest.mark.parametrize("document", DOCUMENTS, ids=lambda path: path.name)
def test_a_document_names_files_that_are_there(document: Path) -> None:
    text = document.read_text(encoding="utf-8")
    absent = {name for name in NAMED.findall(text) if not any(f"/{path}".endswith(f"/{name}") for path in FILES)}
    assert not absent


@pytest.mark.parametrize("document", DOCUMENTS, ids=lambda path: path.name)
def test_a_document_links_to_what_is_there(document: Path) -> None:
    links = LINKED.findall(document.read_text(encoding="utf-8"))
    assert not [link for link in links if not (document.parent / link).exists()]


#: ``file.py: name`` or ``file.ts: Class.name``: what stands in a file.
WITHIN = re.compile(r"`((?:[\w.-]+/)*[\w-]+\.(?:py|tsx?)):\s+(\w+)(?:\.(\w+))?`")
DEFINED = (
    r"(?m)^\s*(?:(?:export|async|private|readonly|def|class|function|const|type|let) )*{word}\b(?:\(|:| =|<| \{{|$)"
)


@pytest.mark.parametrize("document", DOCUMENTS, ids=lambda path: path.name)
def test_a_document_names_what_stands_in_its_files(document: Path) -> None:
    absent = []
    for name, *words in WITHIN.findall(document.read_text(encoding="utf-8")):
        texts = [(ROOT / path).read_text(encoding="utf-8") for path in FILES if f"/{path}".endswith(f"/{name}")]
        patterns = [DEFINED.format(word=word) for word in words if word]
        if not any(all(re.search(pattern, text) for pattern in patterns) for text in texts):
            absent.append((name, *words))
    assert not absent
