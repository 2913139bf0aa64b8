"""A copy of a recording that every browser plays from any place: MP3 of a constant rate, so that a place in time is one
in bytes. Left: what was recorded; right: the click of its beat. They are two channels of one file, so that nothing a
browser does moves one against the other.
"""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import soundfile

from laptick.core.base.errors import TakeError
from laptick.core.base.units import Seconds
from laptick.core.hearing.sound import LONGEST_S, RATE
from laptick.core.takes.beat_times import BeatTime
from laptick.formats.audio.decoding import opening, run_limited

#: Bits a second, for both channels; what comes out is at most this long, and some more for the frames.
BITS = 128_000
MOST_BYTES = int(BITS / 8 * (LONGEST_S + 5))

#: The encoder and a decoder delay everything by so many samples, which are taken off before.
DELAY = 1105

#: The click: a tone that dies away, higher where a bar begins.
CLICK_S: Seconds = 0.12
FIRST_HERTZ, HERTZ, DECAY_S, LOUDNESS = 1900.0, 1420.0, 0.025, 0.5


def playback_of(path: Path, seconds: Seconds, beats: Sequence[BeatTime], *, filename: str = "the recording") -> bytes:
    """The copy of a sound file of so many seconds.

    Raises:
        TakeError: there is no sound in it that can be read.
        LimitError: it takes too much to decode.
    """
    with tempfile.TemporaryDirectory(prefix="laptick-click-") as folder:
        click = Path(folder) / "click.wav"
        soundfile.write(click, _clicks(seconds, beats), RATE, subtype="PCM_16")
        both = (
            "[0:a:0]aformat=channel_layouts=stereo,aresample=44100,pan=mono|c0=0.5*c0+0.5*c1[left];"
            "[1:a:0]aresample=44100[right];"
            f"[left][right]join=inputs=2:channel_layout=stereo,atrim=start_sample={DELAY},asetpts=PTS-STARTPTS[out]"
        )
        how = ["-filter_complex", both]
        how += ["-map", "[out]", "-t", f"{LONGEST_S:g}", "-c:a", "libmp3lame", "-b:a", str(BITS), "-joint_stereo", "0"]
        how += ["-write_xing", "0", "-id3v2_version", "0", "-f", "mp3", "pipe:1"]
        words = ["-nostdin", *opening(path), "-i", f"file:{click}", *how]
        data, _ = run_limited("ffmpeg", words, most_bytes=MOST_BYTES, filename=filename)
    if not data:
        raise TakeError("no copy of this recording could be made.", where=filename, kept="The recording is kept.")
    return data


def _clicks(seconds: Seconds, beats: Sequence[BeatTime]) -> np.ndarray:
    samples = np.zeros(int((seconds + 1) * RATE), np.float32)
    at = np.arange(int(CLICK_S * RATE)) / RATE
    for beat in beats:
        hertz = FIRST_HERTZ if beat.begins_bar else HERTZ
        wave = LOUDNESS * np.sin(2 * np.pi * hertz * at) * np.exp(-at / DECAY_S)
        begin = int(beat.at_s * RATE)
        if begin < len(samples):
            samples[begin : begin + len(wave)] += wave[: len(samples) - begin].astype(np.float32)
    return np.clip(samples, -1, 1)
