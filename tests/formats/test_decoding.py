"""Sound files of every kind, whole and broken, through the decoder's own process. Encoders are those of Debian's
ffmpeg and libsndfile, none of ours."""

from __future__ import annotations

import contextlib
import io
import subprocess
import time

import numpy as np
import pytest
import soundfile

from laptick.core.base.errors import LapTickError, LimitError, TakeError
from laptick.core.hearing.sound import RATE
from laptick.formats.audio import decoding
from laptick.formats.audio.decoding import decode, decode_file
from laptick.formats.take_files import is_sound

SECONDS = 3.0


def wav(rate: int = 44_100, channels: int = 1, seconds: float = SECONDS) -> bytes:
    """A tone of 440 Hz that begins after a second of silence."""
    at = np.arange(int(rate * seconds)) / rate
    tone = 0.4 * np.sin(2 * np.pi * 440 * at) * (at >= 1.0)
    out = io.BytesIO()
    soundfile.write(out, np.repeat(tone[:, None], channels, axis=1), rate, format="WAV")
    return out.getvalue()


def encoded(suffix: str, *how: str, folder) -> bytes:
    source, out = folder / "tone.wav", folder / f"encoded{suffix}"
    source.write_bytes(wav())
    subprocess.run(["ffmpeg", "-nostdin", "-v", "error", "-y", "-i", str(source), *how, str(out)], check=True)
    return out.read_bytes()


KINDS = [
    (".wav", ()),
    (".flac", ()),
    (".mp3", ("-b:a", "96k")),
    (".ogg", ("-c:a", "libvorbis")),
    (".opus", ("-c:a", "libopus")),
    (".webm", ("-c:a", "libopus")),
    (".m4a", ("-c:a", "aac")),
    (".aiff", ()),
    (".caf", ()),
]


@pytest.mark.parametrize(("suffix", "how"), KINDS)
def test_every_kind_is_decoded_with_its_beginning_where_it_was(suffix, how, tmp_path):
    data = encoded(suffix, *how, folder=tmp_path)
    assert is_sound(data)
    sound = decode(data)
    assert sound.rate == RATE
    assert sound.seconds == pytest.approx(SECONDS, abs=0.06)
    begins = int(np.argmax(np.abs(sound.samples) > 0.2)) / sound.rate
    assert begins == pytest.approx(1.0, abs=0.004)
    spectrum = np.abs(np.fft.rfft(sound.samples))
    assert np.fft.rfftfreq(len(sound.samples), 1 / RATE)[int(np.argmax(spectrum))] == pytest.approx(440, abs=1)


@pytest.mark.parametrize(("rate", "heard"), [(8_000, 8_000), (16_000, 16_000), (48_000, RATE), (96_000, RATE)])
def test_low_rates_stay_as_they_are(rate, heard):
    assert decode(wav(rate)).rate == heard


def test_two_channels_become_one(tmp_path):
    path = tmp_path / "two.wav"
    path.write_bytes(wav(channels=2))
    found = decode_file(path)
    assert (found.channels, found.rate, found.codec) == (2, 44_100, "pcm_s16le")
    assert not found.breaks_off
    assert np.abs(found.sound.samples).max() == pytest.approx(0.4, abs=0.02)


@pytest.mark.parametrize("kept", [1.0, 0.7])
@pytest.mark.parametrize("channels", ["1", "2"])
@pytest.mark.parametrize(("suffix", "how"), KINDS)
def test_decoded_at_once_it_is_what_it_is_looked_at_first(suffix, how, channels, kept, tmp_path):
    """By one process or by two: the same samples, told of alike, whole and cut off."""
    data = encoded(suffix, *how, "-ac", channels, folder=tmp_path)
    path = tmp_path / f"cut{suffix}"
    path.write_bytes(data[: int(kept * len(data))])
    at_once = decoding._at_once(path, "it")
    if at_once is None:
        assert (suffix, kept) == (".m4a", 0.7)
        return
    looked_at = decoding._looked_at_first(path, "it")
    assert at_once == looked_at
    assert (at_once.channels, bool(at_once.out)) == (int(channels), True)


@pytest.mark.parametrize(("rate", "channels"), [(16_000, 1), (44_100, 6)])
def test_a_low_rate_and_many_channels_are_looked_at_first(rate, channels, tmp_path):
    path = tmp_path / "odd.wav"
    path.write_bytes(wav(rate, channels))
    assert decoding._at_once(path, "it") is None
    assert (decode_file(path).channels, decode_file(path).rate) == (channels, rate)


