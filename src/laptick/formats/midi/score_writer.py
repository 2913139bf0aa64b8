"""Score → Standard MIDI: a track of tempos and signatures, then one for each hand, in played order.

``with_counts`` adds the composite count as lyric events; cue words are cue points, the pedal is controller 64.
Ties sound as one note; grace notes are left out (they have no written length). Positions are exact: the resolution
holds every denominator up to the format's limit, and what it cannot hold is rounded to the nearest tick.
"""

from __future__ import annotations

import io
import math
from collections.abc import Sequence

import mido

from laptick.core.base.units import Bpm, Quarters
from laptick.core.counting.choices import CountChoices
from laptick.core.counting.counting import count_line
from laptick.core.score.roadmap import in_played_order
from laptick.core.score.score import HANDS, Hand, MarkKind, Note, Score

#: The highest resolution the format holds, and the one we start from (16ths, triplets, quintuplets).
MAX_TICKS, BASE_TICKS = 0x7FFF, 480

VELOCITY = 72
_KEYS = ("Cb", "Gb", "Db", "Ab", "Eb", "Bb", "F", "C", "G", "D", "A", "E", "B", "F#", "C#")
#: Tempo of a score that prints none, in quarters a minute.
UNMARKED_BPM = 72.0

#: (tick, order at one tick, message)
_Event = tuple[int, int, mido.Message | mido.MetaMessage]


def write_midi(
    score: Score,
    *,
    order: Sequence[int] | None = None,
    bpm: Bpm | None = None,
    with_counts: bool = False,
    choices: CountChoices | None = None,
) -> bytes:
    """The score as a MIDI file. ``order``: written bars as played (by default the score's roadmap);
    ``bpm`` in quarters replaces the score's own tempos."""
    played = in_played_order(score, order)
    ticks = _resolution(played)
    midi = mido.MidiFile(type=1, ticks_per_beat=ticks, charset="utf-8")
    midi.tracks.append(_track(_conductor(played, ticks, bpm), score.title))
    names = {Hand.RIGHT: "right hand", Hand.LEFT: "left hand"}
    for channel, hand in enumerate(HANDS):
        if any(note.hand is hand for note in played.notes):
            events = [*_strikes(played, hand, channel, ticks), *_pedal(played, channel, ticks)]
            midi.tracks.append(_track(events, names[hand]))
    if with_counts:
        midi.tracks.append(_track(_counts(played, ticks, choices), "count"))
    out = io.BytesIO()
    midi.save(file=out)
    return out.getvalue()


def _resolution(score: Score) -> int:
    denominators = {n.onset_quarters.denominator for n in score.notes} | {
        n.end_quarters.denominator for n in score.notes
    }
    wanted = math.lcm(BASE_TICKS, *denominators)
    return wanted if wanted <= MAX_TICKS else BASE_TICKS * 21  # sevenths as well


def _tick(at: Quarters, ticks: int) -> int:
    return round(at * ticks)


def _track(events: list[_Event], name: str) -> mido.MidiTrack:
    track = mido.MidiTrack([mido.MetaMessage("track_name", name=name, time=0)])
    now = 0
    for tick, _, message in sorted(events, key=lambda event: event[:2]):
        track.append(message.copy(time=tick - now))
        now = tick
    return track


def _conductor(score: Score, ticks: int, bpm: Bpm | None) -> list[_Event]:
    events: list[_Event] = []
    signature = None
    for measure in score.measures:
        if measure.signature != signature:
            signature = measure.signature
            denominator = signature.beat_type
            message = mido.MetaMessage("time_signature", numerator=signature.beats, denominator=denominator)
            events.append((_tick(measure.start_quarters, ticks), 0, message))
    for mark in score.marks:
        if mark.kind is MarkKind.KEY and -7 <= int(mark.text) <= 7:
            key = mido.MetaMessage("key_signature", key=_KEYS[int(mark.text) + 7])
            events.append((_tick(mark.onset_quarters, ticks), 1, key))
        elif mark.kind is MarkKind.CUE:
            events.append((_tick(mark.onset_quarters, ticks), 1, mido.MetaMessage("cue_marker", text=mark.text)))
    tempos = [(t.onset_quarters, t.bpm * float(t.beat_quarters)) for t in score.tempos] if bpm is None else []
    if not tempos or tempos[0][0] > 0:
        tempos.insert(0, (score.measures[0].start_quarters, bpm or (tempos[0][1] if tempos else UNMARKED_BPM)))
    for at, quarters in tempos:
        events.append((_tick(at, ticks), 2, mido.MetaMessage("set_tempo", tempo=round(60e6 / quarters))))
    return events


def sounding_notes(score: Score, hand: Hand) -> list[tuple[Note, Quarters]]:
    """Every struck note of a hand with where it stops sounding, ties followed."""
    open_at: dict[int | None, int] = {}
    result: list[tuple[Note, Quarters]] = []
    for note in score.notes:
        if note.hand is not hand or note.is_grace:
            continue
        index = open_at.get(note.pitch)
        if note.tied_from_before and index is not None and result[index][1] == note.onset_quarters:
            result[index] = (result[index][0], note.end_quarters)
        else:
            open_at[note.pitch] = len(result)
            result.append((note, note.end_quarters))
    return result


def _strikes(score: Score, hand: Hand, channel: int, ticks: int) -> list[_Event]:
    events: list[_Event] = []
    sounding = sounding_notes(score, hand)
    following: dict[int, Quarters] = {}
    for note, end in reversed(sounding):
        pitch = 60 if note.pitch is None else note.pitch
        # A key struck again while it is held is let go first.
        stop = min(end, following.get(pitch, end))
        following[pitch] = note.onset_quarters
        start_tick = _tick(note.onset_quarters, ticks)
        stop_tick = max(start_tick + 1, _tick(stop, ticks))
        events.append((start_tick, 3, mido.Message("note_on", channel=channel, note=pitch, velocity=VELOCITY)))
        events.append((stop_tick, 1, mido.Message("note_off", channel=channel, note=pitch, velocity=0)))
    return events


def _pedal(score: Score, channel: int, ticks: int) -> list[_Event]:
    """The damper pedal (controller 64), which holds the notes of both hands; up before it goes down again."""
    events: list[_Event] = []
    for mark in score.marks:
        if mark.kind is MarkKind.PEDAL and mark.end_quarters is not None:
            for at, order, value in ((mark.onset_quarters, 2, 127), (mark.end_quarters, 0, 0)):
                message = mido.Message("control_change", channel=channel, control=64, value=value)
                events.append((_tick(at, ticks), order, message))
    return events


def _counts(score: Score, ticks: int, choices: CountChoices | None) -> list[_Event]:
    counted = count_line(score, None, choices)
    return [
        (
            _tick(bar.measure.start_quarters + count.offset_quarters, ticks),
            0,
            mido.MetaMessage("lyrics", text=count.say + " "),
        )
        for bar, counts in zip(counted.by, counted.bars, strict=True)
        for count in counts
        if count.say
    ]
