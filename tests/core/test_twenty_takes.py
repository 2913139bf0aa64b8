"""Twenty small takes, every figure of which is worked out by hand beside it. No simulator: times are written down.

At 60 quarters a minute a quarter lasts a second, so positions and seconds are the same numbers.
"""

from __future__ import annotations

from dataclasses import asdict, replace

import pytest

from helpers import F, score_of
from laptick.core.base.levels import Level
from laptick.core.judging.judgement import judge_take
from laptick.core.judging.told_figures import evenness, notes, pooled
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.evenness import group_figures
from laptick.core.measuring.joining import joining_costs
from laptick.core.measuring.limits import LIMITS
from laptick.core.measuring.recovery import find_recoveries
from laptick.core.score.score import Hand, Mark, MarkKind
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import lap_task

QUARTERS = score_of("C5/q D5/q E5/q F5/q | G5/q F5/q E5/q D5/q | C5/q D5/q E5/q F5/q | G5/q F5/q E5/q D5/q")
BOTH = score_of(
    "C5/q D5/q E5/q F5/q | G5/q F5/q E5/q D5/q | C5/q D5/q E5/q F5/q",
    "C3/q D3/q E3/q F3/q | G3/q F3/q E3/q D3/q | C3/q D3/q E3/q F3/q",
)
EIGHTHS = score_of(" | ".join(["C5/e D5/e E5/e F5/e G5/e F5/e E5/e D5/e"] * 3))


def keys(score, *, bpm=60, move=None, length=0.9, velocity=None, drop=(), extra=(), at=None, pedal=()):
    """A take on keys: every note at its place times 60 / bpm, but for ``move`` (index → seconds later) or ``at`` (a
    function from quarters to seconds); let go after ``length`` of the quarter unless a function of the note says else."""
    task = lap_task(score, assigned_bpm=60, with_pitches=True)
    strikes = []
    for i, e in enumerate(task.expected):
        if i in drop:
            continue
        on = (at(float(e.onset_quarters)) if at else float(e.onset_quarters) * 60 / bpm) + (move or {}).get(i, 0.0)
        off = on + (length(i, e) if callable(length) else length)
        strikes.append(Strike(on, None, e.pitch, velocity(i) if velocity else 64, off))
    ordered = tuple(sorted((*strikes, *extra), key=lambda s: (s.played_s, s.pitch)))
    return check_take(task, Performance(Source.MIDI, ordered, pedal=tuple(pedal)))


def deviations(checked):
    return [round(note.deviation_ms, 3) for note in checked.measured.notes]


def test_1_the_score_itself():
    checked = keys(QUARTERS)
    m = checked.measured
    assert (m.median_bpm, m.drift) == (pytest.approx(60), pytest.approx(0, abs=1e-9))
    assert deviations(checked) == pytest.approx([0] * 16, abs=1e-3)
    [figure] = group_figures(m.runs)
    assert (figure.intervals, figure.pooled_cv(), m.runs[0].npvi) == (
        15,
        pytest.approx(0, abs=1e-9),
        pytest.approx(0, abs=1e-8),
    )


def test_2_another_tempo():
    """72 instead of 60: a fifth faster, and as even."""
    m = keys(QUARTERS, bpm=72).measured
    assert m.median_bpm == pytest.approx(72)
    assert m.median_bpm / 60 - 1 == pytest.approx(0.2)
    assert [bar.bpm for bar in m.bar_tempos] == pytest.approx([72] * 4)
    assert m.runs[0].cv == pytest.approx(0, abs=1e-9)


def test_3_the_left_hand_thirty_milliseconds_late():
    """The beat lies midway: the right hand 15 ms early, the left 15 ms late. Right minus left is −30: the right leads."""
    task = lap_task(BOTH, assigned_bpm=60, with_pitches=True)
    left = {i: 0.030 for i, e in enumerate(task.expected) if e.hand is Hand.LEFT}
    m = keys(BOTH, move=left).measured
    assert {round(p.gap_ms, 6) for p in m.asynchronies} == {-30}
    assert len(m.asynchronies) == 12
    by_hand = {hand: {round(n.deviation_ms, 2) for n in m.notes if n.expected.hand is hand} for hand in Hand}
    assert by_hand == {Hand.RIGHT: {-15.0}, Hand.LEFT: {15.0}}


