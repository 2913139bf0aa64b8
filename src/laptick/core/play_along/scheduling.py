"""The schedule: when everything of a play-along sounds.

One schedule for the browser, for sound files and for MIDI: the counting voice, clicks with metrical accents, drums,
the written notes of either hand, cue words, and where the cursor is. Times are seconds from the first count-in's start;
whoever plays it computes nothing. What is played in which order (rounds, turns, first whole and then slowly) is a
sequence of *parts* (``plans.py``), laid behind one another here.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from laptick.core.base.units import Bpm, Quarters, Seconds
from laptick.core.counting.choices import CountChoice, CountChoices
from laptick.core.counting.count_in import count_in
from laptick.core.counting.counting import count_line
from laptick.core.counting.counts import Kind, LineCount
from laptick.core.counting.word_tables import System
from laptick.core.play_along.grooves import hits
from laptick.core.play_along.schedule import CLICK_LEVELS, Role, Schedule, Sound, Sounding, Stretch, Track, Word
from laptick.core.play_along.voice import LEVELS, THINNED, SaidWord, WordSample, reading_of, thin
from laptick.core.score.hand_line import hand_line
from laptick.core.score.score import HANDS, Hand, MarkKind, Measure, Score
from laptick.core.score.score_clock import Clock
from laptick.core.score.within import Cut

#: A take is over when nothing is struck for the longest written gap (at a slower pace) and some beats.
SILENCE_LEAST_S, SILENCE_BEATS, SILENCE_SLACK = 2.0, 2, 1.3

#: A written note sounds for this share of its length, so that repeated ones are told apart.
LEGATO_SHARE = 0.92

#: Number of the bar in which the words of a count-in are, for the voice.
COUNT_IN_BAR = -1

#: The tracks of the counting voice.
VOICE = frozenset({Track.STRIKE, Track.HOLD, Track.REST})

#: The reading said before the student's turn.
TURN = "you"


@dataclass(frozen=True)
class Part:
    """A passage played once. ``gap_quarters``: silence before it, counted in its own tempo; ``tracks``: what sounds;
    ``cut``: of the hands only that spot; ``system``: the voice counts by this one instead of the chosen one."""

    measures: tuple[Measure, ...]
    bpm: Bpm
    role: Role = Role.PLAY
    counts_in: bool = True
    gap_quarters: Quarters = Fraction(0)
    tracks: frozenset[Track] = frozenset(Track)
    system: System | None = None
    cut: Cut | None = None


def make_schedule(
    score: Score,
    parts: Sequence[Part],
    *,
    hands: Sequence[Hand] = HANDS,
    choices: CountChoices | None = None,
    sounding: Sounding | None = None,
) -> Schedule:
    """The schedule of some parts, one behind the other. Each part's tempo counts its first bar's beat; from there the
    clock follows the score (``clock.py``). The counts said are those of the one hand, or of both together."""
    chosen = sounding or Sounding()
    laid: list[_Laid] = []
    now: Seconds = 0.0
    quiet_from = 0
    whole = _Whole(score, tuple(hands), choices, chosen, {})
    for index, part in enumerate(parts):
        handed = index + 1 < len(parts) and parts[index + 1].role is Role.ROOM
        laid.append(_Laid(whole, part, _Turn(now, quiet_from, handed)))
        now = laid[-1].end_s
        quiet_from += sum(1 for measure in part.measures if not measure.is_pickup) if part.role is Role.PLAY else 0
    first = laid[0]
    sounds = _one_word_at_a_time([sound for one in laid for sound in one.sounds()])
    return Schedule(
        first.part.bpm,
        first.part.measures[0].meter.beat_quarters,
        first.first_beat_s,
        now,
        first.silence_s(),
        tuple(sounds),
        tuple(word for one in laid for word in one.words),
        tuple(point for one in laid for point in one.cursor()),
        tuple(one.stretch for one in laid),
        _once([note for one in laid for note in one.remarks]),
    )


def _one_word_at_a_time(sounds: Sequence[Sound]) -> list[Sound]:
    """In order of time; where a cue is said the count is silent: two words at once are none."""
    cues = [(sound.at_s - 0.01, sound.at_s + sound.length_s) for sound in sounds if sound.track is Track.CUE]
    kept = [s for s in sounds if s.track not in VOICE or not any(begin <= s.at_s < end for begin, end in cues)]
    return sorted(kept, key=lambda s: (s.at_s, s.track))


def one_word(sample: WordSample, *, bpm: Bpm = 66, beats: int = 4, clicks: bool = True) -> Schedule:
    """A word alone on a few beats, to hear what it sounds like and that it is on the beat."""
    beat_s = 60 / bpm
    sounds = [
        sound
        for beat in range(beats)
        for sound in (
            *((_click(beat * beat_s, "beat" if beat else "bar", False),) if clicks else ()),
            Sound(beat * beat_s, Track.STRIKE, sample.sound, 1.0, sample.length_s),
        )
    ]
    return Schedule(bpm, Fraction(1), 0.0, beats * beat_s, beats * beat_s, tuple(sounds), (), (), ())


def _once(remarks: Sequence[str]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(remarks))


@dataclass(frozen=True)
class _Whole:
    """What all parts of a schedule share; ``counted`` keeps the counts that several of them say."""

    score: Score
    hands: tuple[Hand, ...]
    choices: CountChoices | None
    sounding: Sounding
    counted: _Counted

    def counts(self, hand: Hand | None, part: Part) -> LineCount:
        return _counts(self.score, hand, self.choices, part, self.counted)


@dataclass(frozen=True)
class _Turn:
    """When a part begins, how many bars were played before it (for silent bars), and whether the next one is left to
    the player."""

    begin_s: Seconds
    quiet_from: int
    is_handed_over: bool


class _Laid:
    """One part, laid from a moment on."""

    def __init__(self, whole: _Whole, part: Part, turn: _Turn) -> None:
        score, hands = whole.score, whole.hands
        self.score, self.part, self.hands, self.sounding = score, part, hands, whole.sounding
        self.quiet_from, self.is_handed_over = turn.quiet_from, turn.is_handed_over
        self.measures = part.measures
        self.origin, self.end = self.measures[0].start_quarters, self.measures[-1].end_quarters
        self.clock = Clock(score, self.measures[0], part.bpm)
        quarter_s = self.clock.quarter_s_at(self.origin)
        start_s = turn.begin_s + float(part.gap_quarters) * quarter_s
        line = hands[0] if len(hands) == 1 else None
        self.counts = whole.counts(line, part)
        # What is said before the first beat is the counting of both hands: it sets up the meter.
        both = whole.counts(None, part)
        before = count_in(both, part.bpm) if part.counts_in else ()
        lead = max((-word.offset_quarters for word in before), default=Fraction(0))
        self.first_beat_s = start_s + float(lead) * quarter_s
        self.zero_s = self.first_beat_s - self.clock.at(self.origin)
        self.end_s = self.at(self.end)  # a fermata at the end is held too
        self.remarks: list[str] = []
        self.counted_in = [(self.first_beat_s + float(word.offset_quarters) * quarter_s, word) for word in before]
        self.words: list[Word] = []
        self._voice = self._said()
        self.stretch = Stretch(
            part.role,
            start_s,
            self.first_beat_s,
            self.end_s,
            self.measures[0].number,
            self.measures[-1].number,
            part.bpm,
        )

    def at(self, onset: Quarters, *, before: bool = False) -> Seconds:
        clock = self.clock.until if before else self.clock.at
        return self.zero_s + clock(onset)

    # -- what sounds ----------------------------------------------------------------------------------

    def sounds(self) -> list[Sound]:
        found = [*self._clicks(), *self._voice, *self._notes(), *self._drums()]
        tracks = self.part.tracks
        return [s for s in found if s.track in tracks or (s.is_count_in and s.track is not Track.BACKING)]

    def _is_quiet(self, index: int) -> bool:
        """Whether the player keeps the beat alone in a bar of the part."""
        silent, cycle = self.sounding.quiet
        if not silent or self.part.role is not Role.PLAY or self.measures[index].is_pickup:
            return False
        full = sum(1 for measure in self.measures[:index] if not measure.is_pickup)
        return (self.quiet_from + full) % cycle >= cycle - silent

    def _clicks(self) -> list[Sound]:
        found = []
        for at_s, word in self.counted_in:
            position = self.measures[0].lead_quarters + word.offset_quarters
            found.append(_click(at_s, _accent(self.measures[0], position, word.is_beat), True))
        for index, (measure, bar, by) in enumerate(zip(self.measures, self.counts.bars, self.counts.by, strict=True)):
            if self._is_quiet(index):
                continue
            felt = {beat.start_quarters for beat in by.beats.meter.beats}
            offsets = {beat.start - measure.lead_quarters for beat in by.beats.beats}
            if self.sounding.clicks_counts:
                offsets |= {count.offset_quarters for count in bar}
            for offset in sorted(o for o in offsets if 0 <= o < measure.length_quarters):
                position = offset + measure.lead_quarters
                accent = _accent(measure, position, position in felt)
                found.append(_click(self.at(measure.start_quarters + offset), accent, False))
        return found

    def _said(self) -> list[Sound]:
        """The counting voice and the cue words, thinned so that no word runs into the next."""
        spots: list[SaidWord] = []
        kinds: list[Kind] = []
        voice = self.sounding.voice
        for at_s, word in self.counted_in:
            sample = voice(reading_of(word.say, self.counts.by[0].resolved.system))
            spots.append(SaidWord(at_s, sample, 1 if word.is_beat else 3, COUNT_IN_BAR))
            kinds.append(Kind.STRIKE)
            self.words.append(Word(at_s, word.say, True))
        for index, (measure, bar, by) in enumerate(zip(self.measures, self.counts.bars, self.counts.by, strict=True)):
            felt = {beat.start_quarters - measure.lead_quarters for beat in by.beats.meter.beats}
            for count in bar:
                if not count.say:
                    continue
                at_s = self.at(measure.start_quarters + count.offset_quarters)
                rank = _rank(count.offset_quarters, measure, felt, count.is_beat)
                spots.append(SaidWord(at_s, voice(reading_of(count.say, by.resolved.system)), rank, index))
                kinds.append(count.kind)
                self.words.append(Word(at_s, count.say, False))
        said, thinned = thin(spots)
        self._remark(dict(thinned))
        found = []
        for spot, kind, is_said in zip(spots, kinds, said, strict=True):
            counts_in = spot.bar == COUNT_IN_BAR
            if not is_said or (not counts_in and self._is_quiet(spot.bar)):
                continue
            sound = spot.sample.sound
            if kind is Kind.REST:
                sound = sound.replace("word:", "whisper:", 1)
            track = Track.STRIKE if counts_in else Track(kind.value)
            found.append(Sound(spot.at_s, track, sound, LEVELS[kind], spot.sample.length_s, is_count_in=counts_in))
        return [*found, *self._cues(), *self._handover()]

    def _handover(self) -> list[Sound]:
        """Where the model plays without words, the last beat says whose turn is next."""
        if self.part.role is not Role.MODEL or Track.STRIKE in self.part.tracks or not self.is_handed_over:
            return []
        last = self.measures[-1]
        onset = last.end_quarters - min(last.meter.beat_quarters, last.length_quarters)
        sample = self.sounding.voice(TURN)
        return [Sound(self.at(onset), Track.CUE, sample.sound, 1.0, sample.length_s)]

    def _remark(self, thinned: dict[int, int]) -> None:
        for rank in sorted(set(thinned.values()), reverse=True):
            bars = [self.measures[bar].number for bar, kept in thinned.items() if kept == rank and bar >= 0]
            if bars and self.part.tracks & VOICE:
                where = "everywhere" if len(bars) == len(self.measures) else f"in {_bar_names(bars)}"
                self.remarks.append(
                    f"At this tempo words would run into each other: {where} the voice says {THINNED[rank]}."
                )

    def _cues(self) -> list[Sound]:
        """The teacher's words, a beat ahead of where they stand."""
        found = []
        for mark in self.score.marks if self.sounding.cues else ():
            if mark.kind is not MarkKind.CUE or not self.origin <= mark.onset_quarters < self.end:
                continue
            beat = self.score.measure_at(mark.onset_quarters).meter.beat_quarters
            ahead = mark.onset_quarters - beat
            at_s = self.at(ahead)
            if ahead < self.origin:
                if self.part.counts_in:
                    self.remarks.append(
                        f"“{mark.text}” would be said before the first beat, where the count-in is: it is left out."
                    )
                if self.part.counts_in or self.part.role is not Role.PLAY:
                    continue
                # In a gap, or in the last beat of the round before.
                at_s = self.first_beat_s - float(beat) * self.clock.quarter_s_at(self.origin)
            sample = self.sounding.voice(reading_of(mark.text))
            found.append(Sound(at_s, Track.CUE, sample.sound, 1.0, sample.length_s))
        return found

    def _notes(self) -> list[Sound]:
        """The written strikes of the hands: tones, or knocks of their rhythm."""
        found = []
        for hand in self.hands:
            track = Track(hand.value)
            claps = {note.onset_quarters for note in self.score.notes if note.hand is hand and note.is_clap}
            if self.sounding.knocks:
                for onset in hand_line(self.score, hand).strikes:
                    if self.origin <= onset < self.end and self._is_played(onset):
                        sound = "clap" if onset in claps else f"knock-{hand.value}"
                        found.append(Sound(self.at(onset), track, sound, 1.0))
                continue
            for onset, until, pitch in _sounding(self.score, hand, self.origin, self.end):
                if not self._is_played(onset):
                    continue
                at_s = self.at(onset)
                lasts = (self.at(min(until, self.end), before=True) - at_s) * LEGATO_SHARE
                unpitched = "clap" if onset in claps else f"knock-{hand.value}"
                sound = unpitched if pitch is None else f"tone:{pitch}"
                found.append(Sound(at_s, track, sound, 1.0, lasts))
        return found

    def _is_played(self, onset: Quarters) -> bool:
        """Not in a silent bar, and of the spot, where only one is played."""
        return self._in_cut(onset) and not self._is_quiet(self._bar_of(onset))

    def _in_cut(self, onset: Quarters) -> bool:
        bar, cut = self._bar_of(onset), self.part.cut
        return cut is None or cut.holds(bar, onset - self.measures[bar].start_quarters)

    def _bar_of(self, onset: Quarters) -> int:
        return self.score.measure_at(onset).index - self.measures[0].index

    def _drums(self) -> list[Sound]:
        return [
            Sound(self.at(measure.start_quarters + hit.offset_quarters), Track.BACKING, hit.sound, hit.level)
            for index, measure in enumerate(self.measures)
            if not self._is_quiet(index)
            for hit in hits(measure, self.sounding.groove)
        ]

    # -- cursor and silence ---------------------------------------------------------------------------

    def cursor(self) -> list[tuple[Seconds, Quarters]]:
        """The way over the written score: evenly between points; a jump has two at one moment."""
        points: list[tuple[Seconds, Quarters]] = []
        for before, measure in zip((None, *self.measures), self.measures, strict=False):
            if before is not None and measure.written_start_quarters != _written_end(before):
                points.append((self.at(before.end_quarters, before=True), _written_end(before)))
            for beat in measure.meter.beats:
                onset = measure.start_quarters + beat.start_quarters - measure.lead_quarters
                if measure.start_quarters <= onset < measure.end_quarters or beat is measure.meter.beats[0]:
                    onset = max(onset, measure.start_quarters)
                    written = measure.written_start_quarters + onset - measure.start_quarters
                    held = self.at(onset, before=True)
                    if points and held < self.at(onset):
                        points.append((held, written))
                    points.append((self.at(onset), written))
        points.append((self.at(self.end, before=True), _written_end(self.measures[-1])))
        return list(dict.fromkeys(points))

    def silence_s(self) -> Seconds:
        """A longer silence than this means that a take is over."""
        quarter_s = self.clock.quarter_s_at(self.origin)
        if self.sounding.clicks_counts:
            struck = sorted({s.at_s for s in self._clicks() if not s.is_count_in})
        else:
            lines = {at for hand in self.hands for at in hand_line(self.score, hand).strikes}
            struck = sorted(
                self.at(onset) for onset in lines if self.origin <= onset < self.end and self._in_cut(onset)
            )
        longest = max((b - a for a, b in zip([self.first_beat_s, *struck], struck, strict=False)), default=0.0)
        if self.part.cut is not None and struck:  # from one time round to the next
            longest = max(longest, self.end_s - struck[-1] + struck[0] - self.first_beat_s)
        beat_s = float(self.measures[0].meter.beat_quarters) * quarter_s
        return max(SILENCE_LEAST_S, longest * SILENCE_SLACK + SILENCE_BEATS * beat_s)


