"""The measured figures of a take for its document: tempo, notes, evenness, ratios, lengths, rests, touch, the rest."""

from __future__ import annotations

from collections.abc import Iterable
from statistics import median
from typing import Any, Literal

from laptick.core.base.statistics import mean, robust_sd, sd
from laptick.core.base.units import LengthNaming, Quarters, Seconds, length_name, length_plural, quarters_to_text
from laptick.core.judging.document import (
    BarTempoTold,
    BendTold,
    DeviationsPooled,
    EvennessPooled,
    GapTold,
    HesitationTold,
    JoiningTold,
    LongNotesPooled,
    LongNoteTold,
    NoteTold,
    PedalTold,
    PlaceTold,
    Pooled,
    RatioFigureTold,
    RatioTold,
    RecoveryTold,
    RestsPooled,
    RestTold,
    RunKind,
    RunTold,
    SmearTold,
    SwellTold,
    TempoTold,
    TogetherTold,
    TouchLengthTold,
    TouchTold,
    WorstGapTold,
)
from laptick.core.judging.figure_findings import BENT, tempo_around, widest_gap
from laptick.core.judging.judgement import Judgement
from laptick.core.measuring.evenness import Figure, Run, group_figures, run_pace
from laptick.core.measuring.limits import JUDGED_INTERVALS
from laptick.core.measuring.measured import CheckedTake, Hesitation, Measured
from laptick.core.measuring.ratios import group_ratios, written_words
from laptick.core.score.hands import hand_key
from laptick.core.score.score import Hand, Place
from laptick.core.takes.performance import key_told
from laptick.core.takes.task import Expected


def tempo(checked: CheckedTake, measured: Measured | None) -> TempoTold:
    task = checked.task
    return TempoTold(
        assigned_bpm=task.assigned_bpm,
        median_bpm=round(measured.median_bpm, 3) if measured else None,
        beat_quarters=quarters_to_text(task.beat_quarters),
        off_percent=round(100 * (measured.median_bpm / task.assigned_bpm - 1), 3) if measured else None,
        drift_percent=round(100 * measured.drift, 3) if measured else None,
        per_measure=[
            BarTempoTold(measure=task.score.measures[t.measure_index].number, pass_=t.pass_number, bpm=round(t.bpm, 3))
            for t in (measured.bar_tempos if measured else ())
        ],
    )


def notes(checked: CheckedTake, measured: Measured | None) -> list[NoteTold]:
    if measured is None:
        return []
    return [
        NoteTold(
            **at(checked.task.place(note.expected)),
            hand=hand_key(note.expected.hand),
            pitch=key_told(note.expected.pitch),
            played_s=round(note.played_s, 6),
            expected_s=round(note.expected_s, 6),
            deviation_ms=round(note.deviation_ms, 3),
            deviation_percent=round(100 * note.deviation_ms * measured.median_bpm / 60_000, 2),
            click_deviation_ms=None if note.click_deviation_ms is None else round(note.click_deviation_ms, 3),
            uncertainty_ms=note.uncertainty_ms,
            onset_quarters=from_start(checked, note.expected),
        )
        for note in measured.notes
    ]


def evenness(checked: CheckedTake, measured: Measured | None, judged: Judgement) -> list[RunTold]:
    if measured is None:
        return []
    task = checked.task
    figures = group_figures(measured.runs)
    entries = []
    for figure in figures:
        around = tempo_around(figures, figure.interval_quarters, measured, task.beat_quarters)
        for run in figure.runs:
            start = task.measures[0].start_quarters
            entries.append(
                RunTold(
                    hand=hand_key(run.hand),
                    from_=told_place(task.score.place_at(start + run.strikes[0].onset_quarters)),
                    to=told_place(task.score.place_at(start + run.strikes[-1].onset_quarters)),
                    intervals=len(run.ratios),
                    interval_quarters=quarters_to_text(run.interval_quarters),
                    cv_percent=round(100 * run.cv, 3),
                    npvi=round(run.npvi, 3),
                    worst_gap=_worst_gap(checked, run),
                    kind=_kind(run, judged, measured, around(run)),
                    played=[round(ratio, 4) for ratio in run.ratios],
                    onset_quarters=float(start + run.strikes[0].onset_quarters),
                    judged=figure.intervals >= JUDGED_INTERVALS,
                )
            )
    return entries


def rests(checked: CheckedTake, measured: Measured | None) -> list[RestTold]:
    """Every rest that an entry follows, by where it begins."""
    if measured is None:
        return []
    start = checked.task.measures[0].start_quarters
    return [
        RestTold(
            **at(checked.task.score.place_at(start + entry.rest_quarters)),
            onset_quarters=float(start + entry.onset_quarters),
            hand=hand_key(entry.hand),
            ran_over_ms=None if entry.ran_over_ms is None else round(entry.ran_over_ms, 3),
            entry_ms=round(entry.entry_ms, 3),
        )
        for entry in measured.entries
    ]


