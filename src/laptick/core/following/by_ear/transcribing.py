"""From a sound to the strikes of what is written.

The groups of the sound are followed through the score; then, passage by passage, every event between the first and the
last is looked for in the sound again by its own partials, at the time where it was heard or where it should be. What is
found is a strike of every note of the event; where the hands can be told apart, each at its own time.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from statistics import median

import numpy as np

from laptick.core.base.units import Seconds
from laptick.core.following.by_ear.ear import Ear, Found
from laptick.core.following.by_ear.unasked import far_apart, unasked, without_mistaken
from laptick.core.following.by_ear.walking import Passage, walk_groups
from laptick.core.following.ornaments import ornamented
from laptick.core.following.score_events import score_events
from laptick.core.hearing.clicks import without_clicks
from laptick.core.hearing.groups import Group, Rises, rises_of
from laptick.core.hearing.hands import APART_BINS, Chance, Pair, sharpened, tell_apart
from laptick.core.hearing.listening import EXPECTED_PRIOR_S, HEARD_PRIOR_S, Fine, Peak, listen_for
from laptick.core.hearing.partials import (
    Tuning,
    like_claps,
    looks_of,
    newly_there,
    own_partials,
    partials_of,
    semitones,
    tuning_of,
)
from laptick.core.hearing.presence import Beside, Loudness, Usual, loudness_of, share_of, were_struck
from laptick.core.hearing.sound import Sound
from laptick.core.hearing.spectrum import Floats
from laptick.core.hearing.steps import Span
from laptick.core.score.score import HANDS, Hand
from laptick.core.takes.heard import KnownClick
from laptick.core.takes.performance import Strike, key_told
from laptick.core.takes.task import Task

#: An event that was only expected is taken for struck with so much of the usual evidence, near a group; one that was
#: heard is given up below so little.
TAKEN_IN, NEAR_S, GIVEN_UP = 0.2, 0.040, 0.06

#: Evidence below so much of the usual is weak: the event is looked for elsewhere, so far from its neighbours, and is
#: there where the evidence is so much clearer, and so much of the usual; a weak passage of so few events is none.
WEAK, CLEARER, SURELY, APART_S, SHORT = 0.35, 2.0, 0.5, 0.060, 2

#: … and not farther away than this: who has ended and talks on for minutes strikes nothing there.
ELSEWHERE_S = 2.5

#: An ornament goes on in strikes at most so far apart, and begins at most so long before it should.
NEXT_STRIKE_S, EARLY_S = 0.200, 0.120

#: Round the events before and after one nothing is laid out.
CLEAR_S = 0.025

#: One hand may come so much later than the other and be looked for there, where nothing else is struck until then.
LATE_S = (0.055, 0.110, 0.165)

#: … so long before the next event it is not looked for.
CLEAR_AHEAD_S = 0.055

#: Semitones by which what is written is moved to see whether it is meant. An octave or a fifth sounds like it.
MOVED = (-6, -4, -3, -2, -1, 1, 2, 3, 4, 6)

#: What is struck from so long before an event to so long after it is a part of it: the other hand, a spread chord.
BEFORE_S, HANDS_S = 0.050, 0.120

#: An ornament begins with its key, or so many semitones beside it.
NEIGHBOURS = (-2, -1, 1, 2)

#: Beyond the last event that was heard, events are looked for so far.
BEYOND_QUARTERS = 2.0


@dataclass(frozen=True)
class Transcribed:
    """What was heard: ``strikes`` in time order; ``told``: at how many of the ``chances`` where both hands strike they
    were told apart; ``recognised``: the share of the events heard that sound more like what is written than like the
    same a few steps higher or lower; ``explained``: the share of all that is struck, by its strength, that lies at an
    event heard."""

    strikes: tuple[Strike, ...]
    tuning: Tuning
    groups: tuple[Group, ...]
    told: int
    chances: int
    recognised: float
    explained: float

    @property
    def meant(self) -> float:
        """How much of what is struck is what is written."""
        return self.recognised * self.explained


def transcribe(
    sound: Sound,
    task: Task,
    click: KnownClick | None = None,
    *,
    anywhere: bool = False,
    rises: Rises | None = None,
) -> Transcribed:
    """The strikes of a take of a task that asks for pitches. ``click``: what the recorder sounded meanwhile;
    ``anywhere``: it may begin at any bar; ``rises``: of the sound, where they are known."""
    rises, events = rises or rises_of(sound), score_events(task)
    spectrum, groups = rises.spectrum, rises.groups
    written = {key for one in task.expected if (key := key_told(one.pitch)) is not None}
    tuning = tuning_of(sound, sorted(written))
    if not groups:
        return Transcribed((), tuning, (), 0, 0, 0.0, 0.0)
    ear = Ear(task, events, spectrum, Fine(sound), tuning.cents, groups, ornamented(task, events))
    table = semitones(spectrum, tuning.cents)
    likeness = _likeness(ear, table)
    walked = walk_groups(
        task,
        events,
        groups,
        likeness,
        None if click is None else click.first_beat_s,
        anywhere=anywhere,
        ornament_quarters={event: float(note.duration_quarters) for event, note in ear.ornamented.items()},
    )
    recognised = _recognised(ear, table, walked)
    passages = [_sharpened(ear, found) for found in _listened(ear, walked)]
    every = [one for found in passages for one in found]
    usual, seemed = _struck(ear, every)
    struck = without_mistaken(ear, usual, every, seemed)
    others = groups if click is None else without_clicks(groups, click.clicks_s)  # what may be a key too many
    paired = [_hands(ear, found) for found in passages]
    hands_s = [at_s for pairs in paired for pair in pairs.values() if pair for at_s in (pair.right_s, pair.left_s)]
    too_many, far = unasked(replace(ear, groups=others), usual, every, struck, hands_s)
    strikes = list(too_many)
    told = chances = 0
    for found, both in zip(passages, paired, strict=True):
        pairs = far_apart(both, found, far)
        told += sum(pair is not None and pair.is_told for pair in pairs.values())
        chances += len(pairs)
        for one in found:
            strikes += _strikes(ear, one, struck.notes[one.event, one.at_s], pairs.get(one.event))
    ordered = tuple(sorted(strikes, key=lambda strike: strike.played_s))
    explained = _explained(groups, others, [one.at_s for one in every])
    return Transcribed(ordered, tuning, tuple(groups), told, chances, recognised, explained)


def _likeness(ear: Ear, table: Floats) -> Floats:
    """How much what is newly there at each group sounds like each event; an ornament may begin beside its key."""
    at_s = [one.at_s for one in ear.groups]
    new = newly_there(ear.spectrum, table, at_s)
    chords = [ear.pitches(event) for event in range(len(ear.events.members))]
    alike: Floats = new @ looks_of(chords, ear.spectrum, table, ear.cents).T
    claps = [event for event in range(len(chords)) if ear.is_clap(event)]
    if claps:
        # A clap counts as much as what is a key beyond doubt, what is none as little as other keys do.
        keys = np.delete(alike, claps, axis=1)
        usual, best = np.median(keys), np.percentile(keys.max(axis=1), 75)
        alike[:, claps] = (usual + (best - usual) * like_claps(ear.spectrum, table, at_s))[:, None]
    for event, note in ear.ornamented.items():
        turned = [[pitch + by if pitch == note.pitch else pitch for pitch in chords[event]] for by in NEIGHBOURS]
        beside = new @ looks_of(turned, ear.spectrum, table, ear.cents).T
        alike[:, event] = np.maximum(alike[:, event], beside.max(axis=1))
    return alike


def _recognised(ear: Ear, table: Floats, walked: Sequence[Passage]) -> float:
    """Of the events heard, the share that sound more like themselves than like the same moved by some semitones: near
    one where what is written was played; where anything else was, hardly more than a chance of many. A clap is the
    same wherever it is moved."""
    steps = [step for passage in walked for step in passage.steps if not ear.is_clap(step[0])]
    if not steps:
        return 0.0
    new = newly_there(ear.spectrum, table, [at_s for _, at_s in steps])
    alike = np.stack(
        [
            (new * looks_of([[pitch + by for pitch in ear.pitches(event)] for event, _ in steps], ear.spectrum, table,
                            ear.cents)).sum(axis=1)
            for by in (0, *MOVED)
        ]
    )  # fmt: skip
    return float((alike[0] > alike[1:].max(axis=0)).mean())


def _explained(groups: Sequence[Group], others: Sequence[Group], found_s: Sequence[Seconds]) -> float:
    """Of all that is struck, by its strength, the share that lies at an event heard, or just after it.
    ``others``: those that are no click of the recorder's own; a click that lies at no event need not be explained."""
    if not found_s:
        return 0.0
    at = np.sort(np.array(found_s))
    times = np.array([group.at_s for group in groups])
    strength = np.array([group.strength for group in groups])
    before = at[np.maximum(np.searchsorted(at, times + BEFORE_S, side="right") - 1, 0)]
    near = (times - before <= HANDS_S) & (times - before >= -BEFORE_S)
    played = {group.at_s for group in others}
    asks = near | np.array([group.at_s in played for group in groups])
    return float(strength[near].sum() / max(float(strength[asks].sum()), 1e-9))


