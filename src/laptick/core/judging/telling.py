"""From a judged take to its document: what was matched, found, said and withheld; the figures stand in
``told_figures``."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict
from fractions import Fraction

from laptick.core.base.units import quarters_to_text
from laptick.core.judging import told_figures as figures
from laptick.core.judging.document import (
    AudioTold,
    CheckDocument,
    CureTold,
    ExtraTold,
    FindingTold,
    LimitsTold,
    MissingTold,
    PassageTold,
    RestartTold,
    SaidTold,
    SkipTold,
    VerdictTold,
    WithheldTold,
    WrongTold,
)
from laptick.core.judging.finding import Finding
from laptick.core.judging.finding_words import say
from laptick.core.judging.findings import is_too_short
from laptick.core.judging.judgement import Judgement
from laptick.core.judging.verdict import Said, Verdict
from laptick.core.measuring.evenness import group_figures
from laptick.core.measuring.limits import JUDGED_BARS, JUDGED_INTERVALS, TIMED_BARS, Limits
from laptick.core.measuring.measured import CheckedTake, Measured
from laptick.core.score.hands import hand_key
from laptick.core.score.places import place_words
from laptick.core.takes.heard_words import room_words
from laptick.core.takes.performance import CLAP_KEY, Source, key_told
from laptick.core.takes.task import Task

# -- check ------------------------------------------------------------------------------------------

#: Figures that need key-ups, and what they are called when they are withheld.
WITHOUT_KEY_UPS: dict[Source, str] = {
    Source.TAPS: "taps have no key-up and no strength",
    Source.AUDIO: "a recording tells no key-up and no strength of a single key",
}
NEED_KEY_UPS = ("long_notes.sounded", "rests.ran_over", "touch")


def tell(judged: Judgement) -> CheckDocument:
    """A judged take as its document."""
    checked, measured = judged.checked, judged.checked.measured
    task, matching = checked.task, checked.matching
    return CheckDocument(
        followed=checked.followed,
        source=checked.performance.source.value,
        matched=len(matching.matches),
        missing=[_missing(checked, index) for index in matching.missing],
        extra=[_extra(checked, index) for index in matching.extra],
        wrong=[
            WrongTold(**vars(_missing(checked, index)), played=_extra(checked, strike))
            for index, strike in matching.wrong
        ],
        ornaments=[_extra(checked, index) for index in matching.ornaments],
        restarts=[
            RestartTold(
                t=restart.played_s,
                from_=figures.told_place(task.place(task.expected[restart.expected_index])),
                repeat=restart.repeat,
            )
            for restart in matching.restarts
        ],
        skips=[
            SkipTold(
                t=skip.played_s,
                from_=figures.told_place(task.place(task.expected[skip.from_index])),
                to=figures.told_place(task.place(task.expected[skip.expected_index])),
                repeat=skip.repeat,
            )
            for skip in matching.skips
        ],
        passage=told_passage(judged),
        tempo=figures.tempo(checked, measured),
        notes=figures.notes(checked, measured),
        evenness=figures.evenness(checked, measured, judged),
        ratios=figures.ratios(checked, measured),
        ratio_figures=figures.ratio_figures(measured, task.naming),
        long_notes=figures.long_notes(checked, measured),
        rests=figures.rests(checked, measured),
        together=figures.together(checked, measured),
        hesitations=[figures.hesitation(judged, stop) for stop in measured.hesitations] if measured else [],
        bends=figures.bends(checked, measured),
        recovery=figures.recoveries(judged),
        touch=figures.touch(checked, measured),
        joining=figures.joining(judged),
        pooled=figures.pooled(measured, task.naming),
        findings=[told_finding(finding, checked) for finding in judged.findings],
        verdict=told_verdict(judged.verdict),
        withheld=[WithheldTold(what=what, why=why) for what, why in _withheld(judged)],
        limits=_limits(checked, measured, judged.limits),
        audio=_audio(checked),
    )


def _audio(checked: CheckedTake) -> AudioTold | None:
    heard = checked.performance.heard
    if heard is None:
        return None
    lost_s = checked.lost_s
    return AudioTold(
        seconds=round(heard.seconds, 3),
        sample_rate=heard.rate,
        noise_db=None if heard.noise_db is None else round(heard.noise_db, 1),
        level=heard.level.value,
        tuning_cents=heard.tuning_cents,
        click_bpm=heard.click_bpm,
        room=room_words(heard.noise_db),
        told=heard.told,
        chances=heard.chances,
        is_recognised=heard.is_recognised,
        lost_s=None if lost_s is None else round(lost_s, 3),
    )


def told_passage(judged: Judgement) -> PassageTold | None:
    """The bars that a take which could not be followed seems to be; ``measures`` as they are asked for."""
    if judged.passage is None:
        return None
    return PassageTold(measures=judged.passage.range, words=judged.passage.words)


def _withheld(judged: Judgement) -> Iterator[tuple[str, str]]:
    """What is not told of this take, and why."""
    checked, measured = judged.checked, judged.checked.measured
    if measured is None:
        yield "everything", "the take could not be followed"
        return
    if not checked.performance.shares_clock:
        yield "click_deviation_ms", "the take and a click do not share a clock"
    if not checked.performance.knows.key_ups:
        for what in NEED_KEY_UPS:
            yield what, f"{WITHOUT_KEY_UPS[checked.performance.source]}: how long a note sounded is not known"
    elif checked.performance.pedal and any(
        note.sounded_quarters is None and not note.shortened for note in measured.long_notes
    ):
        yield "long_notes.sounded", "the pedal holds some notes: their key-up does not end the sound"
    heard = checked.performance.heard
    if heard is not None and heard.chances and not heard.tells_hands:
        yield (
            "together",
            f"the hands could be told apart at {heard.told} of the {heard.chances} places where both strike: too few",
        )
    elif heard is not None and not checked.task.asks_pitches and _asks_both(checked.task):
        yield (
            "together",
            "a knock does not tell whose it is, so how far apart the hands are is not known; where two knocks fall"
            " apart again and again, the later one is taken for that of the hand that goes on sooner",
        )
        yield "missing", "where both hands are asked for, one knock passes for both"
    elif not measured.asynchronies:
        yield "together", "no written instant is struck by both hands in this take"
    if heard is not None:
        yield "balance", "how strong each hand is cannot be told from a recording"
        if any(one.pitch is not None for one in checked.task.expected):
            yield "wrong", "a key next to the written one is told only where the sound leaves no doubt; else it passes"
        if any(one.pitch == CLAP_KEY for one in checked.task.expected):
            yield "claps", "one that was left out may pass where a click or a spoken count falls in its place"
    if not measured.long_gaps and measured.long_notes:
        yield "long_notes.rushed", "there are too few shorter notes around the long ones to compare them with"
    few = [f for f in group_figures(measured.runs) if f.intervals < JUDGED_INTERVALS]
    if few:
        yield "evenness.judged", f"some runs have fewer than {JUDGED_INTERVALS} intervals in all: shown, not judged"
    if any(finding.beatless for finding in judged.findings):
        yield "findings", "single faults of timing are not told: there is no steady beat to measure them against"
    if is_too_short(measured):
        yield "findings", f"timing is judged from {TIMED_BARS} bars on: so short a take shows it, and blames nobody"
    if len(measured.bar_tempos) < JUDGED_BARS:
        yield "drift", f"a slope needs {JUDGED_BARS} bars at least"


def _asks_both(task: Task) -> bool:
    """Whether both hands strike anywhere at once."""
    struck = {(one.onset_quarters, one.hand) for one in task.expected}
    return len(struck) > len({onset for onset, _ in struck})


def _limits(checked: CheckedTake, measured: Measured | None, limits: Limits) -> LimitsTold:
    """The limits that applied, in the units of the figures."""
    bpm = measured.median_bpm if measured else checked.task.assigned_bpm
    beat_ms = 60_000 / bpm
    return LimitsTold(
        deviation_ms=round(limits.spread_ms(beat_ms), 1),
        together_ms=limits.hands_apart_ms,
        tempo_percent=100 * limits.tempo_share,
        drift_percent=100 * limits.drift_share,
        hesitation_ms=round(limits.hesitation_ms(beat_ms), 1),
        cut_ms=round(limits.cut_ms(beat_ms), 1),
        over_ms=round(limits.over_ms(beat_ms), 1),
    )


def _missing(checked: CheckedTake, index: int) -> MissingTold:
    expected = checked.task.expected[index]
    place = checked.task.place(expected)
    return MissingTold(
        measure=place.measure,
        offset=quarters_to_text(place.offset_quarters),
        pass_=place.pass_number,
        hand=hand_key(expected.hand),
        pitch=key_told(expected.pitch),
        onset_quarters=figures.from_start(checked, expected),
    )


def _extra(checked: CheckedTake, strike_index: int) -> ExtraTold:
    strike = checked.performance.strikes[strike_index]
    return ExtraTold(
        t=strike.played_s,
        pitch=key_told(strike.pitch),
        hand=strike.hand.value if strike.hand else None,
        onset_quarters=_heard_at(checked, strike.played_s),
    )


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


def told_finding(finding: Finding, checked: CheckedTake) -> FindingTold:
    return FindingTold(
        code=finding.code,
        text=say(checked.task, finding),
        place=figures.told_place(finding.place),
        place_text=place_words(checked.task.score, finding.place),
        amount=round(finding.amount, 5),
        limit=round(finding.limit, 5),
        unit=finding.unit,
        sure=finding.sure,
        hand=hand_key(finding.hand),
        interval_quarters=None if finding.interval_quarters is None else str(Fraction(finding.interval_quarters)),
    )


def _said(said: Said | None) -> SaidTold | None:
    return SaidTold(code=said.finding.code, text=said.text) if said else None


def told_verdict(verdict: Verdict) -> VerdictTold:
    cure = verdict.cure
    return VerdictTold(
        status=verdict.status.value,
        good=list(verdict.good),
        finding=_said(verdict.main),
        also=_said(verdict.also),
        place=figures.told_place(verdict.place) if verdict.place else None,
        place_text=verdict.place_text,
        cure=CureTold(**asdict(cure)) if cure else None,
    )