def test_what_a_file_calls_itself_is_not_what_it_is(tmp_path):
    """A title that looks like what the decoder says of a sound."""
    title = "x\n[info]   Stream #0:0: Audio: opus, 96000 Hz, stereo, fltp"
    data = encoded(".flac", "-metadata", f"title={title}", "-metadata", "comment=[error] broken", folder=tmp_path)
    path = tmp_path / "titled.flac"
    path.write_bytes(data)
    found = decode_file(path)
    assert (found.codec, found.rate, found.channels, found.breaks_off) == ("flac", 44_100, 1, False)


@pytest.mark.parametrize("suffix", [".webm", ".mp3", ".ogg", ".flac", ".wav"])
def test_what_breaks_off_is_heard_as_far_as_it_goes(suffix, tmp_path):
    data = encoded(suffix, folder=tmp_path)
    sound = decode(data[: int(0.8 * len(data))])
    assert 1.5 < sound.seconds < SECONDS + 0.1


def test_an_m4a_that_breaks_off_is_refused_in_words(tmp_path):
    data = encoded(".m4a", "-c:a", "aac", folder=tmp_path)
    with pytest.raises(TakeError) as told:
        decode(data[: len(data) // 2], filename="take.m4a")
    assert told.value.where == "take.m4a"
    assert told.value.todo


@pytest.mark.parametrize(
    "data",
    [b"", b"RIFF", b"not a sound at all" * 100, b"OggS" + bytes(5000), b"\x1aE\xdf\xa3" + bytes(range(256)) * 20,
     b"ftypM4A " * 50, b"#EXTM3U\nfile:///etc/passwd\n", b"ffconcat version 1.0\nfile /etc/passwd\n",
     b"<?xml version='1.0'?><MPD/>"],
)  # fmt: skip
def test_what_is_no_sound_is_refused(data):
    with pytest.raises(TakeError):
        decode(data)


def test_a_list_that_names_other_files_opens_none(tmp_path):
    """The decoder reads that one file: playlists of others are no sound."""
    (tmp_path / "tone.wav").write_bytes(wav())
    for text in (f"#EXTM3U\n#EXTINF:3,\n{tmp_path}/tone.wav\n", f"ffconcat version 1.0\nfile {tmp_path}/tone.wav\n"):
        with pytest.raises(TakeError):
            decode(text.encode())


def test_a_moment_is_too_short():
    with pytest.raises(TakeError, match="half a second"):
        decode(wav(seconds=0.2))


def test_longer_than_a_lesson_is_refused(monkeypatch):
    monkeypatch.setattr(decoding, "LONGEST_S", 2.0)
    with pytest.raises(LimitError, match="longer than"):
        decode(wav())


def test_larger_than_may_be_is_refused(monkeypatch, tmp_path):
    monkeypatch.setattr(decoding, "MOST_BYTES", 1000)
    with pytest.raises(LimitError, match="larger than"):
        decode(wav())


def test_a_decoder_that_hangs_is_ended(monkeypatch):
    monkeypatch.setattr(decoding, "WALL_S", 0.3)
    monkeypatch.setattr(decoding, "_at_once", lambda path, name: decoding.run_limited(
        "ffmpeg", ["-nostdin", "-v", "error", "-f", "lavfi", "-re", "-i", "sine", "-t", "60", "-f", "f32le", "pipe:1"],
        most_bytes=2**30, filename=name))  # fmt: skip
    begun = time.monotonic()
    with pytest.raises(LimitError, match="too much to decode"):
        decode(wav())
    assert time.monotonic() - begun < 20


def test_a_missing_decoder_is_said(monkeypatch):
    monkeypatch.setattr(decoding.shutil, "which", lambda name: None)
    with pytest.raises(TakeError, match="ffmpeg"):
        decode(wav())


@pytest.mark.parametrize("seed", range(4))
def test_mutated_files_end_in_words_or_sound(seed, tmp_path):
    """25 each of four kinds; ``benchmarks/hearing/fuzz_sounds.py`` does thousands."""
    suffix, how = KINDS[(0, 2, 5, 6)[seed]]
    data = encoded(suffix, *how, folder=tmp_path)
    rng = np.random.default_rng(seed)
    for _ in range(25):
        changed = bytearray(data)
        for at in rng.integers(0, len(data), size=int(rng.integers(1, 60))):
            changed[at] = int(rng.integers(256))
        changed = changed[: int(rng.integers(len(data) // 4, len(data) + 1))]
        with contextlib.suppress(LapTickError):
            sound = decode(bytes(changed))
            assert np.isfinite(sound.samples).all()
            assert sound.seconds <= 1200