def _listened(ear: Ear, walked: Sequence[Passage]) -> list[list[Found]]:
    """Every event that is there in the sound, passage by passage."""
    if not walked:
        return []
    looked = [_looked(ear, passage) for passage in walked]
    heard = [dict(passage.steps) for passage in walked]
    evidence = [one.evidence for own, peaks in zip(heard, looked, strict=True) for e, one in peaks if e in own]
    usual = median(evidence)
    found = []
    for own, peaks in zip(heard, looked, strict=True):
        own_evidence = [one.evidence for event, one in peaks if event in own]
        if len(own) <= SHORT and median(own_evidence) < WEAK * usual:
            continue  # a noise that lies where it might go on: of what is struck again, some is heard as it usually is
        found.append(_there(ear, own, peaks, usual))
    return found


def _looked(ear: Ear, passage: Passage) -> list[tuple[int, Peak]]:
    """Every event of a passage, looked for where it was heard or should be."""
    heard = dict(passage.steps)
    onsets = ear.events.onsets
    at = sorted(heard)
    last = at[-1]
    while last + 1 < len(onsets) and onsets[last + 1] - onsets[at[-1]] <= BEYOND_QUARTERS:
        last += 1
    expected = _expected_s(onsets, at, [heard[event] for event in at], range(at[0], last + 1))
    looked = []
    for event, near_s in zip(range(at[0], last + 1), expected, strict=True):
        hertz = ear.hertz(event)
        prior = HEARD_PRIOR_S if event in heard else EXPECTED_PRIOR_S
        looked.append((event, listen_for(ear.spectrum, hertz, near_s, prior)))
    return looked


