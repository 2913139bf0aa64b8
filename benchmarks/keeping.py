"""Long runs that can be gone on with: what is told of each case is kept, a line each, in a file that says of which run
it is."""

from __future__ import annotations

import json
import sys
import zlib
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from contextlib import nullcontext
from pathlib import Path
from typing import Any, TypeVar

from laptick.core.measuring.checking import CHECKER_VERSION

Case = TypeVar("Case")


def told(every: Sequence[Case], tell: Callable[[Case], Any], keep: Path | None, at_once: int = 16) -> Iterator[Any]:
    """What ``tell`` (a function of a module, its answer fit for JSON) tells of each case, in order, on all processors.

    ``keep``: a file of what was told before, after a line that says of which run; without it nothing is kept.
    """
    run = f"{CHECKER_VERSION} {zlib.crc32(repr(every).encode())}"
    lines = _whole_lines(keep) if keep and keep.exists() else []
    if lines and lines[0] != run:
        sys.exit(f"{keep} is of another run.")
    done = [json.loads(line) for line in lines[1:]]
    yield from done
    rest = every[len(done) :]
    with ProcessPoolExecutor() as pool, keep.open("a", encoding="utf-8") if keep else nullcontext() as file:
        if file and not lines:
            print(run, file=file)
        for one in pool.map(tell, rest, chunksize=at_once):
            if file:
                print(json.dumps(one), file=file, flush=True)
            yield one


def _whole_lines(keep: Path) -> list[str]:
    """The lines of a file, without one that was cut off in the middle, which is taken off the file too."""
    text = keep.read_text(encoding="utf-8")
    whole = text[: text.rfind("\n") + 1]
    if whole != text:
        keep.write_text(whole, encoding="utf-8")
    return whole.splitlines()
