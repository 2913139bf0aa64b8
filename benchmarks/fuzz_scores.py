"""Mutated scores and MIDI files: nothing but our own errors, none over 2 s or 300 MB.

Takes the demo pieces, scores written from them and their MIDI files, and changes bytes, numbers, elements
and lengths at random (seeded). Every file is read, counted and given its playing order.

Run: .venv/bin/python benchmarks/fuzz_scores.py [files, default 20000] [first seed, default 0]
"""

from __future__ import annotations

import random
import resource
import sys
import time
import warnings
from collections import Counter
from copy import deepcopy
from pathlib import Path

from lxml import etree

sys.path[:0] = [str(Path(__file__).resolve().parent.parent / name) for name in ("src", "tests", "tools")]

from helpers import DEMO, demo_bytes
from laptick.core.base.errors import InputError
from laptick.core.counting.counting import count_hand
from laptick.core.score.roadmap import in_played_order
from laptick.formats.midi.score_writer import write_midi
from laptick.formats.musicxml_writing.counts import compress
from laptick.formats.musicxml_writing.writer import write_musicxml
from laptick.formats.score_files import open_score, read_score, score_file

MOST_S, MOST_MB = 2.0, 300

#: Values that are at the edge of what is allowed, or beyond it.
NUMBERS = (b"0", b"1", b"-1", b"2", b"7", b"64", b"999", b"999999999", b"0.333", b"1e9", b"", b"x", b"32768")


def seeds() -> list[bytes]:
    originals = [demo_bytes(name) for name in DEMO]
    scores = [read_score(data) for data in originals]
    written = [write_musicxml(score) for score in scores]
    return [*originals, *written, *(compress(data) for data in written), *(write_midi(score) for score in scores)]


def mutate(data: bytes, rng: random.Random) -> bytes:
    """One to six changes. Half of the XML files stay well formed and change inside, so that mutations
    reach what lies behind the parser; the others lose, gain, double and swap bytes."""
    if data[:2] != b"PK" and data[:4] != b"MThd" and rng.random() < 0.7:
        return _mutate_tree(data, rng)
    return _mutate_bytes(data, rng)


def _mutate_tree(data: bytes, rng: random.Random) -> bytes:
    root = etree.fromstring(data)
    for _ in range(rng.randint(1, 6)):
        elements = list(root.iter("*"))
        element = rng.choice(elements)
        parent = element.getparent()
        kind = rng.randrange(6)
        if kind == 0 and element.text and element.text.strip():
            element.text = rng.choice(NUMBERS).decode()
        elif kind == 1 and element.attrib:
            element.set(rng.choice(list(element.attrib)), rng.choice(NUMBERS).decode())
        elif parent is None:
            continue
        elif kind == 2:
            parent.remove(element)
        elif kind == 3:
            parent.insert(rng.randint(0, len(parent)), deepcopy(element))
        elif kind == 4:
            other = rng.choice(elements)
            if element not in other.iterancestors() and other is not element:
                other.append(element)
        else:
            element.tag = rng.choice(elements).tag
    return etree.tostring(root)


def _mutate_bytes(data: bytes, rng: random.Random) -> bytes:
    changed = bytearray(data)
    for _ in range(rng.randint(1, 6)):
        if not changed:
            break
        at = rng.randrange(len(changed))
        kind = rng.randrange(7)
        if kind == 0:
            changed[at] = rng.randrange(256)
        elif kind == 1:
            del changed[at : at + rng.randint(1, 60)]
        elif kind == 2:
            changed[at:at] = changed[at : at + rng.randint(1, 200)]
        elif kind == 3:
            _swap_number(changed, at, rng)
        elif kind == 4:
            _drop_element(changed, at)
        elif kind == 5:
            other = rng.randrange(len(changed))
            size = rng.randint(1, 80)
            changed[at : at + size] = changed[other : other + size]
        else:
            changed[at:at] = bytes(rng.randrange(256) for _ in range(rng.randint(1, 8)))
    return bytes(changed)


def _swap_number(data: bytearray, at: int, rng: random.Random) -> None:
    """The number in the next element's text becomes another one."""
    start = data.find(b">", at)
    end = data.find(b"<", start)
    if 0 <= start < end <= start + 12 and data[start + 1 : end].strip():
        data[start + 1 : end] = rng.choice(NUMBERS)


def _drop_element(data: bytearray, at: int) -> None:
    start = data.find(b"<", at)
    end = data.find(b">", start)
    if 0 <= start < end:
        del data[start : end + 1]


def run(files: int, first_seed: int) -> Counter[str]:
    """Outcomes by kind, with the slowest file; raises at the first file that does something else than answer
    or refuse."""
    originals = seeds()
    outcomes: Counter[str] = Counter()
    slowest, slowest_seed = 0.0, -1
    for seed in range(first_seed, first_seed + files):
        rng = random.Random(seed)
        data = mutate(rng.choice(originals), rng)
        begun = time.perf_counter()
        try:
            file = open_score(data, filename="mutated")
            count_hand(file.score, None)
            in_played_order(file.score)
            score_file(file, hands=(None,))
            outcomes["read"] += 1
        except InputError as error:
            outcomes[f"refused: {type(error).__name__}"] += 1
        except Exception:
            print(f"seed {seed} broke it", file=sys.stderr)
            raise
        took = time.perf_counter() - begun
        if took > slowest:
            slowest, slowest_seed = took, seed
    outcomes["slowest, ms"] = round(1000 * slowest)
    outcomes["slowest seed"] = slowest_seed
    return outcomes


def main() -> None:
    files, first_seed = (int(a) for a in (sys.argv[1:] + ["20000", "0"][len(sys.argv) - 1 :]))
    outcomes = run(files, first_seed)
    outcomes["peak, MB"] = round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
    for name, number in outcomes.items():
        print(f"{name}: {number}")
    assert outcomes["slowest, ms"] < 1000 * MOST_S
    assert outcomes["peak, MB"] < MOST_MB


if __name__ == "__main__":
    warnings.simplefilter("error")
    main()
