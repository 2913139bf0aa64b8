"""Score ↔ performance: which played strike is which written one.

Three steps. ``following.follow`` walks the strikes in time order over the score's events and finds the stretches of
playing, pauses, restarts and leaps. Then strikes are paired with written strikes hand by hand (or pitch by pitch)
inside each stretch, order kept, by a second dynamic program over the followed times. Where strikes are left over on
both sides, the pairing is done once more over the beat fitted to what was found: a strike far from its place drags
the followed times with it, but not the beat. No step takes "the nearest note". Where order alone, of all keys or inside
each hand, explains a take far better than its times do, it decides (``key_order``, ``hand_order``).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from laptick.core.following.following import follow
from laptick.core.following.hand_order import pair_keys_by_hand, pair_taps_by_hand
from laptick.core.following.hypotheses import HOVERS, LEAPT, ON, WENT_BACK
from laptick.core.following.key_order import pair_in_order
from laptick.core.following.ornaments import grace_strikes, whole_ornaments
from laptick.core.following.pairing import Followed, Match, Pairing, beat_of, paired, take_turns
from laptick.core.following.score_events import ScoreEvents, score_events
from laptick.core.following.tap_order import tap_in_turn
from laptick.core.following.time_alignment import align
from laptick.core.takes.performance import Performance
from laptick.core.takes.task import Task


@dataclass(frozen=True, slots=True)
class Restart:
    """The player went back: when the new start was played and which written strike it began with. ``repeat``: as
    the score's repeat sign says, though the order asked for does not."""

    played_s: float
    expected_index: int
    repeat: bool = False


@dataclass(frozen=True, slots=True)
class Skip:
    """Bars left out: the written strikes from ``from_index`` up to ``expected_index``, where playing went on.
    ``repeat``: they were a repeat not taken."""

    played_s: float
    from_index: int
    expected_index: int
    repeat: bool


@dataclass(frozen=True)
class Matching:
    """``matches`` hold every written strike at most once (after a restart, its last playing);
    ``repeats`` are strikes of stretches that were played again later: neither extra nor measured;
    ``wrong`` pairs a missing written strike with the key or side struck in its stead; ``skipped`` are the written
    strikes of bars left out, which are not missing besides; ``ornaments`` are strikes of written grace notes and
    ornaments, of which the first is the match; ``last_of_ornament``: written strike → the last strike of its
    ornament; ``by_order``: order alone tells which is which, however far from the beat."""

    matches: tuple[Match, ...]
    missing: tuple[int, ...]
    extra: tuple[int, ...]
    repeats: tuple[int, ...]
    restarts: tuple[Restart, ...]
    wrong: tuple[tuple[int, int], ...]
    last_event_quarters: float
    skips: tuple[Skip, ...] = ()
    skipped: tuple[int, ...] = ()
    ornaments: tuple[int, ...] = ()
    last_of_ornament: Mapping[int, int] = field(default_factory=dict)
    by_order: bool = False


# -- strikes to written strikes -------------------------------------------------------------------


def match(task: Task, performance: Performance, *, anywhere: bool = False) -> Matching:
    """Every written strike matched, missing or skipped, every played one matched, repeated, an ornament's or extra.
    ``anywhere``: the playing may begin at any bar."""
    events = score_events(task)
    path = follow(task, performance, events, anywhere=anywhere)
    segments: list[list[tuple[int, int]]] = []
    restarts: list[Restart] = []
    skips: list[Skip] = []
    before = -1
    trilled = frozenset(strike_index for strike_index, _, how in path if how == HOVERS)
    for strike_index, event, how in path:
        if how == HOVERS:
            continue
        if how != ON or not segments:
            segments.append([])
            played_s, first = performance.strikes[strike_index].played_s, events.members[event][0]
            if how == WENT_BACK:
                restarts.append(Restart(played_s, first, _is_repeat_sign(task, events, before, event)))
            elif how == LEAPT:
                left_out = events.members[before + 1][0]
                skips.append(Skip(played_s, left_out, first, _was_there_before(task, left_out, first)))
        segments[-1].append((strike_index, event))
        before = event

    followed = Followed(task, performance, events, segments, trilled)
    found = paired(followed, None)
    if found.left_over_on_both_sides(task, performance):
        again = paired(followed, beat_of(found, task, performance))
        if len(again.final) >= len(found.final):
            found = again
    take_turns(found, followed)
    tap_in_turn(found, followed)
    last = max((event for _, event in segments[-1]), default=0) if segments else 0
    matching = _matching(followed, found, last, restarts, skips)
    return matching if anywhere else _in_order(followed, matching) or matching


