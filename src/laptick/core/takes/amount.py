"""How much can be one take of a passage: far more than it asks for was not played by somebody who practised it.

A student who stops, goes back and begins anew several times strikes a few times what is written; a hand drumming on
the keys, or a program gone astray, strikes without end, and following that costs the more the longer it is. The bounds
are estimates, wide of anything seen.
"""

from __future__ import annotations

from laptick.core.base.errors import LimitError
from laptick.core.takes.performance import Performance
from laptick.core.takes.task import Task

#: Strikes for each that is asked for, and beyond that.
MOST_TIMES, MOST_BESIDE = 6, 200

#: So many strikes may fall within ``CROWD_S``: ten fingers twice, with room.
MOST_AT_ONCE, CROWD_S = 40, 0.05


def check_amount(task: Task, performance: Performance) -> None:
    """
    Raises:
        LimitError: it holds more than a take of this can.
    """
    struck, asked = len(performance.strikes), len(task.expected)
    if struck > MOST_TIMES * asked + MOST_BESIDE:
        raise LimitError(
            f"this take has {struck:,} strikes, and {asked:,} are asked for.",
            where="taps",
            kept="Nothing was stored.",
            todo="Send the take of this passage alone, or choose the bars that were played.",
        )
    times = [strike.played_s for strike in performance.strikes]
    for index in range(MOST_AT_ONCE, struck):
        if times[index] - times[index - MOST_AT_ONCE] < CROWD_S:
            raise LimitError(
                f"more than {MOST_AT_ONCE} strikes fall within {CROWD_S * 1000:.0f} ms of each other.",
                where=f"taps[{index}]",
                kept="Nothing was stored.",
                todo="Nobody strikes so often at once; look at what sent this.",
            )
