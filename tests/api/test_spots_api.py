"""A spot of a passage through the interface of the server: practised, judged and ticked like any other; where takes halt;
what of the beat is heard by school; a take's counting. Common practice, no source."""

from __future__ import annotations

import pytest

from helpers import demo_bytes

SEAM = {"activity": "play", "bpm": 57, "measures": "2-3", "within": "3..0", "times_round": 4}
HALTS = [{"kind": "hesitate", "amount": 1.2, "measure": "3"}]


@pytest.fixture
def piece(client) -> int:
    data = demo_bytes("harbour-steps")
    made = client.post("/api/pieces", files={"file": ("harbour-steps.musicxml", data)}).json()["id"]
    client.patch(f"/api/pieces/{made}", json={"level": "first-year"})
    return int(made)


def study(client, piece) -> dict:
    return client.get(f"/api/pieces/{piece}/study").json()


def rungs(client, piece) -> dict[str, dict]:
    return {one["key"]: one for one in study(client, piece)["rungs"]}


def simulated(client, piece, **change) -> dict:
    answer = client.post(f"/api/pieces/{piece}/takes/simulated", json={"seed": 3, **SEAM, **change})
    assert answer.status_code == 201, answer.text
    return answer.json()


def test_a_spot_is_judged_by_what_is_asked_of_it(client, piece):
    take = simulated(client, piece)
    assert take["status"] == "steady"
    assert take["next"]["rung"] == "seams:2-3@0:both"
    assert rungs(client, piece)["seams:2-3@0:both"]["state"] == "passed"
    assert rungs(client, piece)["join:2-3:both"]["state"] == "untouched"
    listed = client.get(f"/api/pieces/{piece}/takes").json()["items"][0]
    assert (listed["measures"], listed["within"], listed["times_round"]) == ("2-3", "3..0", 4)
    whole = simulated(client, piece, within=None, times_round=1)
    assert len(whole["document"]["notes"]) > len(take["document"]["notes"]) / 4


def test_a_take_of_the_bars_ticks_the_spot_and_is_no_try_of_it(client, piece):
    take = simulated(client, piece, within=None)
    assert take["next"]["rung"] == "join:2-3:both"
    seam = rungs(client, piece)["seams:2-3@0:both"]
    assert (seam["state"], seam["tries_today"]) == ("untouched", 0)  # it lies above on the ladder
    simulated(client, piece, measures="1-4", within=None, times_round=1)
    assert rungs(client, piece)["seams:2-3@0:both"]["state"] == "passed"


@pytest.mark.parametrize("within", ["9..0", "0..9", "x", "3", "3..0..1", "-1..2", "1/0..1", 7, "9" * 31])
def test_a_spot_outside_its_bars_is_refused_and_nothing_is_stored(client, piece, within):
    answer = client.post(f"/api/pieces/{piece}/takes/simulated", json={**SEAM, "within": within})
    assert answer.status_code == 422
    assert client.get(f"/api/pieces/{piece}/takes").json()["items"] == []
    assert client.get(f"/api/pieces/{piece}/schedule", params={"bpm": 60, "within": within}).status_code == 422


def test_it_is_played_along_with_and_ends_by_itself(client, piece):
    asked = {"bpm": 60, "measures": "2-3", "rounds": 4, "between": "straight"}
    whole = client.get(f"/api/pieces/{piece}/schedule", params=asked).json()
    spot = client.get(f"/api/pieces/{piece}/schedule", params={**asked, "within": "3..0"}).json()
    bar_s = 4.0

    def heard(schedule):
        first = schedule["first_beat_s"]
        return {round((one["at_s"] - first) % (2 * bar_s), 3) for one in schedule["sounds"] if one["track"] == "right"}

    assert heard(spot) == {at for at in heard(whole) if 3.0 <= at <= bar_s}
    assert spot["end_s"] == whole["end_s"]
    assert spot["ending"]["taps"] < whole["ending"]["taps"]
    assert spot["ending"]["last_s"] == pytest.approx(spot["first_beat_s"] + 7 * bar_s, abs=0.01)
    # Between two times round there is silence for seven beats: who waits for them has not ended.
    assert spot["ending"]["gap_s"] == pytest.approx(7.0, abs=0.01)
    assert spot["silence_s"] > 7.0