def _worst_gap(checked: CheckedTake, run: Run) -> WorstGapTold:
    """The interval furthest from its run's mean, and by how much (positive: too long)."""
    index = widest_gap(run)
    return WorstGapTold(
        **_at(checked, run.strikes[index].onset_quarters),
        percent=round(100 * (run.ratios[index] / mean(run.ratios) - 1), 2),
    )


def ratios(checked: CheckedTake, measured: Measured | None) -> list[RatioTold]:
    """Every dotted pair, triplet, long and shorts, compound long-short, as it was played."""
    if measured is None:
        return []
    start = checked.task.measures[0].start_quarters
    return [
        RatioTold(
            **at(checked.task.score.place_at(start + ratio.onset_quarters)),
            hand=hand_key(ratio.hand),
            written=written_words(ratio.written),
            played=[round(part, 3) for part in ratio.played],
            reads_as=written_words(ratio.reads_as),
        )
        for ratio in measured.ratios
    ]


def ratio_figures(measured: Measured | None, naming: LengthNaming) -> list[RatioFigureTold]:
    """The same pooled by hand, figure and length."""
    return [
        RatioFigureTold(
            hand=hand_key(figure.hand),
            written=written_words(figure.written),
            length_quarters=quarters_to_text(figure.length_quarters),
            length=length_name(figure.length_quarters, naming),
            times=len(figure.ratios),
            played=[round(part, 3) for part in figure.played],
            reads_as=written_words(figure.reads_as),
            judged=figure.intervals >= JUDGED_INTERVALS and figure.written in BENT,
        )
        for figure in group_ratios(measured.ratios if measured else ())
    ]


def _kind(run: Run, judged: Judgement, measured: Measured, reference_quarter_s: Seconds) -> RunKind:
    """What a single run looks like against the limit and the tempo around it; descriptive, not a finding."""
    limits, task = judged.limits, judged.checked.task
    limit = limits.evenness(1000 * run.fitted_s)
    alone = Figure(run.hand, run.interval_quarters, [run])
    if any(
        f.code == "late-then-compensated" and (f.hand, f.interval_quarters) == (run.hand, run.interval_quarters)
        for f in judged.findings
    ):
        late = [1000 * (strike.played_s - strike.expected_s) for strike in run.strikes]
        if late[0] - late[-1] > limits.spread_ms(60_000 / measured.median_bpm):
            return "late-then-compensated"
    if run.interval_quarters < task.beat_quarters and 1 - run_pace(run, reference_quarter_s) > limit:
        return "rushed"
    if alone.pairs() >= 2 and abs(alone.limp()) > limit:
        return "limping"
    if run.cv > limit and max(run.ratios) / mean(run.ratios) - 1 > 2 * limit:
        return "hesitation"
    if alone.pairs() and abs(alone.limp()) > limit:
        return "limping"
    return "uneven" if run.cv > limit else "even"


def together(checked: CheckedTake, measured: Measured | None) -> TogetherTold:
    gaps = [point.gap_ms for point in measured.asynchronies] if measured else []
    if not gaps:
        return TogetherTold(points=0, median_ms=None, mean_signed_ms=None, spread_ms=None, leader="none", gaps=[])
    signed = mean(gaps)
    # Within what is heard as one anyway nobody leads.
    leader: Literal["right", "left", "none"] = (
        "none" if abs(signed) < LEAD_HEARD_MS else ("left" if signed > 0 else "right")
    )
    start = checked.task.measures[0].start_quarters
    return TogetherTold(
        points=len(gaps),
        median_ms=round(median(abs(gap) for gap in gaps), 3),
        mean_signed_ms=round(signed, 3),
        spread_ms=round(sd(gaps), 3),
        leader=leader,
        gaps=[
            GapTold(
                **_at(checked, point.onset_quarters),
                gap_ms=round(point.gap_ms, 3),
                onset_quarters=float(start + point.onset_quarters),
            )
            for point in (measured.asynchronies if measured else ())
        ],
    )


#: Below this mean gap neither hand is said to lead (well inside the 20–30 ms heard as one).
LEAD_HEARD_MS = 10.0


#: A stop that is none: the phrase broadens to its end.
SLOWING = "slowing"


def hesitation(judged: Judgement, stop: Hesitation) -> HesitationTold:
    return HesitationTold(
        **at(judged.checked.task.place(stop.expected)),
        excess_ms=round(stop.excess_ms, 3),
        excess_beats=round(stop.excess_beats, 4),
        causes=[*([SLOWING] if stop.expected.onset_quarters in judged.slowings else []), *stop.causes],
    )


def long_notes(checked: CheckedTake, measured: Measured | None) -> list[LongNoteTold]:
    """Every long note: how soon the next strike came, how long it sounded."""
    return [
        LongNoteTold(
            **_at(checked, note.onset_quarters),
            hand=hand_key(note.hand),
            written_quarters=quarters_to_text(note.written_quarters),
            to_next_quarters=_rounded(note.to_next_quarters),
            sounded_quarters=_rounded(note.sounded_quarters),
        )
        for note in (measured.long_notes if measured else ())
    ]


