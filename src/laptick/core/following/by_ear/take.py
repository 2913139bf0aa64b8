"""A recording as a take: what was played of a task, or knocked, and what the recording was like."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from laptick.core.base.errors import TakeError
from laptick.core.base.units import Bpm, Seconds
from laptick.core.following.by_ear.transcribing import Transcribed, transcribe
from laptick.core.following.by_ear.walking import walk_groups
from laptick.core.following.score_events import score_events
from laptick.core.hearing.groups import Group, flux_of, groups_of
from laptick.core.hearing.quality import level_of, noise_db_of
from laptick.core.hearing.sound import SHORTEST_S, Sound
from laptick.core.hearing.spectrum import spectrum_of
from laptick.core.takes.heard import Heard, KnownClick
from laptick.core.takes.performance import MAX_STRIKES, UNKNOWN_KEY, Performance, Source, Strike
from laptick.core.takes.task import Task

#: What is written was played where at least so many of the events heard sound like it, and they, times what they
#: explain of all that is struck, come to so much. Of takes of the piece asked for the least were 0.83 and 0.42, of
#: takes of others the most 0.64 (but for a handful of events) and 0.30; seed 1 of the benchmark.
RECOGNISED, EXPLAINED = 0.6, 0.35

#: Below this other bars of the piece are tried, and taken where they explain clearly more.
DOUBTFUL, CLEARLY = 0.75, 0.12


#: Who comes in early does so by less than this, and by less than this share of a beat: what sounds before is the
#: count-in.
EARLY_S, EARLY_BEATS = 0.3, 0.45


def hear_take(
    sound: Sound,
    task: Task,
    *,
    rate: int,
    click_bpm: Bpm | None = None,
    click: KnownClick | None = None,
    whole: Callable[[], Task] | None = None,
) -> Performance:
    """What was played in a recording of a task, or knocked where the task asks for no pitches.

    ``rate``: of the file; ``click_bpm``: of a click that is heard in it; ``click``: of what the device that recorded
    sounded itself: what sounds before its first beat is not listened to; ``whole``: the same hands over all bars, of
    which others than those asked for may have been played. What is neither is given as strikes of no key, and cannot
    be followed.

    Raises:
        TakeError: nothing is struck in the recording, or it ends before the first beat.
    """
    if click is None:
        return _heard(sound, _Asked(task, whole, click_bpm), rate, None)
    beat_s = float(task.beat_quarters) * task.quarter_s
    begin_s = max(0.0, click.first_beat_s - min(EARLY_S, EARLY_BEATS * beat_s))
    rest = sound.since(begin_s)
    if rest.seconds < SHORTEST_S:
        raise _nothing()
    performance = _heard(rest, _Asked(task, whole, click_bpm), rate, click.since(begin_s))
    strikes = tuple(replace(strike, played_s=strike.played_s + begin_s) for strike in performance.strikes)
    return replace(performance, strikes=strikes)


@dataclass(frozen=True)
class _Asked:
    task: Task
    whole: Callable[[], Task] | None
    click_bpm: Bpm | None


def _heard(sound: Sound, asked: _Asked, rate: int, click: KnownClick | None) -> Performance:
    task, click_bpm = asked.task, asked.click_bpm
    told = Heard(sound.seconds, rate, noise_db_of(sound), level_of(sound), click_bpm=click_bpm)
    if not task.asks_pitches:
        first_beat_s = None if click is None else click.first_beat_s
        return Performance(Source.AUDIO, _knocks(sound, task, first_beat_s), heard=told)
    heard = transcribe(sound, task, click)
    if asked.whole is not None and (not _is_recognised(heard) or heard.meant < DOUBTFUL):
        other = asked.whole()
        if len(other.measures) > len(task.measures):
            elsewhere = transcribe(sound, other, anywhere=True)
            better = _is_recognised(elsewhere) and elsewhere.meant > heard.meant + CLEARLY
            heard = elsewhere if better else heard
    is_recognised = _is_recognised(heard)
    told = replace(
        told,
        tuning_cents=heard.tuning.cents if heard.tuning.clear else None,
        told=heard.told,
        chances=heard.chances,
        is_recognised=is_recognised,
    )
    return Performance(Source.AUDIO, heard.strikes if is_recognised else _unknown(heard.groups), heard=told)


def _is_recognised(heard: Transcribed) -> bool:
    return heard.recognised >= RECOGNISED and heard.meant >= EXPLAINED


def _unknown(groups: tuple[Group, ...]) -> tuple[Strike, ...]:
    """What was struck, on no key that is known."""
    if not groups:
        raise _nothing()
    return tuple(Strike(group.at_s, pitch=UNKNOWN_KEY) for group in groups[:MAX_STRIKES])


def _knocks(sound: Sound, task: Task, first_beat_s: Seconds | None) -> tuple[Strike, ...]:
    """Knocks on lap or lid: of the hands that the score asks for where they fall. Where it asks for both and two fall,
    they are one of either hand, it is not known which: both strikes stand midway."""
    spectrum, events = spectrum_of(sound), score_events(task)
    groups = groups_of(sound, spectrum, flux_of(spectrum))
    if not groups:
        raise _nothing()
    usual = sorted(group.strength for group in groups)[len(groups) // 2]
    strong = [group for group in groups if group.strength >= KNOCK_SHARE * usual]
    knocks = [group.at_s for group in strong]
    known: dict[Seconds, int] = {}
    for passage in walk_groups(task, events, strong, None, first_beat_s):
        known |= {at_s: event for event, at_s in passage.steps}
    sides = {event: {task.expected[index].hand for index in events.members[event]} for event in known.values()}
    seconds = _second_hands(knocks, {at_s for at_s, event in known.items() if len(sides[event]) > 1}, set(known))
    paired = set(seconds.values())
    strikes: list[Strike] = []
    for at_s in knocks:
        if at_s in paired:
            continue
        if at_s not in known:
            strikes.append(Strike(at_s))
            continue
        hands = sides[known[at_s]]
        midway_s = (at_s + seconds.get(at_s, at_s)) / 2
        strikes += [Strike(midway_s, hand, is_apart=len(hands) == 1) for hand in sorted(hands, key=str)]
    return tuple(sorted(strikes, key=lambda strike: strike.played_s))


def _second_hands(knocks: Sequence[Seconds], of_both: set[Seconds], known: set[Seconds]) -> dict[Seconds, Seconds]:
    """The knock of the other hand beside a knock at which the score asks for both, by that knock's time: the nearest
    that is nobody else's, no further than ``PAIR_S`` and ``PAIR_SHARE`` of the way to the next knock that is known.
    ``knocks``: in order."""
    found: dict[Seconds, Seconds] = {}
    taken: set[Seconds] = set()
    in_order = sorted(known)
    for place, at_s in enumerate(in_order):
        if at_s not in of_both:
            continue
        ways_s = [
            abs(other - at_s) for other in (*in_order[max(0, place - 1) : place], *in_order[place + 1 : place + 2])
        ]
        reach_s = min(PAIR_S, PAIR_SHARE * min(ways_s, default=PAIR_S / PAIR_SHARE))
        near = knocks[bisect_left(knocks, at_s - reach_s) : bisect_right(knocks, at_s + reach_s)]
        free = [one for one in near if one not in known and one not in taken]
        if free:
            found[at_s] = min(free, key=lambda one: abs(one - at_s))
            taken.add(found[at_s])
    return found


#: Hands that knock together are no further apart than this, nor by more of the way to the next knock.
PAIR_S, PAIR_SHARE = 0.15, 0.4

#: Weaker than this share of the usual knock is no knock.
KNOCK_SHARE = 0.25


def _nothing() -> TakeError:
    return TakeError(
        "nothing is struck in this recording.",
        kept="Nothing was changed.",
        todo="Look whether the microphone was on, and near enough; then record again.",
    )