def test_4_pairs_of_six_to_four():
    """Long 0.6 s, short 0.4 s of 0.5 each: ratios 1.2 and 0.8. Lean (1.2 − 0.8) / 2 = 0.2. nPVI: every neighbour pair
    200·0.4/2 = 40. CV of n values ±0.2 round 1: 0.2·√(n / (n − 1)), here all but the landing 23 intervals."""
    off_beats = dict.fromkeys(range(1, 24, 2), 0.1)
    m = keys(EIGHTHS, move=off_beats).measured
    [run] = m.runs
    [figure] = group_figures(m.runs)
    assert run.ratios == pytest.approx([1.2, 0.8] * 11 + [1.2], abs=0.005)
    assert figure.limp() == pytest.approx(0.2, abs=0.002)
    assert run.npvi == pytest.approx(40, abs=0.3)
    # 12 of 1.2 and 11 of 0.8: mean 1.00870, sum of squares 23·0.04 − 23·0.0087² → SD 0.20431, CV 0.20255
    assert run.cv == pytest.approx(0.20255, abs=0.001)


def test_5_a_stop_of_a_beat_before_bar_three():
    checked = keys(QUARTERS, move=dict.fromkeys(range(8, 16), 1.0))
    [stop] = checked.measured.hesitations
    assert (stop.expected.measure_index, stop.expected.offset_quarters) == (2, 0)
    assert (stop.excess_ms, stop.excess_beats) == (pytest.approx(1000, abs=1), pytest.approx(1, abs=0.01))
    assert stop.causes == ("bar-line",)
    assert deviations(checked) == pytest.approx([0] * 16, abs=1)


def test_6_triplets_played_long_short_short():
    """Thirds at 0, 1/2, 3/4 instead of 0, 1/3, 2/3: 0.5, 0.25, 0.25 s are 2 : 1 : 1."""
    score = score_of(" | ".join(["C5/et D5/et E5/et F5/q C5/et D5/et E5/et F5/q"] * 2))
    task = lap_task(score, assigned_bpm=60)
    shift = {F(1, 3): 1 / 6, F(2, 3): 1 / 12}
    move = {i: shift.get(e.onset_quarters % 1, 0.0) for i, e in enumerate(task.expected)}
    ratios = keys(score, move=move).measured.ratios
    assert len(ratios) == 4
    for ratio in ratios:
        assert ratio.written == (1, 1, 1)
        assert [part / ratio.played[-1] for part in ratio.played] == pytest.approx([2, 1, 1], abs=1e-6)
        assert ratio.reads_as == (2, 1, 1)


def test_7_dotted_pairs_two_to_one():
    """The short note a twelfth of a quarter early: 2/3 and 1/3 of a beat instead of 3/4 and 1/4."""
    score = score_of("C5/e. D5/s E5/q F5/e. E5/s D5/q | C5/e. D5/s E5/q F5/e. E5/s D5/q")
    task = lap_task(score, assigned_bpm=60)
    move = {i: -1 / 12 for i, e in enumerate(task.expected) if e.onset_quarters % 1 == F(3, 4)}
    ratios = keys(score, move=move).measured.ratios
    assert [r.played[0] / r.played[1] for r in ratios] == pytest.approx([2] * 4, abs=1e-6)
    assert {(r.written, r.reads_as) for r in ratios} == {((3, 1), (2, 1))}


def test_8_compound_long_short_as_two_equal_ones():
    """In 6/8 the eighth a quarter of an eighth-group early: 0.75 and 0.75 instead of 1 and 0.5."""
    score = score_of("C5/q D5/e E5/q F5/e | G5/q F5/e E5/q D5/e", time=(6, 8))
    task = lap_task(score, assigned_bpm=40, with_pitches=True)  # dotted quarters; a quarter is a second
    strikes = [
        Strike(float(e.onset_quarters) - (0.25 if e.onset_quarters % F(3, 2) == 1 else 0.0), None, e.pitch, 64, None)
        for e in task.expected
    ]
    ratios = check_take(task, Performance(Source.MIDI, tuple(strikes))).measured.ratios
    assert len(ratios) == 3  # the last one lands on nothing
    assert {(r.written, r.reads_as) for r in ratios} == {((2, 1), (1, 1))}
    assert [r.played[0] / r.played[1] for r in ratios] == pytest.approx([1] * 3, abs=1e-6)


