"""From a sound to the strikes of what is written.

The groups of the sound are followed through the score; then, passage by passage, every event between the first and the
last is looked for in the sound again by its own partials, at the time where it was heard or where it should be. What is
found is a strike of every note of the event; where the hands can be told apart, each at its own time.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from statistics import median

import numpy as np

from laptick.core.base.units import Seconds
from laptick.core.following.by_ear.other_keys import (
    CLOSE_S,
    NEAR_KEYS,
    WITH_EVENT,
    is_noise,
    key_struck,
    left_over,
    taken_for,
)
from laptick.core.following.by_ear.walking import Passage, walk_groups
from laptick.core.following.ornaments import ornamented
from laptick.core.following.score_events import ScoreEvents, score_events
from laptick.core.hearing.clicks import without_clicks
from laptick.core.hearing.groups import Group, flux_of, groups_of
from laptick.core.hearing.hands import APART_BINS, Chance, Pair, tell_apart
from laptick.core.hearing.listening import EXPECTED_PRIOR_S, HEARD_PRIOR_S, Fine, Peak, listen_for
from laptick.core.hearing.partials import (
    Tuning,
    looks_of,
    newly_there,
    own_partials,
    partials_of,
    semitones,
    tuning_of,
)
from laptick.core.hearing.presence import NEW, Beside, Loudness, Usual, loudness_of, share_of, were_struck
from laptick.core.hearing.sound import Sound
from laptick.core.hearing.spectrum import Floats, Spectrum, spectrum_of
from laptick.core.score.score import HANDS, Hand, Note
from laptick.core.takes.heard import KnownClick
from laptick.core.takes.performance import Strike
from laptick.core.takes.task import Task

#: An event that was only expected is taken for struck with so much of the usual evidence, near a group; one that was
#: heard is given up below so little.
TAKEN_IN, NEAR_S, GIVEN_UP = 0.2, 0.040, 0.06

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

#: One hand of an event may be struck so far from the other, and is no key too many then.
FAR_S = 0.200

#: (event, when it was found, hand) → when that hand was struck.
_Far = dict[tuple[int, Seconds, Hand], Seconds]

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


@dataclass(frozen=True)
class _Ear:
    task: Task
    events: ScoreEvents
    spectrum: Spectrum
    fine: Fine
    cents: float
    groups: Sequence[Group]
    ornamented: Mapping[int, Note]

    def pitches(self, event: int, hand: Hand | None = None, *, every: bool = True) -> list[int]:
        """The keys of an event, of both hands or of one."""
        members = (self.task.expected[index] for index in self.events.members[event])
        return [one.pitch for one in members if one.pitch is not None and (every or one.hand is hand)]


@dataclass(frozen=True)
class _Found:
    """An event found in the sound: by its comb, and finely."""

    event: int
    peak: Peak
    at_s: Seconds
    was_heard: bool


def transcribe(sound: Sound, task: Task, click: KnownClick | None = None, *, anywhere: bool = False) -> Transcribed:
    """The strikes of a take of a task that asks for pitches. ``click``: what the recorder sounded meanwhile;
    ``anywhere``: it may begin at any bar."""
    spectrum, events = spectrum_of(sound), score_events(task)
    groups = groups_of(sound, spectrum, flux_of(spectrum))
    tuning = tuning_of(sound, [one.pitch for one in task.expected if one.pitch is not None])
    if not groups:
        return Transcribed((), tuning, (), 0, 0, 0.0, 0.0)
    ear = _Ear(task, events, spectrum, Fine(sound), tuning.cents, groups, ornamented(task, events))
    table = semitones(spectrum, tuning.cents)
    likeness = _likeness(ear, table)
    walked = walk_groups(
        task, events, groups, likeness, None if click is None else click.first_beat_s, anywhere=anywhere
    )
    recognised = _recognised(ear, table, walked)
    passages = [_listened(ear, passage) for passage in walked]
    usual, struck = _struck(ear, [one for found in passages for one in found])
    struck, mistaken = _without_mistaken(ear, usual, [one for found in passages for one in found], struck)
    others = groups if click is None else without_clicks(groups, click.clicks_s)  # what may be a key too many
    every = [one for found in passages for one in found]
    paired = [_hands(ear, found) for found in passages]
    hands_s = [at_s for pairs in paired for pair in pairs.values() if pair for at_s in (pair.right_s, pair.left_s)]
    unasked, far = _unasked(replace(ear, groups=others), usual, every, struck, hands_s, mistaken)
    strikes = list(unasked)
    told = chances = 0
    for found, both in zip(passages, paired, strict=True):
        pairs = _far_apart(both, found, far)
        told += sum(pair is not None and pair.is_told for pair in pairs.values())
        chances += len(pairs)
        for one in found:
            strikes += _strikes(ear, one, struck[one.event, one.at_s], pairs.get(one.event))
    ordered = tuple(sorted(strikes, key=lambda strike: strike.played_s))
    explained = _explained(groups, others, [one.at_s for one in every])
    return Transcribed(ordered, tuning, tuple(groups), told, chances, recognised, explained)


def _likeness(ear: _Ear, table: Floats) -> Floats:
    """How much what is newly there at each group sounds like each event; an ornament may begin beside its key."""
    new = newly_there(ear.spectrum, table, [one.at_s for one in ear.groups])
    chords = [ear.pitches(event) for event in range(len(ear.events.members))]
    alike: Floats = new @ looks_of(chords, ear.spectrum, table, ear.cents).T
    for event, note in ear.ornamented.items():
        turned = [[pitch + by if pitch == note.pitch else pitch for pitch in chords[event]] for by in NEIGHBOURS]
        beside = new @ looks_of(turned, ear.spectrum, table, ear.cents).T
        alike[:, event] = np.maximum(alike[:, event], beside.max(axis=1))
    return alike


def _recognised(ear: _Ear, table: Floats, walked: Sequence[Passage]) -> float:
    """Of the events heard, the share that sound more like themselves than like the same moved by some semitones: near
    one where what is written was played; where anything else was, hardly more than a chance of many."""
    steps = [step for passage in walked for step in passage.steps]
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


def _listened(ear: _Ear, passage: Passage) -> list[_Found]:
    """Every event of a passage that is there in the sound."""
    heard = dict(passage.steps)
    onsets = ear.events.onsets
    at = sorted(heard)
    last = at[-1]
    while last + 1 < len(onsets) and onsets[last + 1] - onsets[at[-1]] <= BEYOND_QUARTERS:
        last += 1
    expected = _expected_s(onsets, at, [heard[event] for event in at], range(at[0], last + 1))
    looked = []
    for event, near_s in zip(range(at[0], last + 1), expected, strict=True):
        hertz = partials_of(ear.pitches(event), ear.cents)
        prior = HEARD_PRIOR_S if event in heard else EXPECTED_PRIOR_S
        looked.append((event, listen_for(ear.spectrum, hertz, near_s, prior)))
    usual = median(peak.evidence for event, peak in looked if event in heard)
    ahead_s = median(peak.at_s - heard[event] for event, peak in looked if event in heard)
    group_s = np.array([group.at_s for group in ear.groups])
    found = []
    for event, peak in looked:
        if event in heard and event in ear.ornamented:
            found.append(_Found(event, replace(peak, at_s=heard[event]), _begun(ear, event, heard[event]), True))
            continue
        comb_s = peak.at_s - ahead_s
        if event in heard:
            if peak.evidence < GIVEN_UP * usual:
                continue
        elif peak.evidence < TAKEN_IN * usual or np.abs(group_s - comb_s).min() > NEAR_S:
            continue
        at_s = ear.fine.refine(comb_s, partials_of(ear.pitches(event), ear.cents))
        found.append(_Found(event, replace(peak, at_s=comb_s), at_s, event in heard))
    return found


def _begun(ear: _Ear, event: int, near_s: Seconds) -> Seconds:
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


def _hands(ear: _Ear, found: Sequence[_Found]) -> dict[int, Pair | None]:
    """Where both hands strike, each at its own time where that can be told."""
    apart_hz = APART_BINS * ear.spectrum.bin_hz
    chances = {}
    times = [-1.0, *(one.at_s for one in found), found[-1].at_s + 2.0 if found else 0.0]
    for place, one in enumerate(found, 1):
        right, left = (ear.pitches(one.event, hand, every=False) for hand in HANDS)
        if right and left and one.event not in ear.ornamented:
            chances[one.event] = Chance(
                one.at_s,
                times[place - 1] + CLEAR_S,
                times[place + 1] - CLEAR_S,
                own_partials(right, left, ear.cents, apart_hz),
                own_partials(left, right, ear.cents, apart_hz),
            )
    return dict(zip(chances, tell_apart(ear.spectrum, ear.fine, list(chances.values())), strict=True))


def _struck(ear: _Ear, found: Sequence[_Found]) -> tuple[Usual, dict[tuple[int, Seconds], frozenset[int]]]:
    """How loud keys usually are; and of every event that was found, the expected strikes whose keys were struck."""
    heard: dict[Hand | None, list[tuple[_Found, int, Loudness]]] = {}
    for one, following_s in zip(found, [*(other.at_s for other in found[1:]), math.inf], strict=True):
        late_s = tuple(one.at_s + by_s for by_s in LATE_S if following_s > one.at_s + by_s + CLEAR_AHEAD_S)
        chord = [(index, ear.task.expected[index]) for index in ear.events.members[one.event]]
        for index, expected in chord:
            if expected.pitch is None:
                continue
            others = [other.pitch for at, other in chord if at != index and other.pitch is not None]
            beside = Beside(others, ear.cents, one.at_s, late_s)
            heard.setdefault(expected.hand, []).append((one, index, loudness_of(ear.spectrum, expected.pitch, beside)))
    usual = Usual(loud for line in heard.values() for _, _, loud in line)
    struck: dict[tuple[int, Seconds], set[int]] = {(one.event, one.at_s): set() for one in found}
    for line in heard.values():
        shares = [share_of(loud, usual) for _, _, loud in line]
        for (one, index, _), was in zip(
            line, were_struck(shares, [not one.was_heard for one, _, _ in line]), strict=True
        ):
            turned = ear.ornamented.get(one.event)
            if was or (turned is not None and turned.pitch == ear.task.expected[index].pitch):
                struck[one.event, one.at_s].add(index)
    return usual, {key: frozenset(indices) for key, indices in struck.items()}


def _without_mistaken(
    ear: _Ear, usual: Usual, found: Sequence[_Found], struck: dict[tuple[int, Seconds], frozenset[int]]
) -> tuple[dict[tuple[int, Seconds], frozenset[int]], dict[tuple[int, Seconds, int], Strike]]:
    """What was struck without the notes in whose place a key near by was, and those keys."""
    mistaken: dict[tuple[int, Seconds, int], Strike] = {}
    left = {}
    for one in found:
        there = struck[one.event, one.at_s]
        chord = frozenset(ear.pitches(one.event))
        for index in there if one.event not in ear.ornamented else ():
            pitch = ear.task.expected[index].pitch
            if pitch is None:
                continue
            others = [other for other in chord if other != pitch]
            strike = taken_for(ear.spectrum, usual, pitch, Beside(others, ear.cents, one.at_s), chord)
            if strike is not None:
                mistaken[one.event, one.at_s, index] = strike
        left[one.event, one.at_s] = there - {key[2] for key in mistaken if key[:2] == (one.event, one.at_s)}
    return left, mistaken


def _unasked(
    ear: _Ear,
    usual: Usual,
    found: Sequence[_Found],
    struck: dict[tuple[int, Seconds], frozenset[int]],
    hands_s: Sequence[Seconds],
    mistaken: Mapping[tuple[int, Seconds, int], Strike],
) -> tuple[list[Strike], _Far]:
    """Keys struck that nothing asked for: between events and their hands, and in the place of a note that was not
    heard. And those that an event near by asked for: one hand of it, far from the other."""
    pitches = [one.pitch for one in ear.task.expected if one.pitch is not None]
    keys = range(max(21, min(pitches) - 3), min(108, max(pitches) + 3) + 1)
    ordered = sorted(found, key=lambda one: one.at_s)
    times = [one.at_s for one in ordered]
    alone = set(left_over(ear.groups, [*times, *hands_s]))
    strikes: list[Strike | None] = []
    far: _Far = {}
    for at_s in left_over(ear.groups, [*times, *hands_s], after_s=CLOSE_S):
        before = ordered[max(0, bisect_right(times, at_s) - 1)]
        turned = ear.ornamented.get(before.event)
        if turned is not None and at_s - before.at_s < float(turned.duration_quarters) * ear.task.quarter_s:
            continue
        sounding = ear.pitches(before.event)
        # A key that sounds since the event before is not struck anew, but where one hand came later than the other.
        not_these = frozenset() if _is_of_both(ear, before.event) else frozenset(sounding)
        strike = key_struck(ear.spectrum, usual, keys, Beside(sounding, ear.cents, at_s), not_these)
        own = None if strike is None else _asked_near(ear, usual, ordered, strike)
        if own is not None:
            far[own] = at_s
        elif at_s in alone:
            strikes.append(None if strike is None or strike.pitch in sounding else strike)
    if is_noise(strikes):
        return [], {}
    for one in ordered:
        there = struck[one.event, one.at_s]
        chord = frozenset(ear.pitches(one.event))
        if len(there) == len(chord) and one.event not in ear.ornamented:
            close = {pitch + by for pitch in chord for by in range(-NEAR_KEYS, NEAR_KEYS + 1)}
            beside = Beside(sorted(chord), ear.cents, one.at_s)
            strikes.append(key_struck(ear.spectrum, usual, sorted(close), beside, chord, least=WITH_EVENT))
        for index in ear.events.members[one.event]:
            pitch = ear.task.expected[index].pitch
            if index in there or pitch is None:
                continue
            others = [ear.task.expected[i].pitch or 0 for i in there]
            near = range(pitch - NEAR_KEYS, pitch + NEAR_KEYS + 1)
            beside = Beside(others, ear.cents, one.at_s)
            strikes.append(
                mistaken.get((one.event, one.at_s, index)) or key_struck(ear.spectrum, usual, near, beside, chord)
            )
    return [strike for strike in strikes if strike is not None], far


def _asked_near(ear: _Ear, usual: Usual, ordered: Sequence[_Found], strike: Strike) -> tuple[int, Seconds, Hand] | None:
    """The event of both hands near by, and the hand of it, that a key struck was asked of; unless it was struck with
    that event too, as a note is that is ornamented."""
    near = sorted(
        (one for one in ordered if abs(one.at_s - strike.played_s) <= FAR_S),
        key=lambda one: abs(one.at_s - strike.played_s),
    )
    for one in near:
        own = [hand for hand in HANDS if strike.pitch in ear.pitches(one.event, hand, every=False)]
        if not _is_of_both(ear, one.event) or len(own) != 1 or strike.pitch is None:
            continue
        others = [pitch for pitch in ear.pitches(one.event) if pitch != strike.pitch]
        share = share_of(loudness_of(ear.spectrum, strike.pitch, Beside(others, ear.cents, one.at_s)), usual)
        return None if share is None or share.new >= NEW else (one.event, one.at_s, own[0])
    return None


def _is_of_both(ear: _Ear, event: int) -> bool:
    return all(ear.pitches(event, hand, every=False) for hand in HANDS)


def _far_apart(pairs: dict[int, Pair | None], found: Sequence[_Found], far: _Far) -> dict[int, Pair | None]:
    """The pairs, where a hand was found far from the other with that hand there."""
    for one in found:
        for hand in HANDS:
            at_s = far.get((one.event, one.at_s, hand))
            if at_s is None:
                continue
            right_s, left_s = (at_s, one.at_s) if hand is Hand.RIGHT else (one.at_s, at_s)
            pairs[one.event] = Pair(right_s, left_s, True)
    return pairs


def _strikes(ear: _Ear, found: _Found, struck: frozenset[int], pair: Pair | None) -> list[Strike]:
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