def _there(ear: Ear, heard: dict[int, Seconds], looked: list[tuple[int, Peak]], usual: float) -> list[Found]:
    """What of a passage was struck. ``usual``: the evidence of what was heard in this take."""
    ahead_s = median(peak.at_s - heard[event] for event, peak in looked if event in heard)
    group_s = np.array([group.at_s for group in ear.groups])
    found: list[Found] = []
    for place, (event, peak) in enumerate(looked):
        if event not in heard and ear.is_clap(event):
            continue  # whatever rises everywhere would do: a clap is a group of its own
        if event in heard and event in ear.ornamented:
            before_s = found[-1].peak.at_s if found else 0.0
            first_s = first_strike(
                group_s, heard[event], max(before_s + APART_S, _should_s(ear, heard, event) - EARLY_S)
            )
            found.append(Found(event, replace(peak, at_s=first_s), _begun(ear, event, first_s), True))
            continue
        if event in heard:
            least = GIVEN_UP * usual
            is_there = peak.evidence >= WEAK * usual
        else:
            least = TAKEN_IN * usual
            is_there = peak.evidence >= least and np.abs(group_s - (peak.at_s - ahead_s)).min() <= NEAR_S
        if not is_there:
            before_s = found[-1].peak.at_s if found else 0.0
            later = [heard[other] for other, _ in looked[place + 1 :] if other in heard]
            other = _elsewhere(ear, event, peak, (before_s, later[0] if later else math.inf))
            if other is not None and other.evidence >= max(CLEARER * peak.evidence, SURELY * usual):
                peak, is_there = other, True
        if not is_there and (event not in heard or peak.evidence < least):
            continue
        comb_s = peak.at_s - ahead_s
        found.append(Found(event, replace(peak, at_s=comb_s), ear.strike_s(event, comb_s), event in heard))
    return found


