"""Sound files of every kind a phone or a browser makes, decoded by a process of its own.

``ffmpeg`` (Debian's) reads what somebody sent, in a process with limits on time, memory and what comes out, that may
open that one file and nothing else: a broken or hostile file can end that process, not the one that asked. What comes
out is mono at the ear's rate. A file that breaks off is decoded as far as it goes.
"""

from __future__ import annotations

import json
import re
import shutil
import subprocess
import tempfile
import threading
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from laptick.core.base.errors import LimitError, TakeError
from laptick.core.hearing.sound import LONGEST_S, LOWEST_RATE, RATE, SHORTEST_S, Sound

#: What is read: the containers, as the decoder calls them.
CONTAINERS = "wav,w64,aiff,caf,flac,ogg,mp3,matroska,webm,mov,mp4,m4a,3gp,aac,amr"

#: Limits on the decoder.
MOST_BYTES = 256 * 2**20
MEMORY_BYTES = 2 * 2**30
CPU_S, WALL_S = 60, 90.0

#: Of what the decoder says so much is kept, of its beginning and of its end.
SAID_BYTES = 16_384

_KEPT = "Nothing was changed."
_OTHER = "Send another recording: WAV, FLAC, MP3, Ogg, webm or m4a."


@dataclass(frozen=True)
class Decoded:
    """``rate``, ``channels``, ``codec``: of the file; ``breaks_off``: it ended in the middle of something."""

    sound: Sound
    rate: int
    channels: int
    codec: str
    breaks_off: bool


def decode(data: bytes, *, filename: str = "the recording") -> Sound:
    """The sound of a file; errors as ``decode_file``."""
    with tempfile.NamedTemporaryFile(prefix="laptick-", suffix=".sound") as file:
        file.write(data)
        file.flush()
        return decode_file(Path(file.name), filename=filename).sound


