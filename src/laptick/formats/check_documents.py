"""The JSON document of ``check``, also what the API builds on.

Positions are quarters as fraction strings; places are ``{"measure", "offset", "pass"}``; milliseconds
are positive when late. Field names are fixed: fields may be added, never renamed.
"""

from __future__ import annotations

from fractions import Fraction

from laptick.core.checking import CheckedTake, Hesitation, Measured
from laptick.core.evenness import Figure, Run, group_figures, run_pace
from laptick.core.figure_findings import BENT, reference_quarter_s
from laptick.core.finding import Finding
from laptick.core.limits import JUDGED_INTERVALS, Limits
from laptick.core.performance import Expected
from laptick.core.ratios import group_ratios, written_words
from laptick.core.statistics import mean
from laptick.core.units import quarters_to_text
from laptick.core.verdict import Said, Verdict
from laptick.formats.count_documents import Document, hand_key, place_document

# -- check ------------------------------------------------------------------------------------------

#: Measurements of the full list that this version does not make; each is said to be withheld.
NOT_MEASURED: tuple[tuple[str, str], ...] = (("long_notes", "lengths to the key-up are not measured in this version"),)


def check_document(checked: CheckedTake, findings: list[Finding], verdict: Verdict, limits: Limits) -> Document:
    """The document of ``laptick check``."""
    task, matching, measured = checked.task, checked.matching, checked.measured
    withheld = [{"what": what, "why": why} for what, why in NOT_MEASURED]
    if measured is None:
        withheld = [{"what": "everything", "why": "the take could not be followed"}, *withheld]
    elif checked.performance.first_beat_s is None:
        withheld.append({"what": "click_deviation_ms", "why": "the take and a click do not share a clock"})
    if measured is not None and measured.entries and all(one.ran_over_ms is None for one in measured.entries):
        withheld.append(
            {"what": "sound_running_into_rests", "why": "taps have no key-up: how long a note sounded is not known"}
        )
    if measured is not None and not measured.together:
        withheld.append({"what": "together", "why": "no written instant is struck by both hands in this take"})
    return {
        "followed": checked.followed,
        "source": checked.performance.source.value,
        "matched": len(matching.matches),
        "missing": [_expected_entry(checked, index) for index in matching.missing],
        "extra": [_extra_entry(checked, index) for index in matching.extra],
        "wrong": [
            {**_expected_entry(checked, index), "played": _extra_entry(checked, strike)}
            for index, strike in matching.wrong
        ],
        "restarts": [
            {"t": restart.played_s, "from": place_document(task.place(task.expected[restart.expected_index]))}
            for restart in matching.restarts
        ],
        "tempo": _tempo_document(checked, measured),
        "notes": _notes(checked, measured),
        "evenness": _evenness(checked, measured, limits),
        "ratios": _ratios(checked, measured),
        "ratio_figures": _ratio_figures(measured),
        "long_notes": [],
        "rests": _rests(checked, measured),
        "together": _together(measured),
        "hesitations": [_hesitation(checked, stop) for stop in measured.hesitations] if measured else [],
        "findings": [finding_document(finding) for finding in findings],
        "verdict": verdict_document(verdict),
        "withheld": withheld,
        "limits": _limits(checked, measured, limits),
    }


def _limits(checked: CheckedTake, measured: Measured | None, limits: Limits) -> Document:
    """The limits that applied, in the units of the figures."""
    bpm = measured.median_bpm if measured else checked.task.assigned_bpm
    beat_ms = 60_000 / bpm
    return {
        "deviation_ms": round(limits.spread_ms(beat_ms), 1),
        "together_ms": limits.hands_apart_ms,
        "tempo_percent": 100 * limits.tempo_share,
        "drift_percent": 100 * limits.drift_share,
        "hesitation_ms": round(limits.hesitation_ms(beat_ms), 1),
    }


def _expected_entry(checked: CheckedTake, index: int) -> Document:
    expected = checked.task.expected[index]
    place = checked.task.place(expected)
    return {
        "measure": place.measure,
        "offset": quarters_to_text(place.offset_quarters),
        "pass": place.pass_number,
        "hand": hand_key(expected.hand),
        "pitch": expected.pitch,
        "onset_quarters": _from_start(checked, expected),
    }