def test_9_two_notes_left_out():
    checked = keys(QUARTERS, drop=(5, 10))
    assert (checked.matching.missing, checked.matching.extra, len(checked.matching.matches)) == ((5, 10), (), 14)
    assert deviations(checked) == pytest.approx([0] * 14, abs=1e-3)


def test_10_a_note_too_many():
    checked = keys(QUARTERS, extra=[Strike(6.5, None, 60, 64, 6.7)])
    [index] = checked.matching.extra
    assert checked.performance.strikes[index].played_s == 6.5
    assert checked.matching.missing == ()
    assert deviations(checked) == pytest.approx([0] * 16, abs=1e-3)


def test_11_another_key():
    task = lap_task(QUARTERS, assigned_bpm=60, with_pitches=True)
    strikes = [Strike(float(e.onset_quarters), None, e.pitch, 64, None) for e in task.expected]
    strikes[6] = replace(strikes[6], pitch=75)
    matching = check_take(task, Performance(Source.MIDI, tuple(strikes))).matching
    assert (matching.wrong, matching.missing, matching.extra) == (((6, 6),), (), ())


def test_12_back_to_bar_two():
    """Plays to the end of bar 3, waits two seconds, and plays from bar 2 on: eight notes twice."""
    task = lap_task(QUARTERS, assigned_bpm=60, with_pitches=True)
    first = [Strike(float(e.onset_quarters), None, e.pitch, 64, None) for e in task.expected[:12]]
    again = [Strike(float(e.onset_quarters) + 10, None, e.pitch, 64, None) for e in task.expected[4:]]
    checked = check_take(task, Performance(Source.MIDI, tuple(first + again)))
    [restart] = checked.matching.restarts
    assert (restart.played_s, restart.expected_index, restart.repeat) == (14.0, 4, False)
    assert (len(checked.matching.repeats), len(checked.matching.matches)) == (8, 16)
    assert deviations(checked) == pytest.approx([0] * 16, abs=1)


def test_13_two_bars_left_out():
    """From the end of bar 1 in tempo to bar 4: eight written notes belong to bars left out, none is missing."""
    score = score_of("C5/q D5/q E5/q F5/q | G5/q A5/q G5/q F5/q | E5/q D5/q C5/q B4/q | A4/q B4/q C5/q A4/q")
    task = lap_task(score, assigned_bpm=60, with_pitches=True)
    played = [e for e in task.expected if e.measure_index in (0, 3)]
    strikes = [
        Strike(float(e.onset_quarters) - (8 if e.measure_index == 3 else 0), None, e.pitch, 64, None) for e in played
    ]
    matching = check_take(task, Performance(Source.MIDI, tuple(strikes))).matching
    [skip] = matching.skips
    assert (skip.from_index, skip.expected_index, skip.repeat) == (4, 12, False)
    assert (matching.skipped, matching.missing) == (tuple(range(4, 12)), ())


def test_14_quarters_left_too_soon():
    """Two eighths and a quarter in turn, the quarters 0.8 s: against the eighths' pace (half a second each) 0.8."""
    score = score_of(" | ".join(["C5/e D5/e E5/q F5/e E5/e D5/q"] * 4))
    now, times = 0.0, {}
    task = lap_task(score, assigned_bpm=60)
    onsets = [float(e.onset_quarters) for e in task.expected]
    for here, after in zip(onsets, [*onsets[1:], 16.0], strict=True):
        times[here] = now
        now += 0.8 if after - here == 1 else after - here
    gaps = keys(score, at=times.__getitem__).measured.long_gaps
    assert len(gaps) == 7  # the last quarter lands on nothing
    assert [gap.pace for gap in gaps] == pytest.approx([0.8] * 7, abs=1e-6)


def test_15_how_long_notes_sound():
    """Halves let go after 1.5 quarters, quarters after 0.6."""
    score = score_of("C5/h D5/q E5/q | F5/h E5/q D5/q | C5/h D5/q E5/q")
    notes = keys(score, length=lambda i, e: 1.5 if e.onset_quarters % 4 == 0 else 0.6).measured.long_notes
    assert [(n.written_quarters, round(n.sounded_quarters, 6)) for n in notes] == [(2, 1.5), (1, 0.6), (1, 0.6)] * 3
    assert [n.to_next_quarters and round(n.to_next_quarters, 6) for n in notes] == [2, 1, 1] * 2 + [2, 1, None]