def decode_file(path: Path, *, filename: str = "the recording") -> Decoded:
    """The sound of a file.

    Raises:
        TakeError: there is no sound in it that can be read.
        LimitError: it is too large, too long, or takes too much to decode.
    """
    if path.stat().st_size > MOST_BYTES:
        raise LimitError(f"this recording is larger than {MOST_BYTES // 2**20} MB.", where=filename, kept=_KEPT)
    read = _at_once(path, filename) or _looked_at_first(path, filename)
    wanted = _wanted(read.rate)
    samples = np.frombuffer(read.out[: len(read.out) // 4 * 4], np.float32)
    if not np.isfinite(samples).all():
        samples = np.nan_to_num(samples, nan=0.0, posinf=1.0, neginf=-1.0)
    if len(samples) < SHORTEST_S * wanted:
        raise TakeError("there is less than half a second of sound in it.", where=filename, kept=_KEPT, todo=_OTHER)
    if len(samples) > LONGEST_S * wanted:
        raise LimitError(
            f"this recording is longer than {LONGEST_S / 60:.0f} minutes.",
            where=filename,
            kept=_KEPT,
            todo="Record one piece at a time, or cut it.",
        )
    return Decoded(Sound(samples, wanted), read.rate, read.channels, read.codec[:40], read.breaks_off)


@dataclass(frozen=True)
class _Read:
    """What came out of a file, floats as bytes, and what it says of itself."""

    out: bytes
    rate: int
    channels: int
    codec: str
    breaks_off: bool


def _wanted(rate: int) -> int:
    """The rate that a sound of this rate is worked on at."""
    return RATE if rate >= RATE else max(rate, LOWEST_RATE)


#: What the decoder says of the first sound of a file (codec, rate, channels), and what it complains of.
_TOLD = re.compile(r"^\[info\]\s+Stream #0:\d+[^ \n]*: Audio: (\w+)[^\n]*?, (\d+) Hz, ([^,\n]+)", re.MULTILINE)
_COMPLAINT = re.compile(r"^(?:\[[^\]\n]+ @ [^\]\n]+\] )?\[(?:error|fatal|panic)\]", re.MULTILINE)


def _at_once(path: Path, filename: str) -> _Read | None:
    """A sound as most are, of one channel or two and not of a low rate, decoded and told of by one process: starting
    another takes longer than a short sound does. ``None``: it is another one, or none."""
    how = ["-nostats", "-map", "0:a:0", "-t", f"{LONGEST_S + 1:g}"]
    how += ["-af", "pan=mono|c0=0.5*FL+0.5*FR+FC,aresample=resampler=soxr", "-ar", str(RATE), "-f", "f32le", "pipe:1"]
    words = ["-nostdin", *opening(path, "level+info"), *how]
    out, said = run_limited("ffmpeg", words, most_bytes=int((LONGEST_S + 2) * RATE * 4), filename=filename)
    told = _TOLD.search(said)
    channels = {"mono": 1, "stereo": 2}.get(told[3]) if told else None
    if told is None or channels is None or not out or int(told[2]) < RATE:
        return None
    return _Read(out, int(told[2]), channels, told[1], _COMPLAINT.search(said) is not None)


def _looked_at_first(path: Path, filename: str) -> _Read:
    """Any sound: what it is decides how it is decoded."""
    stream = _stream(path, filename)
    channels, rate = int(stream.get("channels") or 1), int(stream.get("sample_rate") or 0)
    out, complaint = _decoded(path, (_wanted(rate), channels), filename)
    return _Read(out, rate, channels, str(stream.get("codec_name", "")), bool(complaint))


def _stream(path: Path, filename: str) -> dict[str, Any]:
    """What the file says of its first sound."""
    asked = ["-show_entries", "stream=codec_name,sample_rate,channels", "-select_streams", "a:0", "-of", "json"]
    run = run_limited("ffprobe", [*opening(path), *asked], most_bytes=65_536, filename=filename)
    try:
        streams = json.loads(run[0])["streams"]
    except (ValueError, KeyError, TypeError):
        streams = []
    if not streams or not str(streams[0].get("sample_rate", "")).isdecimal():
        raise TakeError("this is no sound that can be read.", where=filename, kept=_KEPT, todo=_OTHER)
    first: dict[str, Any] = streams[0]
    return first


def _decoded(path: Path, wanted: tuple[int, int], filename: str) -> tuple[bytes, str]:
    """``wanted``: the rate, and the channels there are: two are meant, of more the first two."""
    rate, channels = wanted
    mono = "pan=mono|c0=0.5*c0+0.5*c1" if channels > 1 else "aformat=channel_layouts=mono"
    how = ["-map", "0:a:0", "-t", f"{LONGEST_S + 1:g}", "-af", f"{mono},aresample=resampler=soxr"]
    how += ["-ar", str(rate), "-f", "f32le", "pipe:1"]
    most = int((LONGEST_S + 2) * rate * 4)
    return run_limited("ffmpeg", ["-nostdin", *opening(path), *how], most_bytes=most, filename=filename)


def opening(path: Path, says: str = "error") -> list[str]:
    """How the decoder is to open a file: that one, of the kinds listed. ``says``: how much it tells meanwhile."""
    return ["-hide_banner", "-v", says, "-protocol_whitelist", "file,pipe", "-format_whitelist", CONTAINERS,
            "-threads", "1", "-i", f"file:{path}"]  # fmt: skip


def run_limited(program: str, words: list[str], *, most_bytes: int, filename: str) -> tuple[bytes, str]:
    """What a program of the decoder writes, and what it says or complains of, the beginning and the end.

    Raises:
        LimitError: it ended at a limit.
        TakeError: it is not installed.
    """
    if shutil.which(program) is None:
        raise TakeError(
            "recordings cannot be read here: the decoder (ffmpeg) is not installed.",
            where=filename,
            kept=_KEPT,
            todo="Install it with apt-get install ffmpeg, or start with ./laptick, which does.",
        )
    limits = [f"--as={MEMORY_BYTES}", f"--cpu={CPU_S}", "--fsize=0", "--core=0"]
    words = [word for word in words if program == "ffmpeg" or word not in ("-threads", "1")]
    process = subprocess.Popen(
        ["prlimit", *limits, program, *words],
        stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        env={"PATH": "/usr/bin:/bin", "LC_ALL": "C"},
    )
    assert process.stdout is not None
    assert process.stderr is not None
    stderr = process.stderr
    said, last_said = bytearray(), bytearray()

    def listen() -> None:
        for some in iter(lambda: stderr.read(4096), b""):
            (said if len(said) < SAID_BYTES else last_said).extend(some)
            del last_said[:-SAID_BYTES]

    listener = threading.Thread(target=listen, daemon=True)
    listener.start()
    late = threading.Timer(WALL_S, process.kill)
    late.start()
    try:
        out = process.stdout.read(most_bytes)
        is_over = bool(process.stdout.read(1))
        if is_over:
            process.kill()
        code = process.wait()
    finally:
        late.cancel()
        if process.poll() is None:
            process.kill()
            process.wait()
        listener.join()
        process.stdout.close()
        stderr.close()
    if code < 0 and not is_over:
        raise LimitError(
            "this recording takes too much to decode.", where=filename, kept=_KEPT, todo="Send it in another format."
        )
    return out, (said + last_said).decode(errors="replace")
