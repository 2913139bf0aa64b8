"""Which key is which written note by their order alone, whatever the time between them.

Who reads note by note strikes every key in its turn and has no beat: what follows times loses the place there, the
order of the keys does not. An edit distance over the written instants: the notes of one may come in any order, every
note left out, key too many, or one in the other's place costs one.

Source: Levenshtein (Soviet Physics Doklady 10, 1966), from memory; over instants instead of single notes, and in a band
as wide as the errors allowed, so that the work grows with the length of the take.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from laptick.core.following.score_events import ScoreEvents
from laptick.core.takes.performance import Performance
from laptick.core.takes.task import Task

#: (errors so far, strikes taken for the last instant, or ``None`` for a key too many after it).
_Cell = tuple[int, int | None]


def pair_in_order(task: Task, performance: Performance, events: ScoreEvents, most_errors: int) -> dict[int, int] | None:
    """Written strikes and the played ones they are, at the fewest errors; ``None`` for more than ``most_errors``."""
    written = [Counter(task.expected[i].pitch for i in members) for members in events.members]
    keys = [strike.pitch for strike in performance.strikes]
    rows: list[dict[int, _Cell]] = [_with_extras({0: (0, None)}, len(keys), most_errors)]
    for chord in written:
        row: dict[int, _Cell] = {}
        size = chord.total()
        for taken, (errors, _) in rows[-1].items():
            left = Counter(chord)
            found = 0
            for more in range(size + 2):  # one key too many may lie among the notes of a chord
                if more:
                    if taken + more > len(keys):
                        break
                    key = keys[taken + more - 1]
                    found += left[key] > 0
                    left[key] -= 1
                total = errors + max(size, more) - found
                if total <= most_errors and total < row.get(taken + more, (total + 1, 0))[0]:
                    row[taken + more] = (total, more)
        if not row:
            return None
        rows.append(_with_extras(row, len(keys), most_errors))
    return _traced(task, events.members, keys, rows) if len(keys) in rows[-1] else None


def _with_extras(row: dict[int, _Cell], count: int, most_errors: int) -> dict[int, _Cell]:
    """The row with strikes that belong to nothing taken after each of its cells."""
    for taken in range(min(row), count):
        here = row.get(taken)
        if here is not None and here[0] < most_errors and here[0] + 1 < row.get(taken + 1, (count, 0))[0]:
            row[taken + 1] = (here[0] + 1, None)
    return row


def _traced(
    task: Task, members: Sequence[Sequence[int]], keys: Sequence[int | None], rows: Sequence[dict[int, _Cell]]
) -> dict[int, int]:
    pairs: dict[int, int] = {}
    at = len(keys)
    for event in range(len(members), 0, -1):
        while (more := rows[event][at][1]) is None:
            at -= 1
        struck = list(range(at - more, at))
        for index in members[event - 1]:
            own = next((i for i in struck if keys[i] == task.expected[index].pitch), None)
            if own is not None:
                struck.remove(own)
                pairs[index] = own
        at -= more
    return pairs