#: Counts made for a schedule so far: rounds of a passage are counted once.
_Counted = dict[tuple[object, ...], LineCount]


def _counts(score: Score, hand: Hand | None, choices: CountChoices | None, part: Part, counted: _Counted) -> LineCount:
    key = (hand, part.measures[0].index, part.measures[-1].index, part.bpm, part.system)
    if key not in counted:
        counted[key] = _count(score, hand, choices, part)
    return counted[key]


def _count(score: Score, hand: Hand | None, choices: CountChoices | None, part: Part) -> LineCount:
    if part.system is not None:
        # Said otherwise than chosen: only what lengths are called is kept.
        naming = (choices or CountChoices()).naming
        choices = replace(CountChoices(piece=CountChoice(system=part.system)), naming=naming)
    return count_line(score, hand, choices, measures=part.measures, bpm=part.bpm)


def _rank(offset: Quarters, measure: Measure, felt: set[Quarters], is_beat: bool) -> int:
    if (offset + measure.lead_quarters) % measure.meter.bar_quarters == 0:
        return 0
    return 1 if offset in felt else 2 if is_beat else 3


def _sounding(score: Score, hand: Hand, start: Quarters, end: Quarters) -> list[tuple[Quarters, Quarters, int | None]]:
    """(onset, end, pitch) of each strike of a hand in a passage, ties joined."""
    found: list[tuple[Quarters, Quarters, int | None]] = []
    open_ties: dict[int | None, int] = {}
    for note in score.notes:
        if note.hand is not hand or note.is_grace or not start <= note.onset_quarters < end:
            continue
        if note.tied_from_before and note.pitch in open_ties:
            index = open_ties[note.pitch]
            found[index] = (found[index][0], note.end_quarters, note.pitch)
        elif not note.tied_from_before:
            open_ties[note.pitch] = len(found)
            found.append((note.onset_quarters, note.end_quarters, note.pitch))
        if not note.tied_onward:
            open_ties.pop(note.pitch, None)
    return found


def _click(at_s: Seconds, accent: str, is_count_in: bool) -> Sound:
    return Sound(at_s, Track.CLICK, f"click-{accent}", CLICK_LEVELS[accent], is_count_in=is_count_in)


def _accent(measure: Measure, position: Quarters, is_beat: bool) -> str:
    if position % measure.meter.bar_quarters == 0:
        return "bar"
    return "beat" if is_beat else "division"


def _written_end(measure: Measure) -> Quarters:
    return measure.written_start_quarters + measure.length_quarters


def _bar_names(names: Sequence[str]) -> str:
    if len(names) == 1:
        return f"bar {names[0]}"
    listed = ", ".join(names[:-1]) if len(names) <= 5 else ", ".join(names[:4])
    return f"bars {listed} and {names[-1]}" if len(names) <= 5 else f"bars {listed} and {len(names) - 4} more"
