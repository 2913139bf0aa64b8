"""What a judgement may not depend on: when a take began, at which tempo it was asked for, one note too many, which track
of a file comes first, and how well the other hand plays.

Common practice, no source; the deviations are those of a player written down by hand (``HAND_WRITTEN_MS``).
"""

from __future__ import annotations

import io
import itertools
from dataclasses import replace

import mido
import pytest
from hypothesis import HealthCheck, assume, example, given, settings
from hypothesis import strategies as st

from helpers import HAND_WRITTEN_MS, score_of
from laptick.core.base.levels import Level
from laptick.core.judging.findings import find_findings
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import HANDS, Hand
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import Task, lap_task
from laptick.formats.take_files import read_take
from sampling import sampled

settings.register_profile(
    "judgements", deadline=None, max_examples=sampled(10, 40), suppress_health_check=list(HealthCheck)
)
settings.load_profile("judgements")

#: Runs, rests, long notes and dotted pairs in both hands: sixteen bars.
PIECE = score_of(
    " | ".join(["C5/e D5/e E5/e F5/e G5/q r/q", "E5/q. D5/e C5/q r/q", "G5/q F5/e E5/e D5/q r/q", "C5/h E5/q r/q"] * 4),
    " | ".join(["C3/q r/q E3/e F3/e G3/q", "C3/h r/q G3/q", "E3/q r/q C3/e D3/e E3/q", "G3/q C3/q r/q G3/q"] * 4),
)


def entries(task: Task, hand: Hand) -> set[object]:
    """Strikes after a rest of their hand."""
    line = sorted((e for e in task.expected if e.hand is hand), key=lambda e: e.onset_quarters)
    return {after.onset_quarters for before, after in itertools.pairwise(line) if before.until_next_quarters is None}


def played(task: Task, *, late: dict[tuple[Hand, object], float], noise: dict[Hand, float], turn: int) -> Performance:
    strikes = []
    for index, e in enumerate(task.expected):
        noise_s = noise[e.hand] * HAND_WRITTEN_MS[(5 * index + turn) % len(HAND_WRITTEN_MS)] / 1000
        on_s = 2 + float(e.onset_quarters) * task.quarter_s + noise_s + late.get((e.hand, e.onset_quarters), 0.0)
        length_s = float(e.until_next_quarters or 1) * task.quarter_s
        strikes.append(Strike(on_s, e.hand, e.pitch, 64, on_s + 0.9 * length_s))
    return Performance(Source.MIDI, tuple(sorted(strikes, key=lambda s: s.played_s)))


def judged(task: Task, take: Performance, level: Level = Level.ELEMENTARY) -> dict[tuple[str, object], float]:
    """(code, hand) → how many times its limit."""
    checked = check_take(task, take)
    assume(checked.followed)
    return {(str(f.code), f.hand): f.ratio for f in find_findings(checked, LIMITS[level])}


def late_entries(task: Task, hand: Hand, amount_s: float) -> dict[tuple[Hand, object], float]:
    return {(hand, onset): amount_s for onset in entries(task, hand)}


@given(
    st.sampled_from(HANDS),
    st.sampled_from(list(Level)),
    st.floats(1.5, 3),
    st.integers(0, 32),
    st.floats(0, 1),
)
# Nearest to another explanation when the other hand is perfect: that the hands are apart, or that pairs limp.
@example(Hand.RIGHT, Level.ADVANCED, 1.5, 27, 0.0)
@example(Hand.RIGHT, Level.ADVANCED, 1.75, 9, 0.0)
@example(Hand.RIGHT, Level.ADVANCED, 1.75, 30, 0.0)
@example(Hand.LEFT, Level.ADVANCED, 1.5, 4, 0.0)
@example(Hand.LEFT, Level.ADVANCED, 1.5, 7, 0.0)
@example(Hand.LEFT, Level.ADVANCED, 1.5, 29, 0.0)
def test_one_hand_is_judged_whatever_the_other_does(hand, level, times, turn, other):
    """Entries of one hand late by 1.5 times their limit and more: found, and found when the other hand is better, to
    the point of being perfect."""
    for found in judged_beside(hand, level, times, turn, (other, 0.0)):
        assert ("late-entry", hand) in found


def judged_beside(
    hand: Hand, level: Level, times: float, turn: int, others: tuple[float, ...]
) -> list[dict[tuple[str, object], float]]:
    """What is found with the other hand at so many times its own noise, where it is found with both alike."""
    task = lap_task(PIECE, assigned_bpm=72, with_pitches=True)
    limit_s = (LIMITS[level].spread_ms(60_000 / 72) + 1) / 1000
    late = late_entries(task, hand, times * limit_s)
    own = 0.5 if level is Level.ADVANCED else 1.0
    both = judged(task, played(task, late=late, noise=dict.fromkeys(HANDS, own), turn=turn), level)
    assume(both.get(("late-entry", hand), 0) >= 1.5)
    noises = [{one: own if one is hand else own * other for one in HANDS} for other in others]
    return [judged(task, played(task, late=late, noise=noise, turn=turn), level) for noise in noises]


