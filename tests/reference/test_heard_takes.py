"""Takes sounded by an instrument of others, spoilt and encoded, and heard: the short version of
``benchmarks/hearing/accuracy.py``, on seeds of its own.

Sound: fluidsynth with TimGM6mb (Debian), encoders of Debian's ffmpeg. Scoring of onsets: mir_eval. The least asked of
single takes is below the means the benchmark asks for: two takes of a condition say little about a share.
"""

from __future__ import annotations

import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
sys.path.append(str(ROOT))

from benchmarks.hearing import accuracy  # noqa: E402
from benchmarks.hearing.accuracy import Case, scored, take_of  # noqa: E402

from laptick.core.following.by_ear.take import hear_take  # noqa: E402
from laptick.core.measuring.checking import check_take  # noqa: E402
from laptick.formats.audio.decoding import decode  # noqa: E402

SEED = 77

#: Condition → least F of onsets, of matching without errors, and with 5 % of them.
LEAST = {
    "clean": (0.93, 0.98, 0.95),
    "room": (0.90, 0.97, 0.94),
    "phone": (0.90, 0.97, 0.93),
    "noise 10 dB": (0.88, 0.95, 0.92),
    "click −6 dB": (0.90, 0.97, 0.93),
    "opus, webm": (0.93, 0.98, 0.95),
}


@pytest.fixture(autouse=True)
def _one_font(monkeypatch, tmp_path_factory):
    monkeypatch.setattr(accuracy, "fonts", lambda: ["small font"])
    monkeypatch.setattr(accuracy, "CACHE", tmp_path_factory.getbasetemp() / "heard")


@pytest.mark.parametrize("number", [0, 3])
@pytest.mark.parametrize("name", list(LEAST))
def test_a_take_is_heard(name, number):
    onset_f, matching_f, with_errors = LEAST[name]
    found = scored(Case(name, number, SEED))
    assert found.followed
    assert found.onset_f >= onset_f
    assert found.matching_f >= (with_errors if found.errors else matching_f)
    assert found.tempo_percent < 0.5


@pytest.mark.parametrize("other", [1, 2, 3])
def test_another_piece_cannot_be_followed(other):
    """Pieces 0, 2, 4, 6 are four kinds; each played, and heard as another."""
    played, asked = take_of(Case("clean", 0, SEED)), take_of(Case("clean", 2 * other, SEED))
    take = hear_take(decode(played.data), asked.playing.task, rate=44_100)
    assert take.heard is not None
    assert not take.heard.is_recognised
    assert not check_take(asked.playing.task, take).followed
