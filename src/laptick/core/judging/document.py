"""The document of a checked take: every figure that was measured, what was found, what was said, what is withheld.

The agreed fields of ``check`` with some of our own (``wrong``, ``ornaments``, ``skips``, ``passage``,
``ratio_figures``, ``bends``, ``recovery``, ``touch``, ``joining``, ``pooled``, ``limits``): fields may be added, never
renamed. A trailing underscore stands off Python's own words (``from_``, ``pass_``); outside it is not written.

Conventions: offsets and lengths in quarters are exact and written as text (``"3/2"``); ``onset_quarters`` counts from
the start of the piece, for drawing; ms and percent are positive when late, too long or faster.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from laptick.core.judging.finding import FindingCode
from laptick.core.score.hands import HandName

QuartersText = str


@dataclass(frozen=True, kw_only=True)
class PlaceTold:
    """A place in played order."""

    measure: str
    offset: QuartersText
    pass_: int


# -- which strike is which ---------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class MissingTold(PlaceTold):
    hand: HandName
    pitch: int | None
    onset_quarters: float


@dataclass(frozen=True, kw_only=True)
class ExtraTold:
    """A played strike that nothing asked for; ``onset_quarters``: where on the student's own beat it fell."""

    t: float
    pitch: int | None
    hand: HandName | None
    onset_quarters: float | None


@dataclass(frozen=True, kw_only=True)
class WrongTold(MissingTold):
    played: ExtraTold


@dataclass(frozen=True, kw_only=True)
class RestartTold:
    """``repeat``: a written repeat that was taken or not, no slip."""

    t: float
    from_: PlaceTold
    repeat: bool


@dataclass(frozen=True, kw_only=True)
class SkipTold:
    t: float
    from_: PlaceTold
    to: PlaceTold
    repeat: bool


@dataclass(frozen=True, kw_only=True)
class PassageTold:
    """The bars that a take which could not be followed seems to be; ``measures`` as they are asked for."""

    measures: str
    words: str


# -- tempo and notes ---------------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class BarTempoTold:
    measure: str
    pass_: int
    bpm: float


@dataclass(frozen=True, kw_only=True)
class TempoTold:
    assigned_bpm: float
    median_bpm: float | None
    beat_quarters: QuartersText
    off_percent: float | None
    drift_percent: float | None
    per_measure: Sequence[BarTempoTold]


@dataclass(frozen=True, kw_only=True)
class NoteTold(PlaceTold):
    """``expected_s``: on the student's own beat."""

    hand: HandName
    pitch: int | None
    played_s: float
    expected_s: float
    deviation_ms: float
    deviation_percent: float
    click_deviation_ms: float | None
    uncertainty_ms: float
    onset_quarters: float


# -- figures -----------------------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class WorstGapTold(PlaceTold):
    """The interval furthest from its run's mean, and by how much (positive: too long)."""

    percent: float


RunKind = Literal["even", "uneven", "rushed", "limping", "late-then-compensated", "hesitation"]


@dataclass(frozen=True, kw_only=True)
class RunTold:
    hand: HandName
    from_: PlaceTold
    to: PlaceTold
    intervals: int
    interval_quarters: QuartersText
    cv_percent: float
    npvi: float
    worst_gap: WorstGapTold
    kind: RunKind
    played: Sequence[float]
    onset_quarters: float
    judged: bool


@dataclass(frozen=True, kw_only=True)
class RatioTold(PlaceTold):
    hand: HandName
    written: str
    played: Sequence[float]
    reads_as: str


@dataclass(frozen=True, kw_only=True)
class RatioFigureTold:
    hand: HandName
    written: str
    length_quarters: QuartersText
    length: str
    times: int
    played: Sequence[float]
    reads_as: str
    judged: bool


@dataclass(frozen=True, kw_only=True)
class LongNoteTold(PlaceTold):
    hand: HandName
    written_quarters: QuartersText
    to_next_quarters: float | None
    sounded_quarters: float | None


@dataclass(frozen=True, kw_only=True)
class RestTold(PlaceTold):
    onset_quarters: float
    hand: HandName
    ran_over_ms: float | None
    entry_ms: float


@dataclass(frozen=True, kw_only=True)
class GapTold(PlaceTold):
    """Right minus left at one instant that both hands strike."""

    gap_ms: float
    onset_quarters: float


@dataclass(frozen=True, kw_only=True)
class TogetherTold:
    points: int
    median_ms: float | None
    mean_signed_ms: float | None
    spread_ms: float | None
    leader: Literal["right", "left", "none"]
    gaps: Sequence[GapTold]


@dataclass(frozen=True, kw_only=True)
class HesitationTold(PlaceTold):
    excess_ms: float
    excess_beats: float
    causes: Sequence[str]


@dataclass(frozen=True, kw_only=True)
class BendTold(PlaceTold):
    """A written rit. or accel.: which way it went."""

    kind: str
    went: str
    as_written: bool
    change_percent: float


@dataclass(frozen=True, kw_only=True)
class RecoveryTold(PlaceTold):
    """Beats until the beat was back after a slip; ``None``: it was not."""

    slip: str
    beats: float | None


# -- touch -------------------------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class TouchLengthTold:
    hand: HandName
    kind: str
    notes: int
    sounded_share: float
    asked: int = 0
    kept: int = 0


