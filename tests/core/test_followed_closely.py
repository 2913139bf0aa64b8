"""What a follower must not trip over: trills begun from above, a run tapped so fast that its taps lie nearer to other
notes, a hand that waits while the other goes on. Each worked by hand; common practice, no source."""

from __future__ import annotations

from dataclasses import replace

import pytest

from helpers import score_of
from laptick.core.following.matching import match
from laptick.core.measuring.checking import check_take
from laptick.core.score.score import Hand, Mark, MarkKind
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import lap_task

#: A half note to trill on in bars 2 and 4.
TRILLS = score_of(
    "C5/q D5/q E5/q F5/q | G5/h F5/h | C5/q D5/q E5/q F5/q | G5/h C5/h", "C3/h G3/h | C3/h G3/h | C3/h G3/h | C3/h G3/h"
)


def with_trills(pitch: int):
    trilled = [note for note in TRILLS.notes if note.pitch == pitch]
    marks = tuple(
        Mark(MarkKind.ORNAMENT, note.onset_quarters, "trill-mark", note_id=note.id, hand=note.hand) for note in trilled
    )
    return replace(TRILLS, marks=(*TRILLS.marks, *marks)), {note.onset_quarters for note in trilled}


@pytest.mark.parametrize("late_left_s", [0.0, 0.06])
def test_a_trill_from_above_begins_with_its_first_strike(late_left_s):
    """G with A above it, begun with A on the beat, 0.1 s a strike, five strikes, the last held to the end: the note is
    struck where the A is and let go with the last G; no strike is wrong, missing or too many."""
    score, trilled = with_trills(79)
    assert trilled == {4, 12}
    task = lap_task(score, assigned_bpm=60, with_pitches=True)
    strikes = []
    for expected in task.expected:
        at = 2 + float(expected.onset_quarters) + late_left_s * (expected.hand is Hand.LEFT)
        if expected.pitch == 79:
            for i, pitch in enumerate((81, 79, 81, 79)):
                strikes.append(Strike(at + 0.1 * i, None, pitch, 64, at + 0.1 * i + 0.08))
            strikes.append(Strike(at + 0.4, None, 79, 64, at + 1.95))
        else:
            strikes.append(Strike(at, None, expected.pitch, 64, at + 0.9))
    take = Performance(Source.MIDI, tuple(sorted(strikes, key=lambda s: s.played_s)))
    matching = match(task, take)
    assert (matching.missing, matching.extra, matching.wrong) == ((), (), ())
    for matched in matching.matches:
        if task.expected[matched.expected_index].pitch == 79:
            assert take.strikes[matched.strike_index].pitch == 81
            last = take.strikes[matching.last_of_ornament[matched.expected_index]]
            assert last.released_s == pytest.approx(
                2 + float(task.expected[matched.expected_index].onset_quarters) + 1.95
            )
    measured = check_take(task, take).measured
    assert measured is not None
    assert all(abs(note.deviation_ms) < 80 for note in measured.notes)


def test_two_trills_from_above_in_a_row():
    """B5 and then A5, half notes with a trill each, begun from above: B is the upper key of the second one, and the
    first strike of that is not the first note come late."""
    score = score_of("C5/q D5/q E5/q F5/q | B5/h A5/h | G5/w", "C3/h G3/h | C3/h G3/h | C3/w")
    trilled = [note for note in score.notes if note.pitch in (83, 81)]
    marks = tuple(Mark(MarkKind.ORNAMENT, n.onset_quarters, "trill-mark", note_id=n.id, hand=n.hand) for n in trilled)
    task = lap_task(replace(score, marks=(*score.marks, *marks)), assigned_bpm=60, with_pitches=True)
    strikes = []
    for expected in task.expected:
        at = 2 + float(expected.onset_quarters)
        if expected.pitch in (83, 81):
            above = expected.pitch + 2
            for i in range(10):
                strikes.append(Strike(at + 0.1 * i, None, expected.pitch if i % 2 else above, 64, at + 0.1 * i + 0.08))
        else:
            strikes.append(Strike(at + 0.01, None, expected.pitch, 64, at + 0.9))
    take = Performance(Source.MIDI, tuple(sorted(strikes, key=lambda s: s.played_s)))
    checked = check_take(task, take)
    assert (checked.matching.missing, checked.matching.extra, checked.matching.wrong) == ((), (), ())
    assert all(abs(note.deviation_ms) < 80 for note in checked.measured.notes)


def test_rushed_taps_are_followed():
    """Sixteenths at 60, each run of eight played in two thirds of its time and then a wait: the taps lie up to 580 ms
    before their places, more than two notes; as many as asked for, each is matched in its turn."""
    score = score_of(
        " | ".join(["C5/s D5/s E5/s F5/s G5/s F5/s E5/s D5/s C5/q E5/q"] * 4), " | ".join(["C3/q G3/q E3/q G3/q"] * 4)
    )
    task = lap_task(score, assigned_bpm=60)

    def early(onset: float) -> float:
        inside = onset % 4
        return inside / 3 if inside < 2 else 0.0

    strikes = [
        Strike(2 + float(e.onset_quarters) - (early(float(e.onset_quarters)) if e.hand is Hand.RIGHT else 0.0), e.hand)
        for e in task.expected
    ]
    take = Performance(Source.TAPS, tuple(sorted(strikes, key=lambda s: s.played_s)), 2.0, None)
    matching = match(task, take)
    assert len(matching.matches) == len(task.expected)
    assert (matching.missing, matching.extra) == ((), ())


def test_who_waits_alone_does_not_stop_the_beat():
    """The right hand runs ahead in every second bar, 400 ms at its end, and waits there; the left keeps its quarters."""
    score = score_of(
        " | ".join(["C5/e D5/e E5/e F5/e G5/e F5/e E5/e D5/e", "C5/q E5/q C5/h"] * 3),
        " | ".join(["C3/q G3/q E3/q G3/q"] * 6),
    )
    task = lap_task(score, assigned_bpm=60)
    strikes = [
        Strike(
            2
            + float(e.onset_quarters)
            - (0.1 * float(e.onset_quarters % 8) if e.hand is Hand.RIGHT and e.onset_quarters % 8 < 4 else 0.0),
            e.hand,
        )
        for e in task.expected
    ]
    take = Performance(Source.TAPS, tuple(sorted(strikes, key=lambda s: s.played_s)), 2.0, None)
    measured = check_take(task, take).measured
    assert measured is not None
    assert measured.hesitations == ()
