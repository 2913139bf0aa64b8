"""A schedule as a sound file (WAV), or as MIDI: percussion for clicks, drums and knocks, notes for tones, the count as
lyrics.

The samples are those that the browser plays. Every sound begins at the sample nearest to its time (within 23 µs); a
word begins so much earlier that its vowel falls on it. The file has ``LEAD_S`` of silence before the schedule's zero,
so that the first word has room. Source: General MIDI level 1 for the keys of percussion.
"""

from __future__ import annotations

import io
from collections.abc import Mapping

import mido
import numpy as np

from laptick.core.base.errors import LimitError
from laptick.core.base.units import Seconds
from laptick.core.play_along.rounds import LONGEST_S
from laptick.core.play_along.schedule import Schedule, Sound, Track
from laptick.core.play_along.scheduling import VOICE
from laptick.formats.sound.kit import KIT, render_tone
from laptick.formats.sound.sound_pack import PACK_RATE, wav_bytes
from laptick.formats.sound.voices import VoiceBank

#: Silence before the schedule's zero, and room after its end for what still sounds.
LEAD_S: Seconds = 0.25
TAIL_S: Seconds = 0.5

#: Nothing is louder than this share of full scale.
CEILING = 0.89

#: How loud each track is where nobody chose; the browser's levels start here too.
MIX: dict[Track, float] = {
    Track.CLICK: 0.6,
    Track.STRIKE: 1.0,
    Track.HOLD: 1.0,
    Track.REST: 1.0,
    Track.BACKING: 0.6,
    Track.RIGHT: 0.8,
    Track.LEFT: 0.8,
    Track.CUE: 1.0,
}


def sound_wav(schedule: Schedule, bank: VoiceBank, levels: Mapping[Track, float] = MIX) -> bytes:
    """Mono, 16 bit. ``levels``: the tracks that are heard, 0 to 1.

    Raises:
        LimitError: longer than the stated limit.
    """
    _check(schedule)
    samples = np.zeros(int(np.ceil((LEAD_S + schedule.end_s + TAIL_S) * PACK_RATE)))
    made: dict[tuple[str, float], tuple[np.ndarray, Seconds]] = {}
    for sound in _heard(schedule, levels):
        key = (sound.sound, round(sound.length_s, 6) if sound.sound.startswith("tone:") else 0.0)
        if key not in made:
            made[key] = _samples(sound, bank)
        wave, beat_s = made[key]
        begin = round((LEAD_S + sound.at_s - beat_s) * PACK_RATE)
        wave = wave[max(0, -begin) : len(samples) - begin]
        begin = max(0, begin)
        samples[begin : begin + len(wave)] += wave * sound.level * levels[sound.track]
    loudest = float(np.max(np.abs(samples))) if len(samples) else 0.0
    if loudest > CEILING:
        samples *= CEILING / loudest
    return wav_bytes(samples, PACK_RATE)


def _samples(sound: Sound, bank: VoiceBank) -> tuple[np.ndarray, Seconds]:
    if sound.sound.startswith("tone:"):
        return render_tone(int(sound.sound[5:]), sound.length_s, PACK_RATE), 0.0
    return bank.samples(sound.sound)


def _heard(schedule: Schedule, levels: Mapping[Track, float]) -> list[Sound]:
    return [sound for sound in schedule.sounds if levels.get(sound.track, 0) > 0]


def _check(schedule: Schedule) -> None:
    if schedule.end_s > LONGEST_S * 1.1:
        raise LimitError(
            f"that would be {schedule.end_s / 60:.0f} minutes of sound; up to {LONGEST_S / 60:.0f} are made.",
            where="measures",
            todo="Choose a shorter passage, fewer rounds, or a faster tempo.",
        )


#: Ticks in a second: the file has one tempo, and its times are the schedule's.
TICKS_PER_QUARTER, QUARTER_US = 960, 500_000

#: Channels, counted from 0.
CHANNELS: dict[Track, int] = {Track.RIGHT: 0, Track.LEFT: 1}
PERCUSSION = 9

#: How long a struck drum is held, in ticks.
STRUCK_TICKS = 60


def sound_midi(schedule: Schedule, levels: Mapping[Track, float] = MIX) -> bytes:
    """The same as notes; the words of the count are lyrics where the voice is heard.

    Raises:
        LimitError: longer than the stated limit.
    """
    _check(schedule)
    per_s = TICKS_PER_QUARTER * 1_000_000 / QUARTER_US
    messages: list[tuple[int, int, mido.Message | mido.MetaMessage]] = []
    for sound in _heard(schedule, levels):
        tick = round(sound.at_s * per_s)
        if sound.sound.startswith("tone:"):
            channel, key, held = CHANNELS[sound.track], int(sound.sound[5:]), round(sound.length_s * per_s)
        elif sound.sound in KIT:
            channel, key, held = PERCUSSION, KIT[sound.sound].midi_key, STRUCK_TICKS
        else:
            continue
        velocity = max(1, min(127, round(127 * sound.level * levels[sound.track])))
        messages.append((tick, 1, mido.Message("note_on", channel=channel, note=key, velocity=velocity)))
        messages.append((tick + max(1, held), 0, mido.Message("note_off", channel=channel, note=key, velocity=0)))
    if any(levels.get(track, 0) > 0 for track in VOICE):
        for word in schedule.words:
            messages.append((round(word.at_s * per_s), 0, mido.MetaMessage("lyrics", text=f"{word.say} ")))
    midi = mido.MidiFile(type=0, ticks_per_beat=TICKS_PER_QUARTER, charset="utf-8")
    track = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=QUARTER_US, time=0)])
    now = 0
    for tick, _, message in sorted(messages, key=lambda one: one[:2]):
        track.append(message.copy(time=tick - now))
        now = tick
    midi.tracks.append(track)
    out = io.BytesIO()
    midi.save(file=out)
    return out.getvalue()