def _should_s(ear: Ear, heard: dict[int, Seconds], event: int) -> Seconds:
    """When an event should fall between those heard on either side; as it was heard, where there is none on one."""
    onsets = ear.events.onsets
    earlier = [other for other in heard if other < event]
    later = [other for other in heard if other > event]
    if not earlier or not later:
        return heard[event]
    at = [max(earlier), min(later)]
    return float(np.interp(onsets[event], onsets[at], [heard[other] for other in at]))


def first_strike(group_s: np.ndarray, heard_s: Seconds, least_s: Seconds) -> Seconds:
    """The first of the strikes of an ornament that one of was heard: back from strike to strike, while the one before
    is near and not before ``least_s``."""
    first_s = heard_s
    for at_s in group_s[group_s < heard_s - 1e-6][::-1].tolist():
        if first_s - at_s > NEXT_STRIKE_S or at_s < least_s:
            break
        first_s = at_s
    return first_s


def _elsewhere(ear: Ear, event: int, peak: Peak, between_s: tuple[Seconds, Seconds]) -> Peak | None:
    """Where else, between its neighbours, an event is most likely that is hardly there where it should be."""
    after_s, before_s = between_s[0] + APART_S, between_s[1] - APART_S
    hertz = ear.hertz(event)
    others = [
        listen_for(ear.spectrum, hertz, group.at_s, HEARD_PRIOR_S)
        for group in ear.groups
        if after_s < group.at_s < before_s and NEAR_S < abs(group.at_s - peak.at_s) <= ELSEWHERE_S
    ]
    return max(others, key=lambda one: one.evidence, default=None)


def _begun(ear: Ear, event: int, near_s: Seconds) -> Seconds:
    """When an ornamented event began: with its key, or one beside it."""
    own = ear.ornamented[event].pitch or 0
    keys = {*ear.pitches(event), *(own + by for by in NEIGHBOURS)}
    return ear.fine.refine(near_s, partials_of(sorted(keys), ear.cents))


def _expected_s(onsets: np.ndarray, at: list[int], times: list[float], wanted: range) -> list[float]:
    """When events should fall: between those heard, and beyond them at the pace there."""
    quarters = onsets[at]
    found = np.interp(onsets[wanted.start : wanted.stop], quarters, times)
    if len(at) > 1:
        near = at[-min(len(at), 5) :]
        span = onsets[near[-1]] - onsets[near[0]]
        pace = (times[-1] - times[-len(near)]) / span
        beyond = onsets[wanted.start : wanted.stop] > quarters[-1]
        found[beyond] = times[-1] + pace * (onsets[wanted.start : wanted.stop][beyond] - quarters[-1])
    return [float(one) for one in found]