def _from_start(checked: CheckedTake, expected: Expected) -> float:
    """Quarters from the start of the piece, for drawing."""
    return float(checked.task.measures[0].start_quarters + expected.onset_quarters)


def _extra_entry(checked: CheckedTake, strike_index: int) -> Document:
    strike = checked.performance.strikes[strike_index]
    return {
        "t": strike.played_s,
        "pitch": strike.pitch,
        "hand": strike.hand.value if strike.hand else None,
        "onset_quarters": _heard_at(checked, strike.played_s),
    }


def _heard_at(checked: CheckedTake, played_s: float) -> float | None:
    """Where on the student's own beat an instant lies, in quarters from the start of the piece."""
    measured = checked.measured
    if measured is None:
        return None
    start = float(checked.task.measures[0].start_quarters)
    events, beat_s = measured.fit.events, measured.fit.expected_s
    index = max(0, min(sum(1 for x in beat_s if x <= played_s) - 1, len(events) - 1))
    quarter_s = measured.fit.quarter_s_at(events[index].onset_quarters)
    ahead = events[index + 1].onset_quarters if index + 1 < len(events) else events[index].onset_quarters + 1
    inside = events[index].onset_quarters + (played_s - beat_s[index]) / quarter_s
    return round(start + min(max(inside, events[0].onset_quarters - 1), ahead), 4)


def _tempo_document(checked: CheckedTake, measured: Measured | None) -> Document:
    task = checked.task
    return {
        "assigned_bpm": task.assigned_bpm,
        "median_bpm": round(measured.median_bpm, 3) if measured else None,
        "beat_quarters": quarters_to_text(task.beat_quarters),
        "drift_percent": round(100 * measured.drift, 3) if measured else None,
        "per_measure": [
            {"measure": task.score.measures[t.measure_index].number, "pass": t.pass_number, "bpm": round(t.bpm, 3)}
            for t in (measured.bar_tempos if measured else ())
        ],
    }


def _notes(checked: CheckedTake, measured: Measured | None) -> list[Document]:
    if measured is None:
        return []
    return [
        {
            **place_document(checked.task.place(note.expected)),
            "hand": hand_key(note.expected.hand),
            "pitch": note.expected.pitch,
            "played_s": round(note.played_s, 6),
            "expected_s": round(note.expected_s, 6),
            "deviation_ms": round(note.deviation_ms, 3),
            "click_deviation_ms": None if note.click_deviation_ms is None else round(note.click_deviation_ms, 3),
            "uncertainty_ms": note.uncertainty_ms,
            "onset_quarters": _from_start(checked, note.expected),
        }
        for note in measured.notes
    ]


def _evenness(checked: CheckedTake, measured: Measured | None, limits: Limits) -> list[Document]:
    if measured is None:
        return []
    task = checked.task
    figures = group_figures(measured.runs)
    entries = []
    for figure in figures:
        for run in figure.runs:
            start = task.measures[0].start_quarters
            entries.append(
                {
                    "hand": hand_key(run.hand),
                    "from": place_document(task.score.place_at(start + run.strikes[0].onset_quarters)),
                    "to": place_document(task.score.place_at(start + run.strikes[-1].onset_quarters)),
                    "intervals": len(run.ratios),
                    "interval_quarters": quarters_to_text(run.interval_quarters),
                    "cv_percent": round(100 * run.cv, 3),
                    "npvi": round(run.npvi, 3),
                    "kind": _kind(run, figures, checked, measured, limits),
                    "judged": figure.intervals >= JUDGED_INTERVALS,
                }
            )
    return entries


def _rests(checked: CheckedTake, measured: Measured | None) -> list[Document]:
    """Every rest that an entry follows, by where it begins."""
    if measured is None:
        return []
    start = checked.task.measures[0].start_quarters
    return [
        {
            **place_document(checked.task.score.place_at(start + entry.rest_quarters)),
            "hand": hand_key(entry.hand),
            "ran_over_ms": None if entry.ran_over_ms is None else round(entry.ran_over_ms, 3),
            "entry_ms": round(entry.entry_ms, 3),
        }
        for entry in measured.entries
    ]