def _matching(
    followed: Followed, found: Pairing, last: int, restarts: Sequence[Restart] = (), skips: Sequence[Skip] = ()
) -> Matching:
    """What was found up to event ``last``, with what is left over on both sides told apart."""
    task, performance, trilled = followed.task, followed.performance, followed.trilled
    taken = {matched.strike_index for matched in found.final.values()} | found.repeats | trilled
    extra = [index for index in range(len(performance.strikes)) if index not in taken]
    ornaments = trilled | grace_strikes(task, performance, {e: m.strike_index for e, m in found.final.items()}, extra)
    whole = whole_ornaments(task, performance, {e: m.strike_index for e, m in found.final.items()}, {*extra, *trilled})
    for index, chain in whole.items():
        near = found.final.get(index) or found.final[min(found.final, key=lambda other: abs(other - index))]
        found.final[index] = Match(index, chain[0], near.segment)
        ornaments = (ornaments | set(chain)) - {chain[0]}
    # An ornament may begin with another strike than was thought: the one that is free now may be extra.
    taken = {matched.strike_index for matched in found.final.values()} | found.repeats | ornaments
    extra = [index for index in range(len(performance.strikes)) if index not in taken]
    jumped = {i for skip in skips for i in range(skip.from_index, skip.expected_index) if i not in found.final}
    missing = [index for index in range(len(task.expected)) if index not in found.final and index not in jumped]
    wrong = _wrong_keys(missing, extra, found.final, task, performance)
    instead_of, struck = {index for index, _ in wrong}, {index for _, index in wrong}
    return Matching(
        tuple(sorted(found.final.values(), key=lambda m: m.expected_index)),
        tuple(index for index in missing if index not in instead_of),
        tuple(index for index in extra if index not in struck),
        tuple(sorted(found.repeats)),
        tuple(restarts),
        tuple(wrong),
        float(followed.events.onsets[last]) if found.final else 0.0,
        tuple(skips),
        tuple(sorted(jumped)),
        tuple(sorted(ornaments)),
        {index: chain[-1] for index, chain in whole.items()},
    )


#: The order of keys alone is asked when the times leave this many strikes unexplained or taken for another playing; it
#: is believed when it leaves at most half of them, and at most this share of the strikes (never more than this many).
ASK_ORDER, ORDER_SHARE, ORDER_MOST = 3, 0.1, 40


def _in_order(followed: Followed, matching: Matching) -> Matching | None:
    """The matching by order alone, of all keys or inside each hand, where that explains the take far better than its
    times do."""
    task, events = followed.task, followed.events
    slips = len(matching.missing) + len(matching.extra) + len(matching.wrong)
    slips += len(matching.skipped) + len(matching.repeats)
    if slips < ASK_ORDER:
        return None
    if task.asks_pitches:
        most = min(slips // 2, round(ORDER_SHARE * len(task.expected)), ORDER_MOST)
        ways = (
            pair_in_order(task, followed.performance, events, most),
            pair_keys_by_hand(task, followed.performance, most),
        )
        ordered = max((way for way in ways if way is not None), key=len, default=None)
    else:
        ordered = pair_taps_by_hand(task, followed.performance, len(matching.extra))
    if ordered is None:
        return None
    found = Pairing({index: Match(index, strike, 0) for index, strike in ordered.items()}, set())
    last = max((e for e, members in enumerate(events.members) if any(i in ordered for i in members)), default=0)
    return replace(_matching(replace(followed, trilled=frozenset()), found, last), by_order=True)


def _is_repeat_sign(task: Task, events: ScoreEvents, left: int, target: int) -> bool:
    """Does the jump follow a repeat sign: from the end of its bar to the bar where the repeat begins?"""
    bars = task.measures
    here, there = bars[int(events.bar[left])], bars[int(events.bar[target])]
    at_end = left + 1 == len(events.members) or events.bar[left + 1] != events.bar[left]
    begins = there.signs.forward or there.written_start_quarters == 0
    return bool(at_end and here.signs.backward and begins and events.at_bar[target])


def _was_there_before(task: Task, left_out: int, landing: int) -> bool:
    """Was a bar of those left out to be played a further time?"""
    first, last = task.expected[left_out].measure_index, task.expected[landing].measure_index
    return any(task.score.measures[index].pass_number > 1 for index in range(first, last))


def _wrong_keys(
    missing: list[int], extra: list[int], final: dict[int, Match], task: Task, performance: Performance
) -> list[tuple[int, int]]:
    """Pairs a missing strike with an extra one (another key, the other side) where it was asked."""
    if not missing or not extra or len(final) < 2:
        return []
    known = sorted(final.values(), key=lambda m: m.expected_index)
    onsets = np.array([float(task.expected[m.expected_index].onset_quarters) for m in known])
    times = np.array([performance.strikes[m.strike_index].played_s for m in known])
    asked = [(index, float(np.interp(float(task.expected[index].onset_quarters), onsets, times))) for index in missing]
    played = [(index, performance.strikes[index].played_s) for index in extra]
    asked_s, played_s = dict(asked), dict(played)
    return [(e, s) for e, s in align(asked, played) if abs(asked_s[e] - played_s[s]) < 0.2]