@given(st.sampled_from(HANDS), st.floats(0, 3), st.floats(0.1, 30), st.integers(0, 32))
def test_when_a_take_begins_changes_nothing(hand, times, later_s, turn):
    task = lap_task(PIECE, assigned_bpm=72, with_pitches=True)
    take = played(task, late=late_entries(task, hand, times * 0.06), noise=dict.fromkeys(HANDS, 1.0), turn=turn)
    strikes = tuple(replace(s, played_s=s.played_s + later_s, released_s=s.released_s + later_s) for s in take.strikes)
    here, there = judged(task, take), judged(task, replace(take, strikes=strikes))
    assert there.keys() == here.keys()
    for key, ratio in here.items():
        assert there[key] == pytest.approx(ratio, rel=1e-3)


@given(st.sampled_from(HANDS), st.floats(1.05, 1.5), st.integers(0, 32), st.sampled_from([0.0, 1.0, 2.5]))
def test_at_another_tempo_the_same_playing_is_the_same(hand, slower, turn, times):
    """One hand at 40, where limits are shares of the interval and no floor in milliseconds holds, and slower still: what
    is found is found, its share of the limit within a tenth (the source's own millisecond weighs less)."""
    at_40 = lap_task(PIECE, assigned_bpm=40, hands=(hand,), with_pitches=True)
    slow = lap_task(PIECE, assigned_bpm=40 / slower, hands=(hand,), with_pitches=True)
    late = late_entries(at_40, hand, times * 0.105)
    take = played(at_40, late=late, noise=dict.fromkeys(HANDS, 1.5), turn=turn)
    strikes = tuple(
        replace(s, played_s=2 + slower * (s.played_s - 2), released_s=2 + slower * (s.released_s - 2))
        for s in take.strikes
    )
    here, there = judged(at_40, take), judged(slow, replace(take, strikes=strikes))
    # What lies at its limit may fall to either side.
    clear = {key for key, ratio in here.items() if ratio > 1.4}
    assert clear <= there.keys()
    for key in clear:
        assert there[key] == pytest.approx(here[key], rel=0.1)


@given(st.sampled_from(HANDS), st.sampled_from([0.0, 2.0, 3.0]), st.integers(0, 10_000), st.integers(0, 32))
def test_one_note_too_many_changes_nothing_else(hand, times, at, turn):
    task = lap_task(PIECE, assigned_bpm=72, with_pitches=True)
    take = played(task, late=late_entries(task, hand, times * 0.06), noise=dict.fromkeys(HANDS, 1.0), turn=turn)
    before = take.strikes[at % (len(take.strikes) - 1)]
    added = Strike(before.played_s + 0.13, None, 97, 40, before.played_s + 0.2)
    strikes = tuple(sorted((*take.strikes, added), key=lambda s: s.played_s))
    here, there = judged(task, take), judged(task, replace(take, strikes=strikes))
    assert {key for key, ratio in here.items() if ratio > 1.2} <= there.keys() <= here.keys()


@given(st.sampled_from(HANDS), st.sampled_from([0.0, 2.0]), st.integers(0, 32))
def test_the_order_of_tracks_changes_nothing(hand, times, turn):
    task = lap_task(PIECE, assigned_bpm=72, with_pitches=True)
    take = played(task, late=late_entries(task, hand, times * 0.06), noise=dict.fromkeys(HANDS, 1.0), turn=turn)
    one, other = (read_take(midi_file(take, order), filename="take.mid") for order in (HANDS, HANDS[::-1]))
    assert one == other
    assert judged(task, one) == judged(task, other)


def midi_file(take: Performance, order: tuple[Hand, ...]) -> bytes:
    """Each hand on a track of its own: 1,000 ticks a quarter, one quarter a second."""
    file = mido.MidiFile(ticks_per_beat=1000)
    file.tracks.append(mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=1_000_000)]))
    for hand in order:
        events = []
        for s in (s for s in take.strikes if s.hand is hand):
            events += [(round(1000 * s.played_s), "note_on", s), (round(1000 * s.released_s), "note_off", s)]
        track, now = mido.MidiTrack(), 0
        for tick, kind, s in sorted(events, key=lambda one: (one[0], one[1] == "note_on")):
            track.append(mido.Message(kind, note=s.pitch, velocity=64, time=tick - now))
            now = tick
        file.tracks.append(track)
    data = io.BytesIO()
    file.save(file=data)
    return data.getvalue()