def bends(checked: CheckedTake, measured: Measured | None) -> list[BendTold]:
    """Every written rit. and accel. that could be told: which way it went."""
    return [
        BendTold(
            **_at(checked, bend.onset_quarters),
            kind=bend.kind.value,
            went=bend.went,
            as_written=bend.as_written,
            change_percent=round(100 * bend.change, 2),
        )
        for bend in (measured.bends if measured else ())
    ]


def recoveries(judged: Judgement) -> list[RecoveryTold]:
    """After every slip, how many beats until the beat was back (``None``: it was not)."""
    return [
        RecoveryTold(**_at(judged.checked, one.onset_quarters), slip=one.slip, beats=_rounded(one.beats))
        for one in judged.recoveries
    ]


def touch(checked: CheckedTake, measured: Measured | None) -> TouchTold | None:
    """Lengths, strengths, swells, pedal and smears, where keys are known."""
    known = measured.touch if measured else None
    if known is None:
        return None
    return TouchTold(
        lengths=[
            TouchLengthTold(
                hand=one.hand.value,
                kind=one.kind,
                notes=one.notes,
                sounded_share=round(one.share, 3),
                asked=one.asked,
                kept=one.kept,
            )
            for one in known.lengths
        ],
        strengths={hand.value: velocity for hand, velocity in known.strengths},
        swells=[
            SwellTold(
                **_at(checked, swell.onset_quarters),
                text=swell.text,
                notes=swell.strikes,
                change=round(swell.change, 1),
                step_back=round(swell.step_back, 1),
                as_written=swell.as_written,
            )
            for swell in known.swells
        ],
        pedal=PedalTold(changes=known.pedal_changes, after_strike_ms=_rounded(known.pedal_after_ms)),
        smears=[SmearTold(**_at(checked, smear.onset_quarters), pitch=smear.pitch) for smear in known.smears],
    )


def joining(judged: Judgement) -> list[JoiningTold]:
    """What each hand's playing was alone, and is together."""
    return [
        JoiningTold(
            hand=cost.hand.value,
            what=cost.what,
            unit=cost.unit,
            alone=round(cost.alone, 4),
            together=round(cost.together, 4),
        )
        for cost in judged.costs
    ]


def pooled(measured: Measured | None, naming: LengthNaming = LengthNaming.AMERICAN) -> Pooled:
    """What strikes, runs, rests and long notes come to on the whole."""
    entries, long = (measured.entries, measured.long_notes) if measured else ((), ())
    beat_ms = 60_000 / measured.median_bpm if measured else 0.0
    return Pooled(
        deviations=[
            DeviationsPooled(
                hand=hand_key(hand),
                notes=len(own),
                mean_ms=round(mean(own), 3),
                spread_ms=round(robust_sd(own), 3),
                spread_percent=round(100 * robust_sd(own) / beat_ms, 2),
            )
            for hand, own in (_by_hand(measured).items() if measured else ())
        ],
        evenness=[
            EvennessPooled(
                hand=hand_key(figure.hand),
                interval_quarters=quarters_to_text(figure.interval_quarters),
                notes=length_plural(figure.interval_quarters, naming),
                intervals=figure.intervals,
                judged=figure.intervals >= JUDGED_INTERVALS,
                cv_percent=round(100 * figure.pooled_cv(), 2),
                npvi=round(figure.pooled_npvi(), 2),
            )
            for figure in group_figures(measured.runs if measured else ())
        ],
        rests=RestsPooled(
            entries=len(entries),
            entry_ms=_median(entry.entry_ms for entry in entries),
            latest_ms=_rounded(max((entry.entry_ms for entry in entries), default=None)),
            ran_over_ms=_median(entry.ran_over_ms for entry in entries),
        ),
        long_notes=LongNotesPooled(
            notes=len(long),
            to_next_share=_median(_over(note.to_next_quarters, note.written_quarters) for note in long),
            sounded_share=_median(_over(note.sounded_quarters, note.written_quarters) for note in long),
        ),
    )


def _by_hand(measured: Measured) -> dict[Hand | None, list[float]]:
    """Deviations in ms."""
    result: dict[Hand | None, list[float]] = {}
    for note in measured.notes:
        result.setdefault(note.expected.hand, []).append(note.deviation_ms)
    return result


def _over(quarters: float | None, written_quarters: Quarters) -> float | None:
    return None if quarters is None else quarters / float(written_quarters)


def _median(values: Iterable[float | None]) -> float | None:
    """The median of what is known."""
    known = [value for value in values if value is not None]
    return round(median(known), 3) if known else None


def told_place(place: Place) -> PlaceTold:
    return PlaceTold(**at(place))


def at(place: Place) -> dict[str, Any]:
    """The fields of a place."""
    return {"measure": place.measure, "offset": quarters_to_text(place.offset_quarters), "pass_": place.pass_number}


def _at(checked: CheckedTake, onset: Quarters) -> dict[str, Any]:
    task = checked.task
    return at(task.score.place_at(task.measures[0].start_quarters + onset))


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 3)


def from_start(checked: CheckedTake, expected: Expected) -> float:
    """Quarters from the start of the piece, for drawing."""
    return float(checked.task.measures[0].start_quarters + expected.onset_quarters)
