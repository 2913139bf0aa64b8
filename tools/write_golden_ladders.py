"""Writes the ladders that tests hold to what was read and approved: .venv/bin/python tools/write_golden_ladders.py

Read what has changed (git diff) before it is kept.
"""

from __future__ import annotations

import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / name) for name in ("src", "tests", "tools", "tests/core/ladder")]

import golden  # noqa: E402

if __name__ == "__main__":
    golden.FOLDER.mkdir(exist_ok=True)
    for piece in golden.PIECES:
        (golden.FOLDER / f"{piece}.txt").write_text(golden.text_of(piece), encoding="utf-8")
        print(piece)