def test_where_two_takes_halted_a_seam_has_its_rung_and_the_teachers_word_takes_it_back(client, piece):
    line = {"measures": "1-4", "within": None, "times_round": 1}
    assert "seams:3-4@0:both" not in rungs(client, piece)
    halts = [{"kind": "hesitate", "amount": 1.2, "measure": "4"}]
    takes = [simulated(client, piece, **line, seed=seed, faults=halts) for seed in (3, 4)]
    assert [take["verdict"]["finding"]["code"] for take in takes] == ["hesitation"] * 2
    seam = rungs(client, piece)["seams:3-4@0:both"]
    assert (seam["why"], seam["within"]) == ("It waited here in 2 takes.", "3..0")
    assert "seams:2-3@0:both" not in rungs(client, piece)
    assert client.delete(f"/api/takes/{takes[0]['id']}").status_code == 204
    assert "seams:3-4@0:both" not in rungs(client, piece)
    client.post(f"/api/takes/{takes[0]['id']}/restore")
    assert "seams:3-4@0:both" in rungs(client, piece)
    overruled = client.put(f"/api/takes/{takes[1]['id']}/overrule", json={"status": "steady", "reason": "A breath."})
    assert overruled.status_code == 200
    assert "seams:3-4@0:both" not in rungs(client, piece)


def test_a_cure_names_the_spot_and_how_densely_it_is_counted(client, piece):
    halted = simulated(client, piece, measures="1-4", within=None, times_round=1, faults=HALTS)
    cure = halted["verdict"]["cure"]
    assert (cure["code"], cure["measures"]) == ("seam-loop", "2-3")
    assert cure["within"].endswith("..0")
    again = simulated(client, piece, measures=cure["measures"], within=cure["within"])
    assert again["status"] == "steady"


def test_a_count_is_said_of_whole_bars(client, piece):
    answer = client.post(f"/api/pieces/{piece}/takes/simulated", json={**SEAM, "activity": "count"})
    assert answer.status_code == 422
    assert "whole bars" in answer.json()["error"]["what"]


#: Bar 4 of the piece by hand: eighths at 2 only; steady: every beat is divided.
@pytest.mark.parametrize(("density", "said"), [("beat", "1 2 & 3 4"), ("steady", "1 & 2 & 3 & 4 &")])
def test_counted_more_densely_for_once(client, piece, density, said):
    asked = {"bpm": 60, "measures": "4", "density": density}
    counts = client.get(f"/api/pieces/{piece}/counts", params={"bpm": 60, "density": density}).json()
    assert counts["density"] == density
    schedule = client.get(f"/api/pieces/{piece}/schedule", params={**asked, "click_counts": True}).json()
    words = [word["say"] for word in schedule["words"] if not word["is_count_in"]]
    take = simulated(client, piece, activity="count", measures="4", within=None, times_round=1, density=density)
    assert len(take["document"]["notes"]) == len(words)
    assert " ".join(words) == said


def test_what_of_the_beat_is_heard_is_a_matter_of_school(client, piece):
    def beats(**answers):
        made = client.put(f"/api/studies/{study(client, piece)['id']}/school", json={"answers": answers}).json()
        return {
            one["stage"] + (":" + one["title"] if one["stage"] == "finish" else ""): one["beat"]
            for one in made["rungs"]
        }

    usual = beats()
    assert usual.pop("finish:Without the click") == "none"
    assert set(usual.values()) == {"click"}
    backed = beats(pulse="backing")
    assert (backed["join"], backed["tempo"], backed["finish:Without the click"]) == ("backing", "backing", "none")
    late = beats(pulse="backing", click="at-tempo")
    assert (late["join"], late["right"], late["tempo"]) == ("none", "none", "backing")


def test_phrases_that_cut_bars_are_joined_where_that_is_taught(client, piece):
    starts = [{"measure": "3", "offset": "2"}, {"measure": "5", "offset": "0"}]
    changed = client.put(f"/api/pieces/{piece}/reading", json={"phrase_starts": starts})
    assert changed.status_code == 200, changed.text
    client.put(f"/api/studies/{study(client, piece)['id']}/school", json={"answers": {"chunks": "phrases"}})
    found = [one for one in study(client, piece)["rungs"] if one["stage"] == "join" and one["group"] == "line 1"]
    assert [(one["title"], one["measures"], one["within"]) for one in found] == [
        ("Phrase 1", "1-3", "0..3/2"),
        ("Phrase 2", "3-4", "2..2"),
        ("Bars 1–4", "1-4", None),
    ]
    take = simulated(client, piece, measures="3-4", within="2..2", times_round=4)
    assert take["next"]["rung"] == found[1]["key"]


def test_where_a_spot_may_begin_is_told_exactly_and_in_words(client, piece):
    found = client.get(f"/api/pieces/{piece}/strikes", params={"measure": "3"}).json()
    assert [(one["offset"], one["words"]) for one in found] == [
        ("0", "beat 1"),
        ("1", "beat 2"),
        ("3/2", "the note after beat 2"),
        ("2", "beat 3"),
        ("3", "beat 4"),
    ]
    assert client.get(f"/api/pieces/{piece}/strikes", params={"measure": "99"}).status_code == 422
    assert client.get("/api/pieces/9999/strikes", params={"measure": "1"}).status_code == 404