def test_16_into_and_out_of_rests():
    """A quarter held 0.2 s into its rest, the entry after it 0.1 s late; the others on time (their beat stands)."""
    score = score_of(
        "C5/q D5/q r/q E5/q | F5/q r/q E5/q D5/q | C5/q D5/q r/q E5/q | F5/q E5/q D5/q C5/q",
        " | ".join(["C3/q D3/q E3/q F3/q"] * 4),
    )
    task = lap_task(score, assigned_bpm=60, with_pitches=True)
    late = {i: 0.1 for i, e in enumerate(task.expected) if e.hand is Hand.RIGHT and e.onset_quarters in (3, 6, 11)}
    entries = keys(score, move=late, length=lambda i, e: 1.2 if e.hand is Hand.RIGHT else 0.9).measured.entries
    assert [(e.rest_quarters, e.onset_quarters) for e in entries] == [(2, 3), (5, 6), (10, 11)]
    assert [e.entry_ms for e in entries] == pytest.approx([100] * 3, abs=6)
    assert [e.ran_over_ms for e in entries] == pytest.approx([200] * 3, abs=6)


def test_17_an_even_drift():
    """Bars at 60, 62, 64, 66: the line through them goes from 60 to 66, a tenth faster. The fit smooths the ends a
    little."""
    bar_s = [4 * 60 / bpm for bpm in (60, 62, 64, 66)]
    starts = [sum(bar_s[:i]) for i in range(4)]
    m = keys(QUARTERS, at=lambda q: starts[int(q // 4)] + q % 4 / 4 * bar_s[int(q // 4)]).measured
    assert [b.bpm for b in m.bar_tempos] == pytest.approx([60, 62, 64, 66], abs=0.5)
    assert m.drift == pytest.approx(0.10, abs=0.01)


def test_18_a_crescendo_of_ten_a_note():
    """40, 50 … 190 would be too loud: 40 to 70 over the first bar. The line gains 30; one step back of 10 in the second."""
    marks = (Mark(MarkKind.WEDGE, F(0), "crescendo", F(3)), Mark(MarkKind.WEDGE, F(4), "crescendo", F(7)))
    strengths = [40, 50, 60, 70, 40, 60, 50, 70, *[64] * 8]
    swells = keys(replace(QUARTERS, marks=marks), velocity=strengths.__getitem__).measured.touch.swells
    # second bar: positions −1.5 −0.5 0.5 1.5 times 40 60 50 70 → (−60 −30 +25 +105)/5 = 8 a quarter, 24 over three
    assert [(round(s.change, 6), s.step_back, s.as_written) for s in swells] == [(30, 0, True), (24, 10, True)]


def test_19_the_pedal_changes_after_the_strike():
    """Up with the strike at 4 and 8 s, down 60 and 100 ms later: 80 ms in the middle. Notes let go under it withheld."""
    pedal = [(0.05, True), (4.0, False), (4.06, True), (8.0, False), (8.1, True), (11.5, False)]
    m = keys(QUARTERS, pedal=pedal).measured
    assert (m.touch.pedal_changes, round(m.touch.pedal_after_ms, 6)) == (2, 80)
    # Let go 0.9 s after the strike: under the pedal until 11.5 s, so the notes from bar 4 on are known.
    known = [n.onset_quarters for n in m.long_notes if n.sounded_quarters is not None]
    assert known == [11, 12, 13, 14, 15]


def test_20_a_smeared_key_and_the_way_back():
    """B4 along with the C5 of bar 3 is a smear. After a note 0.4 s late the beat is back a beat later."""
    checked = keys(QUARTERS, move={9: 0.4}, extra=[Strike(8.02, None, 71, 50, 8.3)])
    m = checked.measured
    [smear] = m.touch.smears
    assert (smear.onset_quarters, smear.pitch) == (8, 71)
    [recovery] = find_recoveries([("late", F(9))], m.fit, F(1), 60)
    assert recovery.beats == 1


def test_what_joining_costs():
    """Alone as written; together every second eighth 0.05 s late: CV from 0 to that of 1.1 and 0.9 in turn."""
    both = score_of(
        " | ".join(["C5/e D5/e E5/e F5/e G5/e F5/e E5/e D5/e"] * 3), " | ".join(["C3/q D3/q E3/q F3/q"] * 3)
    )
    alone = keys(EIGHTHS)
    task = lap_task(both, assigned_bpm=60, with_pitches=True)
    off_beats = {i: 0.05 for i, e in enumerate(task.expected) if e.onset_quarters.denominator == 2}
    costs = {cost.what: cost for cost in joining_costs(alone, keys(both, move=off_beats), Hand.RIGHT)}
    assert costs["evenness"].alone == pytest.approx(0, abs=1e-6)
    assert costs["evenness"].together == pytest.approx(0.1014, abs=0.002)  # 12 × 1.1, 11 × 0.9


def test_what_is_pooled():
    """Pairs of 0.6 and 0.4 s: the spread is 0.1 of 0.5, 20 % over 23 intervals with 22 degrees of freedom; neighbours
    differ by 200 × 0.2 / 1.0. Quarters let go after 0.9 s sound nine tenths; the strike after them comes on time."""
    swung = keys(EIGHTHS, at=lambda q: q / 1 + (0.1 if q % 1 else 0.0))
    [pool] = pooled(swung.measured).evenness
    assert (pool.hand, pool.interval_quarters, pool.intervals, pool.judged) == ("right", "1/2", 23, True)
    assert pool.cv_percent == pytest.approx(20, abs=1)
    assert pool.npvi == pytest.approx(40, abs=0.5)
    # Hands 30 ms apart lie 15 ms each way of the beat, and each hand is as even as can be; 15 ms of 1000 are 1.5 %
    task = lap_task(BOTH, assigned_bpm=60, with_pitches=True)
    apart = keys(BOTH, move={i: 0.030 for i, e in enumerate(task.expected) if e.hand is Hand.LEFT})
    by_hand = {one.hand: (one.notes, one.mean_ms) for one in pooled(apart.measured).deviations}
    assert by_hand == {"right": (12, pytest.approx(-15, abs=0.1)), "left": (12, pytest.approx(15, abs=0.1))}
    assert notes(apart, apart.measured)[0].deviation_percent == pytest.approx(-1.5, abs=0.02)
    # One interval of 1.1 among fifteen of 1.1 to 1: (1.1 / (15.1 / 15)) − 1 = 9.3 %, a little of it taken for tempo
    late = keys(QUARTERS, at=lambda q: q + (0.1 if q > 6 else 0.0))
    judged = judge_take(late.task, late.performance, LIMITS[Level.ELEMENTARY])
    [run] = evenness(judged.checked, judged.checked.measured, judged)
    assert (run.worst_gap.measure, run.worst_gap.offset) == ("2", "2")
    assert run.worst_gap.percent == pytest.approx(9.3, abs=1.5)
    long = pooled(keys(QUARTERS).measured).long_notes
    assert asdict(long) == {
        "notes": 16,
        "to_next_share": pytest.approx(1, abs=0.001),
        "sounded_share": pytest.approx(0.9, abs=0.001),
    }
    # The rest of bar 1 ends at 2, of bar 2 at 6: entries 0.06 and 0.02 s late, sound running 0.1 s into the rests
    score = score_of("C5/q r/q E5/q F5/q | G5/q r/q E5/q D5/q | C5/q D5/q E5/q F5/q | G5/q F5/q E5/q D5/q")
    rests = pooled(keys(score, move={1: 0.06, 4: 0.02}, length=1.1).measured).rests
    assert rests.entries == 2
    assert (rests.entry_ms, rests.latest_ms, rests.ran_over_ms) == (
        pytest.approx(40, abs=3),
        pytest.approx(60, abs=3),
        pytest.approx(100, abs=3),
    )
    assert asdict(pooled(None)) == {
        "deviations": [],
        "evenness": [],
        "rests": {"entries": 0, "entry_ms": None, "latest_ms": None, "ran_over_ms": None},
        "long_notes": {"notes": 0, "to_next_share": None, "sounded_share": None},
    }
