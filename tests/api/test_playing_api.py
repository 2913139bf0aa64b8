"""Play-along, echo and the counting voice through the API: what is asked for, what is refused, what is kept."""

from __future__ import annotations

import io

import numpy as np
import pytest
import soundfile

from helpers import demo_bytes
from laptick.core.play_along.schedule import Track
from laptick.formats.sound.sound_pack import PACK, PACK_RATE, pack_places, pack_samples, wav_bytes


@pytest.fixture
def piece(client) -> int:
    answer = client.post("/api/pieces", files={"file": ("kite.musicxml", demo_bytes("kite-over-the-orchard"))})
    return answer.json()["id"]


def schedule(client, piece: int, **params):
    return client.get(f"/api/pieces/{piece}/schedule", params={"bpm": 60, **params})


def said(answer) -> set[str]:
    return {s["sound"] for s in answer.json()["sounds"] if s["track"] in ("strike", "hold", "rest")}


def recording(reading: str = "ta", before_s: float = 0.3) -> bytes:
    word = pack_samples(f"word:{reading}")
    quiet = np.zeros(int(before_s * PACK_RATE))
    return wav_bytes(np.concatenate([quiet, word, quiet]), PACK_RATE)


def add_own(client, reading: str, data: bytes | None = None, **params):
    files = {"audio": ("word.wav", recording() if data is None else data, "audio/wav")}
    return client.post("/api/voice/own", files=files, params={"reading": reading, **params})


class TestSchedule:
    def test_every_sound_has_its_samples_or_its_pitch(self, client, piece):
        body = schedule(client, piece, measures="1-2").json()
        for sound in body["sounds"]:
            name = sound["sound"]
            assert name in (body["tone"]["pitches"] if name.startswith("tone:") else body["samples"])
        word = body["samples"]["word:1"]
        assert word["beat_s"] == pytest.approx(pack_places()["word:1"].beat_s)
        pack = client.get(word["file"])
        assert pack.content == PACK.read_bytes()
        assert "immutable" in pack.headers["cache-control"]

    def test_rounds_echo_and_first_hearing(self, client, piece):
        rounds = schedule(client, piece, measures="1", rounds=3, between="gap", gap_beats=1).json()
        assert [round(s["first_beat_s"], 6) for s in rounds["stretches"]] == [3, 7, 11]
        echo = schedule(client, piece, mode="echo", echo_by="two", echo_in="names", measures="1-4").json()
        assert [s["role"] for s in echo["stretches"]] == ["model", "room"] * 2
        heard = schedule(client, piece, mode="hear", slow_bpm=40).json()
        assert [s["bpm"] for s in heard["stretches"]] == [60, 40]
        assert schedule(client, piece, mode="hear", bpm=96).json()["stretches"][1]["bpm"] == 60  # ten marks below

    @pytest.mark.parametrize(
        "wrong",
        [
            {"rounds": 0}, {"rounds": 101}, {"between": "sometime"}, {"gap_beats": -1}, {"groove": "polka"},
            {"mode": "sing"}, {"echo_in": "smells"}, {"quiet_of": 0}, {"bpm": 5}, {"measures": "99"}, {"loud": 1},
            {"slow_bpm": 1000},
        ],
    )  # fmt: skip
    def test_what_cannot_be_played_is_refused(self, client, piece, wrong):
        answer = schedule(client, piece, **wrong)
        assert answer.status_code == 422
        assert answer.json()["error"]["what"]

    def test_more_silent_bars_than_bars(self, client, piece):
        body = schedule(client, piece, quiet_bars=9, quiet_of=4, measures="1-4").json()
        assert all(s["is_count_in"] for s in body["sounds"])

    def test_options_fit_the_piece(self, client, piece):
        options = client.get(f"/api/pieces/{piece}/play-options").json()
        assert [groove["key"] for groove in options["grooves"]] == ["waltz", "simple"]
        assert set(options["levels"]) == set(Track)
        assert "comfortable level" in options["caution"]

    def test_files_have_what_is_heard(self, client, piece):
        wanted = {"bpm": 60, "measures": "1", "levels": "click:60,voice:100"}
        wav = client.get(f"/api/pieces/{piece}/sound", params=wanted)
        samples, rate = soundfile.read(io.BytesIO(wav.content))
        assert rate == PACK_RATE
        assert len(samples) / rate == pytest.approx(6 + 0.75, abs=0.01)  # two times three beats, lead and tail
        for wrong in ("click", "click:loud", "drone:10", "click:101"):
            assert client.get(f"/api/pieces/{piece}/sound", params={**wanted, "levels": wrong}).status_code == 422

    def test_a_word_said_otherwise_is_spoken_at_once(self, client, piece):
        choices = {"syllables": [{"measure": "1", "offset": "0", "hand": "both", "say": "hop"}]}
        assert client.put(f"/api/pieces/{piece}/choices", json=choices).status_code == 200
        answer = schedule(client, piece, measures="1")
        assert "word:made/en/hop" in said(answer)
        file = answer.json()["samples"]["word:made/en/hop"]["file"]
        samples, rate = soundfile.read(io.BytesIO(client.get(file).content))
        assert 0.05 < len(samples) / rate < 0.2
        assert np.abs(samples).max() > 0.2

    def test_a_made_word_has_its_vowel_where_it_was_asked_for(self, client):
        """Whichever process made it: the sound begins so much earlier or later."""
        ask = {"text": "hop", "language": "en"}
        plain, later = (
            soundfile.read(io.BytesIO(client.get("/api/voice/made", params={**ask, **more}).content))[0]
            for more in ({}, {"beat_s": 0.2})
        )
        lead = len(later) - len(plain)
        assert not later[:lead].any()
        assert np.array_equal(later[lead:], plain)
        word = client.get("/api/voice/trial", params={"say": "hop"}).json()["samples"]["word:made/en/hop"]
        assert lead / PACK_RATE == pytest.approx(0.2 - word["beat_s"], abs=0.0001)
        same = soundfile.read(io.BytesIO(client.get(word["file"]).content))[0]
        assert len(same) == pytest.approx(len(plain), abs=2)

    def test_a_word_that_cannot_be_spoken_is_said_so(self, client, piece):
        choices = {"syllables": [{"measure": "1", "offset": "0", "hand": "both", "say": "…"}]}
        client.put(f"/api/pieces/{piece}/choices", json=choices)
        body = schedule(client, piece, measures="1").json()
        assert any("Not spoken: “…”" in remark for remark in body["remarks"])


