"""The command line: documents as in the agreed interface, exit codes, one line on errors."""

from __future__ import annotations

import json
import subprocess
import sys

import numpy as np
import pytest
import soundfile

from helpers import demo_bytes
from laptick.cli import main
from laptick.formats.take_files import read_take


@pytest.fixture
def score(tmp_path):
    path = tmp_path / "harbour.musicxml"
    path.write_bytes(demo_bytes("harbour-steps"))
    return str(path)


def run(capsys, *arguments):
    code = main(list(arguments))
    out, err = capsys.readouterr()
    return code, out, err


def document(capsys, *arguments):
    code, out, err = run(capsys, *arguments, "--json")
    assert (code, err) == (0, "")
    return json.loads(out)


def test_count(capsys, score):
    counted = document(capsys, "count", score)
    assert {"system", "density", "compound", "measures", "count_in", "syncopations", "rests", "changes"} <= set(counted)
    first = counted["measures"][0]
    assert (first["number"], first["time_signature"], first["beat_quarters"]) == ("1", "4/4", "1")
    assert set(first["hands"]) == {"right", "left", "both"}
    assert first["hands"]["right"][2] == {"offset": "3/2", "say": "&", "kind": "strike"}
    assert counted["count_in"][0] == {"say": "1", "offset": "-4"}
    assert counted["syncopations"][0] == {
        "measure": "2", "offset": "1/2", "hand": "right", "strength": 1, "name": "off-beat held over 2",
        "silent": {"measure": "2", "offset": "1"}, "taught": True,
    }  # fmt: skip
    [rest] = counted["rests"]
    assert [rest[key] for key in ("measure", "offset", "hand", "quarters")] == ["4", "3", "right", "1"]
    assert (rest["say"], rest["length"], rest["entry"]) == ("4", "quarter", {"measure": "5", "offset": "0"})


def test_count_of_one_hand_and_some_measures(capsys, score):
    counted = document(capsys, "count", score, "--hand", "left", "--measures", "3-4", "--density", "steady")
    assert [m["number"] for m in counted["measures"]] == ["3", "4"]
    assert set(counted["measures"][0]["hands"]) == {"left"}


@pytest.mark.parametrize("ending", ["json", "mid"])
def test_simulate_then_check(capsys, score, tmp_path, ending):
    take = str(tmp_path / f"take.{ending}")
    assert run(capsys, "simulate", score, "-o", take, "--seed", "4", "--skill", "advanced", "--tempo", "72")[0] == 0
    checked = document(capsys, "check", score, take, "--tempo", "72", "--level", "advanced")
    assert checked["followed"]
    assert checked["source"] == {"json": "taps", "mid": "midi"}[ending]
    assert checked["verdict"]["status"] == "steady"
    assert checked["matched"] == 58
    assert (checked["missing"], checked["extra"], checked["findings"]) == ([], [], [])
    assert checked["tempo"]["assigned_bpm"] == 72
    wanted = {
        "followed", "source", "matched", "missing", "extra", "restarts", "tempo", "notes", "evenness", "ratios",
        "long_notes", "rests", "together", "hesitations", "findings", "verdict", "withheld",
    }  # fmt: skip
    assert wanted <= set(checked)
    note = checked["notes"][0]
    assert (note["measure"], note["offset"], note["pass"]) == ("1", "0", 1)
    assert (note["click_deviation_ms"] is None) == (ending == "mid")
    held_back = {w["what"] for w in checked["withheld"]}
    assert ("touch" in held_back, "click_deviation_ms" in held_back) == (ending == "json", ending == "mid")