def _ratios(checked: CheckedTake, measured: Measured | None) -> list[Document]:
    """Every dotted pair, triplet, long and shorts, compound long-short, as it was played."""
    if measured is None:
        return []
    start = checked.task.measures[0].start_quarters
    return [
        {
            **place_document(checked.task.score.place_at(start + ratio.onset_quarters)),
            "hand": hand_key(ratio.hand),
            "written": written_words(ratio.written),
            "played": [round(part, 3) for part in ratio.played],
            "reads_as": written_words(ratio.reads_as),
        }
        for ratio in measured.ratios
    ]


def _ratio_figures(measured: Measured | None) -> list[Document]:
    """The same pooled by hand, figure and length."""
    return [
        {
            "hand": hand_key(figure.hand),
            "written": written_words(figure.written),
            "length_quarters": quarters_to_text(figure.length_quarters),
            "times": len(figure.ratios),
            "played": [round(part, 3) for part in figure.played],
            "reads_as": written_words(figure.reads_as),
            "judged": figure.intervals >= JUDGED_INTERVALS and figure.written in BENT,
        }
        for figure in group_ratios(measured.ratios if measured else ())
    ]


def _kind(run: Run, figures: list[Figure], checked: CheckedTake, measured: Measured, limits: Limits) -> str:
    """What a single run looks like against the limit; descriptive, not a finding."""
    limit = limits.evenness(1000 * run.fitted_s)
    alone = Figure(run.hand, run.interval_quarters, [run])
    reference = reference_quarter_s(run, figures, measured, checked.task.beat_quarters)
    if run.interval_quarters < checked.task.beat_quarters and 1 - run_pace(run, reference) > limit:
        return "rushed"
    if alone.pairs() >= 2 and abs(alone.limp()) > limit:
        return "limping"
    if run.cv > limit and max(run.ratios) / mean(run.ratios) - 1 > 2 * limit:
        return "hesitation"
    return "even"


def _together(measured: Measured | None) -> Document:
    gaps = [point.gap_ms for point in measured.together] if measured else []
    if not gaps:
        return {"points": 0, "median_ms": None, "mean_signed_ms": None, "leader": "none"}
    ordered = sorted(abs(gap) for gap in gaps)
    half = len(ordered) // 2
    middle = ordered[half] if len(ordered) % 2 else (ordered[half - 1] + ordered[half]) / 2
    signed = mean(gaps)
    # Within what is heard as one anyway nobody leads.
    leader = "none" if abs(signed) < LEAD_HEARD_MS else ("left" if signed > 0 else "right")
    return {"points": len(gaps), "median_ms": round(middle, 3), "mean_signed_ms": round(signed, 3), "leader": leader}


#: Below this mean gap neither hand is said to lead (well inside the 20–30 ms heard as one).
LEAD_HEARD_MS = 10.0


def _hesitation(checked: CheckedTake, stop: Hesitation) -> Document:
    return {
        **place_document(checked.task.place(stop.expected)),
        "excess_ms": round(stop.excess_ms, 3),
        "excess_beats": round(stop.excess_beats, 4),
        "causes": list(stop.causes),
    }


def finding_document(finding: Finding) -> Document:
    return {
        "code": finding.code,
        "place": place_document(finding.place),
        "amount": round(finding.amount, 5),
        "limit": round(finding.limit, 5),
        "unit": finding.unit,
        "sure": finding.sure,
        "hand": hand_key(finding.hand),
        "interval_quarters": None if finding.interval_quarters is None else str(Fraction(finding.interval_quarters)),
    }


def _said(said: Said | None) -> Document | None:
    return {"code": said.finding.code, "text": said.text} if said else None


def verdict_document(verdict: Verdict) -> Document:
    cure = verdict.cure
    return {
        "status": verdict.status.value,
        "good": list(verdict.good),
        "finding": _said(verdict.main),
        "also": _said(verdict.also),
        "place": place_document(verdict.place) if verdict.place else None,
        "place_text": verdict.place_text,
        "cure": {"code": cure.code, "text": cure.text, "rung": cure.rung} if cure else None,
    }
