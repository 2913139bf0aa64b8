"""Sound files of every kind a phone or a browser makes, decoded by a process of its own.

``ffmpeg`` (Debian's) reads what somebody sent, in a process with limits on time, memory and what comes out, that may
open that one file and nothing else: a broken or hostile file can end that process, not the one that asked. What comes
out is mono at the ear's rate. A file that breaks off is decoded as far as it goes.
"""

from __future__ import annotations

import json
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
    stream = _stream(path, filename)
    channels = int(stream.get("channels") or 1)
    rate = int(stream.get("sample_rate") or 0)
    wanted = RATE if rate >= RATE else max(rate, LOWEST_RATE)
    out, complaint = _decoded(path, (wanted, channels), filename)
    samples = np.frombuffer(out[: len(out) // 4 * 4], np.float32)
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
    codec = str(stream.get("codec_name", ""))[:40]
    return Decoded(Sound(samples, wanted), rate, channels, codec, bool(complaint))


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


def opening(path: Path) -> list[str]:
    """How the decoder is to open a file: that one, of the kinds listed."""
    return ["-hide_banner", "-v", "error", "-protocol_whitelist", "file,pipe", "-format_whitelist", CONTAINERS,
            "-threads", "1", "-i", f"file:{path}"]  # fmt: skip


def run_limited(program: str, words: list[str], *, most_bytes: int, filename: str) -> tuple[bytes, str]:
    """What a program of the decoder writes, and what it complains of.

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
    complaints: list[bytes] = []
    stderr = process.stderr
    listener = threading.Thread(target=lambda: complaints.extend(iter(lambda: stderr.read(4096), b"")), daemon=True)
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
    return out, b"".join(complaints)[:2000].decode(errors="replace")
