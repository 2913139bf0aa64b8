"""How wide the letters of the shipped font are: writes ``letter_widths.json`` for pages and for the web ruler.

``{"400": {"a": 0.55, …}, "800": …}``: advance widths in parts of the type size, at the two weights counts are set in.
Run it after the font has changed.
"""

from __future__ import annotations

import json
from pathlib import Path

from fontTools.ttLib import TTFont
from fontTools.varLib import instancer

ROOT = Path(__file__).resolve().parent.parent
FONT = ROOT / "src/laptick/fonts/atkinson-hyperlegible-next-latin-wght-normal.woff2"
TARGETS = (ROOT / "src/laptick/fonts/letter_widths.json", ROOT / "web/src/ruler/letter_widths.json")
WEIGHTS = (400, 800)

#: Signs, and the letters of the western languages that words are said in.
LETTERS = [chr(code) for code in (*range(0x20, 0x7F), *range(0xC0, 0x100))]


def widths(weight: int) -> dict[str, float]:
    font = instancer.instantiateVariableFont(TTFont(FONT), {"wght": weight})
    glyphs, em = font.getBestCmap(), font["head"].unitsPerEm
    return {letter: round(font["hmtx"][glyphs[ord(letter)]][0] / em, 3) for letter in LETTERS if ord(letter) in glyphs}


def written() -> str:
    return json.dumps({str(weight): widths(weight) for weight in WEIGHTS}, ensure_ascii=False, sort_keys=True) + "\n"


if __name__ == "__main__":
    text = written()
    for target in TARGETS:
        target.write_text(text, encoding="utf-8")
        print(target.relative_to(ROOT), len(text))