class TestVoice:
    def test_the_words_of_every_system(self, client):
        voice = client.get("/api/voice").json()
        groups = {group["key"]: [word["say"] for word in group["said"]] for group in voice["groups"]}
        assert groups["numbers"][:8] == list("12345678")
        assert {"&", "e", "a", "trip", "let", "la", "li", "ready", "go"} <= set(groups["numbers"])
        assert groups["names"] == [*"CDEFGAB", "rest"]
        assert groups["cues"] == ["move", "lift", "line", "you"]
        assert {"Steady.", "Once more.", "It waited at bar"} <= set(groups["phrases"])
        sources = {g["key"]: {word["source"] for word in g["said"]} for g in voice["groups"]}
        assert sources.pop("phrases") == {"made"}
        assert set.union(*sources.values()) == {"shipped"}

    def test_another_language(self, client, piece):
        stored = client.get("/api/choices").json()
        assert client.put("/api/choices", json={**stored, "voice_language": "de"}).status_code == 200
        assert client.get("/api/voice").json()["groups"][0]["said"][0]["source"] == "made"
        assert "word:made/de/1" in said(schedule(client, piece, measures="1"))
        refused = client.put("/api/choices", json={**stored, "voice_language": "tlh"})
        assert refused.status_code == 422
        assert client.get("/api/choices").json()["voice_language"] == "de"

    def test_her_own_voice(self, client, piece):
        added = add_own(client, "1")
        assert added.status_code == 201
        word = added.json()
        assert word["source"] == "recorded"
        assert word["vowel_s"] == pytest.approx(pack_places()["word:ta"].beat_s, abs=0.012)
        own = f"word:own/{word['own_id']}"
        answer = schedule(client, piece, measures="1")
        assert own in said(answer)
        samples, rate = soundfile.read(io.BytesIO(client.get(answer.json()["samples"][own]["file"]).content))
        assert len(samples) / rate == pytest.approx(word["length_s"], abs=0.001)
        whisper = client.get(f"/api/voice/own/{word['own_id']}/audio", params={"whisper": True})
        assert whisper.content != client.get(f"/api/voice/own/{word['own_id']}/audio").content
        # It is in the files too.
        wanted = {"bpm": 60, "measures": "1", "levels": "voice:100"}
        assert client.get(f"/api/pieces/{piece}/sound", params=wanted).status_code == 200

    def test_out_of_use_and_back(self, client, piece):
        first, second = add_own(client, "2").json()["own_id"], add_own(client, "2", recording("go")).json()["own_id"]
        assert f"word:own/{second}" in said(schedule(client, piece, measures="1"))
        assert client.patch(f"/api/voice/own/{second}", json={"is_used": False}).json()["source"] == "shipped"
        assert "word:2" in said(schedule(client, piece, measures="1"))
        assert client.patch(f"/api/voice/own/{first}", json={"is_used": True}).json()["source"] == "recorded"
        assert f"word:own/{first}" in said(schedule(client, piece, measures="1"))

    def test_its_vowel_can_be_moved_within_it(self, client):
        word = add_own(client, "1").json()
        moved = client.patch(f"/api/voice/own/{word['own_id']}", json={"vowel_s": 0.05}).json()
        assert moved["vowel_s"] == 0.05
        refused = client.patch(f"/api/voice/own/{word['own_id']}", json={"vowel_s": 1.1})
        assert (refused.status_code, refused.json()["error"]["kept"]) == (422, "Nothing was changed.")
        assert client.patch("/api/voice/own/99999", json={"vowel_s": 0.1}).status_code == 404
        assert client.get("/api/voice/own/99999/audio").status_code == 404

    def test_upper_and_lower_case_are_two_words(self, client):
        add_own(client, "A")
        voice = client.get("/api/voice").json()
        sources = {word["reading"]: word["source"] for group in voice["groups"] for word in group["said"]}
        assert (sources["A"], sources["uh"]) == ("recorded", "shipped")

    def test_a_word_of_a_single_piece_can_be_recorded(self, client, piece):
        choices = {"syllables": [{"measure": "1", "offset": "0", "hand": "both", "say": "hop"}]}
        client.put(f"/api/pieces/{piece}/choices", json=choices)
        word = client.get("/api/voice/word", params={"say": "hop"}).json()
        assert (word["reading"], word["source"], word["own_id"]) == ("hop", "made", None)
        own = add_own(client, word["reading"], spoken="hop").json()["own_id"]
        assert f"word:own/{own}" in said(schedule(client, piece, measures="1"))
        cues = next(g for g in client.get("/api/voice").json()["groups"] if g["key"] == "cues")["said"]
        assert [(w["say"], w["source"]) for w in cues][-1] == ("hop", "recorded")
        assert client.get("/api/voice/word", params={"say": "…"}).json()["source"] == "none"

    @pytest.mark.parametrize("data", [b"", b"nonsense", wav_bytes(np.zeros(22050), PACK_RATE)])
    def test_what_is_no_word_is_refused_and_nothing_lost(self, client, data):
        kept = add_own(client, "1").json()["own_id"]
        refused = add_own(client, "1", data)
        assert refused.status_code == 422
        assert refused.json()["error"]["todo"]
        groups = client.get("/api/voice").json()["groups"]
        assert groups[0]["said"][0]["own_id"] == kept

    def test_a_word_on_the_click(self, client):
        trial = client.get("/api/voice/trial", params={"say": "tock"}).json()
        assert [s["track"] for s in trial["sounds"]] == ["click", "strike"] * 4
        alone = client.get("/api/voice/trial", params={"say": "a", "system": "duration", "click": False}).json()
        assert [s["sound"] for s in alone["sounds"]] == ["word:ah"]
        assert client.get("/api/voice/trial", params={"say": "…"}).status_code == 422
        assert client.get("/api/voice/made", params={"text": "x" * 60}).status_code == 422
        assert client.get("/api/voice/made", params={"text": "x", "language": "tlh"}).status_code == 422