def test_the_student_is_written_as_sound_with_the_strikes_of_the_same_take_as_midi(capsys, score, tmp_path):
    for ending in ("wav", "mid"):
        assert run(capsys, "simulate", score, "-o", str(tmp_path / f"take.{ending}"), "--seed", "4")[0] == 0
    samples, rate = soundfile.read(tmp_path / "take.wav")
    strikes = read_take((tmp_path / "take.mid").read_bytes(), filename="take.mid").strikes
    first, last = strikes[0].played_s, strikes[-1].played_s
    assert np.abs(samples[: int((first - 0.01) * rate)]).max(initial=0.0) == 0
    assert np.abs(samples[int(first * rate) :][: rate // 20]).max() > 0.05
    assert len(samples) / rate == pytest.approx(last + 1.5, abs=0.01)


def test_the_same_seed_writes_the_same_file(capsys, score, tmp_path):
    paths = [tmp_path / name for name in ("a.json", "b.json", "c.json")]
    for path, seed in zip(paths, "112", strict=True):
        run(capsys, "simulate", score, "-o", str(path), "--seed", seed, "--fault", "jitter=30", "miss=5")
    assert paths[0].read_bytes() == paths[1].read_bytes() != paths[2].read_bytes()


def test_faults_tempo_units_and_findings(capsys, tmp_path):
    piece = tmp_path / "boat.musicxml"
    piece.write_bytes(demo_bytes("lantern-boat"))
    take = tmp_path / "take.json"
    run(capsys, "simulate", str(piece), "-o", str(take), "--fault", "hesitate=5:1.5", "--tempo", "50")
    checked = document(capsys, "check", str(piece), str(take), "--tempo", "150", "--tempo-unit", "eighth")
    assert (checked["tempo"]["assigned_bpm"], checked["tempo"]["beat_quarters"]) == (50, "3/2")
    [finding] = checked["findings"]
    assert (finding["code"], finding["place"]) == ("hesitation", {"measure": "5", "offset": "0", "pass": 1})
    assert finding["amount"] > finding["limit"]
    assert 0 <= finding["sure"] <= 1


def test_a_take_that_cannot_be_followed_is_an_answer(capsys, score, tmp_path):
    take = tmp_path / "take.json"
    take.write_text(json.dumps({"taps": [{"t": 0.3 * i * i} for i in range(9)]}))
    code, out, _ = run(capsys, "check", score, str(take))
    assert code == 0
    assert out.startswith("lost its place")
    assert document(capsys, "check", score, str(take))["followed"] is False


BAD = [
    ("count", "nowhere.xml"),
    ("count", "SCORE", "--system", "nonsense"),
    ("count", "SCORE", "--beat", "dotted-quarter"),
    ("count", "SCORE", "--grouping", "3+2"),
    ("count", "SCORE", "--words", "triplet=la-li-lo-lu"),
    ("count", "SCORE", "--words", "nonsense=la"),
    ("count", "SCORE", "--parts", "P9"),
    ("count", "SCORE", "--measures", "99"),
    ("count", "SCORE", "--density", "thick"),
    ("count", "TAKE"),
    ("check", "SCORE", "SCORE"),
    ("check", "SCORE", "TAKE", "--tempo", "nan"),
    ("check", "SCORE", "TAKE", "--tempo", "100000"),
    ("check", "SCORE", "TAKE", "--tempo-unit", "eighth"),
    ("check", "SCORE", "TAKE", "--level", "expert"),
    ("simulate", "SCORE", "-o", "out.xyz"),
    ("simulate", "SCORE", "-o", "no/such/folder/out.json"),
    ("simulate", "SCORE", "-o", "out.json", "--fault", "cut-holds=20"),
    ("simulate", "SCORE", "-o", "out.json", "--fault", "oops=20"),
    ("simulate", "SCORE", "-o", "out.json", "--seed", "-1"),
    ("roadmap", "nowhere.mid"),
    ("convert", "SCORE", "-o", "no/such/folder/x.mid"),
    ("map", "SCORE", "--span", "4"),
    ("ladder", "SCORE", "--school", "scope=page"),
    ("ladder", "SCORE", "--school", "mood=happy"),
    ("ladder", "SCORE", "--school", "scope"),
    ("ladder", "SCORE", "--target", "1000"),
    ("ladder", "SCORE", "--measures", "7-90"),
    ("convert", "SCORE", "-o", "x.docx"),
    ("dance",),
    (),
]


@pytest.mark.parametrize("arguments", BAD, ids=" ".join)
def test_bad_input_exits_2_in_one_line_and_writes_nothing(capsys, score, tmp_path, monkeypatch, arguments):
    monkeypatch.chdir(tmp_path)
    take = tmp_path / "take.json"
    take.write_text('{"taps": [{"t": 1.0, "hand": "left"}]}')
    before = sorted(tmp_path.iterdir())
    named = [{"SCORE": score, "TAKE": str(take)}.get(a, a) for a in arguments]
    code, out, err = run(capsys, *named)
    assert (code, out) == (2, "")
    assert err.count("\n") == 1
    assert err.startswith("laptick: ")
    assert sorted(tmp_path.iterdir()) == before


STARTS = {
    ".musicxml": b"<?xml", ".mxl": b"PK", ".mid": b"MThd", ".pdf": b"%PDF-", ".svg": b"<svg", ".png": b"\x89PNG", ".csv": b"measure",
}  # fmt: skip


@pytest.mark.parametrize("ending", STARTS)
def test_what_convert_writes_is_what_its_ending_says(capsys, score, tmp_path, ending):
    out = tmp_path / f"out{ending}"
    assert run(capsys, "convert", score, "-o", str(out), "--counts")[0] == 0
    assert out.read_bytes().startswith(STARTS[ending])


def test_the_tool_runs_on_its_own(score):
    result = subprocess.run(
        [sys.executable, "-m", "laptick.cli", "count", score], capture_output=True, text=True, check=True
    )
    assert result.stdout.startswith("count in: 1 & 2 & ready & go &")


def test_a_passage_several_times_round_is_one_take(capsys, score, tmp_path):
    take = str(tmp_path / "round.mid")
    passage = ("--measures", "3-4", "--times-round", "4")
    assert run(capsys, "simulate", score, "-o", take, *passage, "--seed", "3", "--fault", "rush-runs=0.75")[0] == 0
    checked = document(capsys, "check", score, take, *passage)
    assert {finding["code"] for finding in checked["findings"]} == {"rushed-run"}
    assert [bar["pass"] for bar in checked["tempo"]["per_measure"]] == [1, 1, 2, 2, 3, 3, 4, 4]
    code, _, problem = run(capsys, "check", score, take, "--measures", "1-8", "--times-round", "4")
    assert code == 2
    assert "up to 4 bars" in problem


def test_drill(capsys, tmp_path, score):
    made = document(capsys, "drill", "ratio", "scale=C-major", "octaves=1", "ratio=2:1", "fast=right")
    assert made["meeting"] == [{"offset": "3", "measure": "2", "right": "C4", "left": "C4", "same_key": True}]
    assert made["ends_on"] == {"right": "C4", "left": "C4"}
    assert "<score-partwise" in made["score"]
    out = tmp_path / "drill.musicxml"
    layer = document(capsys, "drill", "layer", f"of={score}", "pattern=3+3+2", "-o", str(out))
    assert "score" not in layer
    counted = document(capsys, "count", str(out))
    assert [one["offset"] for one in counted["measures"][0]["hands"]["left"] if one["kind"] == "strike"] == [
        "0", "3/2", "3",
    ]  # fmt: skip
    code, told, _ = run(capsys, "drill", "cross", "ratio=3:2", "-o", str(tmp_path / "cross.mid"))
    assert (code, "together, right, left, right" in told) == (0, True)
    assert (tmp_path / "cross.mid").read_bytes().startswith(b"MThd")


@pytest.mark.parametrize(
    "words",
    [
        ("waltz",), ("ratio", "ratio=7:1"), ("ratio", "scale"), ("ratio", "colour=red"), ("layer",), ("form", "bars=X"),
        ("layer", "of=nowhere.xml"), ("ratio", "tempo=fast"), ("ratio", "octaves=99999"), ("cross", "-o", "x.pdf"),
        ("ratio", "fast=both"), ("ratio", "tempo=nan"),
    ],
)  # fmt: skip
def test_no_drill(capsys, words):
    code, out, err = run(capsys, "drill", *words)
    assert (code, out) == (2, "")
    assert len(err.strip().splitlines()) == 1