def _sharpened(ear: Ear, found: Sequence[Found]) -> list[Found]:
    """The same, with what one hand strikes alone put where it fell to the millisecond."""
    lone = {}
    for one, (after_s, before_s) in zip(found, _between(found), strict=True):
        hands = [ear.pitches(one.event, hand, every=False) for hand in HANDS]
        if any(hands) and not all(hands) and one.event not in ear.ornamented:
            lone[one] = (Span(one.at_s, after_s, before_s), partials_of(ear.pitches(one.event), ear.cents))
    at_s = dict(zip(lone, sharpened(ear.fine, list(lone.values())), strict=True))
    return [replace(one, at_s=at_s.get(one, one.at_s)) for one in found]


def _between(found: Sequence[Found]) -> list[tuple[Seconds, Seconds]]:
    """Of every event, the stretch that is its own: after the one before, before the one after."""
    times = [-1.0, *(one.at_s for one in found), found[-1].at_s + 2.0 if found else 0.0]
    return [(before_s + CLEAR_S, after_s - CLEAR_S) for before_s, after_s in zip(times[:-2], times[2:], strict=True)]


def _hands(ear: Ear, found: Sequence[Found]) -> dict[int, Pair | None]:
    """Where both hands strike, each at its own time where that can be told."""
    apart_hz = APART_BINS * ear.spectrum.bin_hz
    chances = {}
    for one, (after_s, before_s) in zip(found, _between(found), strict=True):
        right, left = (ear.pitches(one.event, hand, every=False) for hand in HANDS)
        if right and left and one.event not in ear.ornamented:
            chances[one.event] = Chance(
                Span(one.at_s, after_s, before_s),
                own_partials(right, left, ear.cents, apart_hz),
                own_partials(left, right, ear.cents, apart_hz),
            )
    return dict(zip(chances, tell_apart(ear.fine, list(chances.values())), strict=True))


def _struck(ear: Ear, found: Sequence[Found]) -> tuple[Usual, dict[tuple[int, Seconds], frozenset[int]]]:
    """How loud keys usually are; and of every event that was found, the expected strikes whose keys were struck, and
    what has no key."""
    heard: dict[Hand | None, list[tuple[Found, int, Loudness]]] = {}
    struck: dict[tuple[int, Seconds], set[int]] = {}
    for one, following_s in zip(found, [*(other.at_s for other in found[1:]), math.inf], strict=True):
        late_s = tuple(one.at_s + by_s for by_s in LATE_S if following_s > one.at_s + by_s + CLEAR_AHEAD_S)
        keys = {index: ear.key(index) for index in ear.events.members[one.event]}
        struck[one.event, one.at_s] = {index for index, key in keys.items() if key is None}
        for index, key in keys.items():
            if key is None:
                continue
            others = [other for at, other in keys.items() if at != index and other is not None]
            beside = Beside(others, ear.cents, one.at_s, late_s)
            line = heard.setdefault(ear.task.expected[index].hand, [])
            line.append((one, index, loudness_of(ear.spectrum, key, beside)))
    usual = Usual(loud for line in heard.values() for _, _, loud in line)
    for line in heard.values():
        shares = [share_of(loud, usual) for _, _, loud in line]
        for (one, index, _), was in zip(
            line, were_struck(shares, [not one.was_heard for one, _, _ in line]), strict=True
        ):
            turned = ear.ornamented.get(one.event)
            if was or (turned is not None and turned.pitch == ear.task.expected[index].pitch):
                struck[one.event, one.at_s].add(index)
    return usual, {key: frozenset(indices) for key, indices in struck.items()}


def _strikes(ear: Ear, found: Found, struck: frozenset[int], pair: Pair | None) -> list[Strike]:
    strikes = []
    for index in ear.events.members[found.event]:
        expected = ear.task.expected[index]
        if index not in struck:
            continue
        at_s, is_apart = found.at_s, True
        if pair is not None:
            at_s, is_apart = (pair.right_s if expected.hand is Hand.RIGHT else pair.left_s), pair.is_told
        elif len({ear.task.expected[i].hand for i in struck}) > 1:
            is_apart = False
        strikes.append(Strike(max(0.0, at_s), expected.hand, expected.pitch, is_apart=is_apart))
    return strikes