@dataclass(frozen=True, kw_only=True)
class SwellTold(PlaceTold):
    text: str
    notes: int
    change: float
    step_back: float
    as_written: bool


@dataclass(frozen=True, kw_only=True)
class PedalTold:
    changes: int
    after_strike_ms: float | None


@dataclass(frozen=True, kw_only=True)
class SmearTold(PlaceTold):
    pitch: int


@dataclass(frozen=True, kw_only=True)
class TouchTold:
    lengths: Sequence[TouchLengthTold]
    strengths: dict[str, float]
    swells: Sequence[SwellTold]
    pedal: PedalTold
    smears: Sequence[SmearTold]


@dataclass(frozen=True, kw_only=True)
class JoiningTold:
    """What a hand's playing was alone, and is together."""

    hand: HandName
    what: str
    unit: str
    alone: float
    together: float


# -- on the whole ------------------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class DeviationsPooled:
    hand: HandName
    notes: int
    mean_ms: float
    spread_ms: float
    spread_percent: float


@dataclass(frozen=True, kw_only=True)
class EvennessPooled:
    hand: HandName
    interval_quarters: QuartersText
    notes: str
    intervals: int
    judged: bool
    cv_percent: float
    npvi: float


@dataclass(frozen=True, kw_only=True)
class RestsPooled:
    entries: int
    entry_ms: float | None
    latest_ms: float | None
    ran_over_ms: float | None


@dataclass(frozen=True, kw_only=True)
class LongNotesPooled:
    notes: int
    to_next_share: float | None
    sounded_share: float | None


@dataclass(frozen=True, kw_only=True)
class Pooled:
    deviations: Sequence[DeviationsPooled]
    evenness: Sequence[EvennessPooled]
    rests: RestsPooled
    long_notes: LongNotesPooled


# -- what is said ------------------------------------------------------------------------------------------


@dataclass(frozen=True, kw_only=True)
class FindingTold:
    code: FindingCode
    text: str
    place: PlaceTold
    place_text: str
    amount: float
    limit: float
    unit: str
    sure: float
    hand: HandName
    interval_quarters: QuartersText | None


@dataclass(frozen=True, kw_only=True)
class SaidTold:
    code: FindingCode
    text: str


@dataclass(frozen=True, kw_only=True)
class CureTold:
    """``rung``: the count, the lap or the keys, ``None``: as now; with the bars (or a spot of
    them), hands, tempo and density of counting that it names."""

    code: str
    text: str
    rung: str | None
    measures: str | None = None
    hands: str | None = None
    bpm: float | None = None
    within: str | None = None
    density: str | None = None


@dataclass(frozen=True, kw_only=True)
class VerdictTold:
    status: Literal["steady", "nearly", "not-yet", "could-not-follow"]
    good: Sequence[str]
    finding: SaidTold | None
    also: SaidTold | None
    place: PlaceTold | None
    place_text: str | None
    cure: CureTold | None


@dataclass(frozen=True, kw_only=True)
class WithheldTold:
    what: str
    why: str


@dataclass(frozen=True, kw_only=True)
class LimitsTold:
    """The limits that applied, in the units of the figures."""

    deviation_ms: float
    together_ms: float
    tempo_percent: float
    drift_percent: float
    hesitation_ms: float
    cut_ms: float
    over_ms: float


@dataclass(frozen=True, kw_only=True)
class AudioTold:
    """Of a recording: ``noise_db``: the room below the playing; ``tuning_cents``: against A4 = 440 Hz; ``click_bpm``,
    ``room``: ``None`` where they are not known; ``told``, ``chances``: at how many of the places where both hands
    strike they were told apart; ``lost_s``: when in it the place was lost, ``None`` where it was not."""

    seconds: float
    sample_rate: int
    noise_db: float | None
    level: Literal["good", "too-quiet", "clipping"]
    tuning_cents: float | None
    click_bpm: float | None
    room: str | None
    told: int
    chances: int
    is_recognised: bool
    lost_s: float | None = None


@dataclass(frozen=True, kw_only=True)
class CheckDocument:
    """The whole."""

    followed: bool
    source: Literal["taps", "midi", "audio"]
    matched: int
    missing: Sequence[MissingTold]
    extra: Sequence[ExtraTold]
    wrong: Sequence[WrongTold]
    ornaments: Sequence[ExtraTold]
    restarts: Sequence[RestartTold]
    skips: Sequence[SkipTold]
    passage: PassageTold | None
    tempo: TempoTold
    notes: Sequence[NoteTold]
    evenness: Sequence[RunTold]
    ratios: Sequence[RatioTold]
    ratio_figures: Sequence[RatioFigureTold]
    long_notes: Sequence[LongNoteTold]
    rests: Sequence[RestTold]
    together: TogetherTold
    hesitations: Sequence[HesitationTold]
    bends: Sequence[BendTold]
    recovery: Sequence[RecoveryTold]
    touch: TouchTold | None
    joining: Sequence[JoiningTold]
    pooled: Pooled
    findings: Sequence[FindingTold]
    verdict: VerdictTold
    withheld: Sequence[WithheldTold]
    limits: LimitsTold
    audio: AudioTold | None = None
