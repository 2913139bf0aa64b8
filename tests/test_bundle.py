"""How much script a place asks for on its first load, gzipped: no more than stated (docs/design budget, ours)."""

from __future__ import annotations

import gzip
import json
from pathlib import Path

import pytest

DIST = Path(__file__).resolve().parents[1] / "web" / "dist"
WORKSPACE = "src/features/workspace/Workspace.tsx"
#: The modules that a place is made of, and its bound.
MOST_KB: dict[tuple[str, ...], int] = {
    ("src/features/pieces/Shelf.tsx",): 120,
    (WORKSPACE,): 138,
    (WORKSPACE, "src/features/workspace/PractisePlace.tsx"): 155,
}


def scripts_of(manifest: dict[str, dict], name: str, found: set[str] | None = None) -> set[str]:
    """The files of a chunk and of all that it imports, but for what is loaded later."""
    found = set() if found is None else found
    chunk = manifest[name]
    if chunk["file"] not in found:
        found.add(chunk["file"])
        for other in chunk.get("imports", ()):
            scripts_of(manifest, other, found)
    return found


@pytest.mark.parametrize("place", MOST_KB)
def test_a_place_asks_for_no_more_script_than_stated(place: tuple[str, ...]):
    built = DIST / ".vite" / "manifest.json"
    assert built.is_file(), "the interface is not built: run ./laptick test, or npm run build in web"
    manifest = json.loads(built.read_text(encoding="utf-8"))
    asked = set().union(*(scripts_of(manifest, module) for module in ("index.html", *place)))
    size = sum(len(gzip.compress((DIST / file).read_bytes())) for file in asked if file.endswith(".js"))
    assert 50_000 < size <= MOST_KB[place] * 1000
