"""How long a count sheet takes as PDF, warm: 64 dense bars, and a real rag of 84; beside an earlier commit, the two in
turn in one run.

Run: .venv/bin/python benchmarks/paper.py [--beside COMMIT] [--rounds 5]
"""

from __future__ import annotations

import argparse
import json
import subprocess
import sys
import tempfile
from pathlib import Path
from statistics import median

ROOT = Path(__file__).resolve().parent.parent

#: Asked for on one line of standard input each, answered by the seconds it took.
SIDE = """
import json, logging, sys, time
sys.path[:0] = [sys.argv[1] + "/src", sys.argv[2] + "/tests", sys.argv[2] + "/benchmarks", sys.argv[2] + "/tools"]
logging.getLogger("weasyprint").setLevel(logging.ERROR)
from laptick.core.counting.choices import CountChoices
from laptick.formats.musicxml_writing.writer import write_musicxml
from laptick.formats.pages.sheet import SheetOptions, sheet_pdf
from laptick.formats.score_files import drawn_from, open_score
from scores import random_score
import music21
from pathlib import Path
rag = Path(music21.__file__).parent / "corpus" / "joplin" / "maple_leaf_rag.mxl"
files = {
    "64 dense bars": open_score(write_musicxml(random_score(64, 64)), filename="dense.musicxml"),
    "a rag of 84 bars": open_score(rag.read_bytes(), filename=rag.name),
}
for line in sys.stdin:
    name, shows = json.loads(line)
    file = files[name]
    begun = time.perf_counter()
    sheet_pdf(file.score, CountChoices(), SheetOptions(None, "a4", False, shows, None), 100.0, drawn_from(file))
    print(time.perf_counter() - begun, flush=True)
"""

ASKED = [(name, shows) for name in ("64 dense bars", "a rag of 84 bars") for shows in ("notation", "ruler", "both")]


class Side:
    """One version of the code in a process of its own."""

    def __init__(self, tree: Path) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-c", SIDE, str(tree), str(ROOT)],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, cwd=ROOT,
        )  # fmt: skip

    def seconds(self, asked: tuple[str, str]) -> float:
        assert self.process.stdin
        assert self.process.stdout
        self.process.stdin.write(json.dumps(asked) + "\n")
        self.process.stdin.flush()
        return float(self.process.stdout.readline())


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--beside", help="a commit")
    parser.add_argument("--rounds", type=int, default=5)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory(prefix="laptick-bench-") as folder:
        sides = {"now": Side(ROOT)}
        if options.beside:
            tree = Path(folder) / "beside"
            subprocess.run(["git", "worktree", "add", "--detach", "-f", tree, options.beside], cwd=ROOT, check=True)
            sides[options.beside] = Side(tree)
        print("| what | shows | " + " | ".join(f"{name}, s" for name in sides) + " |")
        print("|---|---|" + "---|" * len(sides))
        for side in sides.values():
            side.seconds(ASKED[0])  # warm
        for asked in ASKED:
            taken: dict[str, list[float]] = {name: [] for name in sides}
            for _ in range(options.rounds):
                for name, side in sides.items():
                    taken[name].append(side.seconds(asked))
            cells = [f"{median(found):.2f} ({min(found):.2f}–{max(found):.2f})" for found in taken.values()]
            print(f"| {asked[0]} | {asked[1]} | " + " | ".join(cells) + " |", flush=True)
        for side in sides.values():
            side.process.stdin.close()  # type: ignore[union-attr]
            side.process.wait()
        if options.beside:
            subprocess.run(["git", "worktree", "remove", "--force", tree], cwd=ROOT, check=False)


if __name__ == "__main__":
    main()
