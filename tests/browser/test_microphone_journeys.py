"""Takes by the microphone, through the real interface: a rendered take in at Chromium's fake microphone, a verdict out."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import replace

import compose_demo
import numpy as np
import pytest
import soundfile
from page import Page
from selenium.webdriver.common.by import By

from helpers import demo_score
from laptick.core.base.levels import Level
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import CLAP_KEY, Performance, Source
from laptick.core.takes.task import lap_task
from laptick.formats.audio.take import write_wav_take
from laptick.formats.drills import make_drill
from laptick.formats.musicxml.file import read_musicxml

#: The fake microphone begins with the file when it is opened, to look at the room, and is silent after it. A take's first
#: strike comes two seconds after it begins: after the count-in, on a slow machine too, and before the recording is given
#: up, on a quick one. So nothing slow may happen between the microphone's opening and the recording.
FAKE = ("--use-fake-device-for-media-stream", "--use-fake-ui-for-media-stream")
BEGINS_S, AGAIN_S = 5.0, 31.0

#: Five bars, short enough to be played several times.
RIGHT = (
    "C5/q D5/q E5/q F5/q | G5/e F5/e E5/e D5/e E5/q C5/q | D5/q F5/q E5/q G5/q | A5/e G5/e F5/e E5/e D5/q B4/q | C5/w"
)
LEFT = "C3/h G3/h | C3/h A3/h | D3/h G3/h | F3/h G3/h | C3/w"


def score_bytes() -> bytes:
    bars = {"right": RIGHT.split(" | "), "left": LEFT.split(" | ")}
    about = {"title": "Mill Pond", "composer": "Nobody", "time": (4, 4), "fifths": 0, "line": 4, "pickup": False}
    return compose_demo.write({**about, **bars, "tempo": ("quarter", False, 132, 132)}).encode()


def played(bpm: float) -> Performance:
    """A take that stops before bar 3."""
    task = lap_task(read_musicxml(score_bytes()), assigned_bpm=bpm, with_pitches=True)
    return simulate(task, level=Level.ELEMENTARY, seed=3, faults=[parse_fault("hesitate=3:2")], source=Source.MIDI)


def sounds_of(played: Performance, *begin_s: float) -> bytes:
    """A take sounded at each of some times; then a minute of hardly anything."""
    take, rate = soundfile.read(io.BytesIO(write_wav_take(played)), dtype="float64")
    total = np.random.default_rng(1).normal(0, 2e-4, int((begin_s[-1] + 60) * rate) + len(take))
    for at_s in begin_s:
        total[int(at_s * rate) :][: len(take)] += 0.6 * take
    out = io.BytesIO()
    soundfile.write(out, total, rate, format="WAV", subtype="PCM_16")
    return out.getvalue()


@pytest.fixture
def piece(site) -> dict:
    files = {"file": ("mill-pond.musicxml", score_bytes())}
    return site.http.post(f"{site.url}/api/pieces", files=files, timeout=30).json()


@pytest.fixture
def hears(tmp_path):
    """The flags for a microphone that hears a take from some times on."""

    def make(take: Performance, *begin_s: float) -> tuple[str, ...]:
        path = tmp_path / "heard.wav"
        path.write_bytes(sounds_of(take, *begin_s))
        return (*FAKE, f"--use-file-for-fake-audio-capture={path}%noloop")

    return make


@pytest.fixture
def microphone(hears, piece):
    """The same, of the piece played with a stop."""

    def make(*begin_s: float) -> tuple[str, ...]:
        return hears(played(piece["start_bpm"]), *begin_s)

    return make


def choose_microphone(page: Page) -> None:
    page.click("Heard by: ")
    options = "return [...document.querySelectorAll('[role=option]')].find((e) => e.innerText.includes('microphone'))"
    page.until(lambda: page.driver.execute_script(options)).click()


def opened(site, driver, piece: dict) -> Page:
    """The piece's own page, where it is practised freely at the keys."""
    page = Page(driver)
    driver.get(f"{site.url}/pieces/{piece['id']}?free=play")
    page.sees("Record")
    return page


def recording(page: Page) -> bool:
    return "The microphone listens" in page.text()


class FellBehindError(Exception):
    """Nothing was struck while the take was waited for."""


def sees_heard(page: Page, words: str, seconds: float) -> None:
    def come() -> bool:
        text = page.text()
        if "heard nothing that was struck" in text:
            raise FellBehindError
        return words in text

    page.until(come, seconds, f"“{words}” is not on the page")


def heard(page: Page, attempt: Callable[[], None]) -> None:
    """Attempts it, with the microphone switched on. The browser's fake microphone skips time where it is not given the processor for a while, up to four seconds of
    five: then the file's first strike comes after the recording was given up. Nothing was made of that, so it is tried
    again, with the file from its beginning."""
    for _ in range(2):
        try:
            return attempt()
        except FellBehindError:
            page.driver.refresh()
            page.click("Switch it on")
            page.sees("The room is quiet")
    return attempt()


def test_what_is_played_into_a_microphone_is_judged_round_after_round(site, open_browser, microphone, piece):
    page = opened(site, open_browser(flags=microphone(BEGINS_S, AGAIN_S)), piece)
    page.click("more: Hands-free rounds")
    choose_microphone(page)
    page.sees("The room is quiet")

    def attempt() -> None:
        page.press("KeyR", "r")
        page.until(lambda: recording(page))
        sees_heard(page, "round 2 of 2", 60)
        sees_heard(page, "You stop before bar 3.", 60)

    heard(page, attempt)
    page.click("See this take")
    page.sees("its sound is not kept")
    page.click("Figures")
    page.sees("hands told apart")
    page.driver.back()
    page.view("Takes")
    page.until(lambda: len(page.driver.find_elements(By.CSS_SELECTOR, "[aria-label=Takes] li a")) == 2)
    # It listened to the end of both, though they last longer than was asked for.
    listed = site.http.get(f"{site.url}/api/pieces/{piece['id']}/takes", timeout=30).json()["items"]
    documents = [site.http.get(f"{site.url}/api/takes/{one['id']}", timeout=30).json()["document"] for one in listed]
    assert [note for one in documents for note in one["missing"] if int(note["measure"]) > 1] == []
    assert page.errors() == []


FORM = {"bars": "I,IV,V,I", "fill": "two-claps", "walk": "no"}


def test_claps_are_heard_among_the_keys(site, open_browser, hears):
    """A form whose rests are clapped: the click stops after the count-in, and no clap is missing but the one left out.
    At a keyboard none is asked for."""
    made = {"kind": "form", "options": FORM}
    piece = site.http.post(f"{site.url}/api/drills", json=made, timeout=30).json()
    task = lap_task(
        make_drill("form", FORM, demo_score).score, assigned_bpm=piece["start_bpm"], with_pitches=True, with_claps=True
    )
    claps = [one for one in task.expected if one.pitch == CLAP_KEY]
    take = simulate(task, level=Level.ELEMENTARY, seed=3, faults=[], source=Source.MIDI)
    third = [strike for strike in take.strikes if strike.pitch == CLAP_KEY][2]
    take = replace(take, strikes=tuple(strike for strike in take.strikes if strike is not third))
    # Its count-in is slower.
    page = opened(site, open_browser(flags=hears(take, BEGINS_S + 2)), piece)
    page.sees("Claps are heard by the microphone alone")
    choose_microphone(page)
    page.sees("it sounds too much like a clap")

    def attempt() -> None:
        page.press("KeyR", "r")
        page.until(lambda: recording(page))
        sees_heard(page, "See this take", 90)

    heard(page, attempt)
    [listed] = site.http.get(f"{site.url}/api/pieces/{piece['id']}/takes", timeout=30).json()["items"]
    told = site.http.get(f"{site.url}/api/takes/{listed['id']}", timeout=30).json()["document"]
    assert [one["pitch"] for one in told["missing"]] == [None]
    assert sum(note["pitch"] is None for note in told["notes"]) == len(claps) - 1
    assert page.axe() == []
    assert page.errors() == []


def test_a_take_outlives_a_server_that_stops_and_a_page_that_is_loaded_anew(site, open_browser, microphone, piece):
    page = opened(site, open_browser(flags=microphone(BEGINS_S)), piece)
    choose_microphone(page)
    page.sees("The room is quiet")
    page.press("KeyR", "r")
    page.until(lambda: recording(page))
    site.stop()
    page.sees("The recording is kept on this device", 120)
    site.start()
    page.click("Send it again")
    page.sees("You stop before bar 3.", 60)

    # Loaded anew in the middle of the next one: what was recorded until then is still there.
    page.driver.refresh()
    page.sees("Record")
    page.press("KeyR", "r")
    page.until(lambda: recording(page))
    page.until(lambda: page.driver.execute_script("return performance.now()") > BEGINS_S * 1000 + 5000, 60)
    page.driver.refresh()
    page.sees("1 recording on this device is not stored yet")
    assert page.axe() == []
    page.click("Send it now")
    page.until(lambda: "not stored yet" not in page.text(), 60)
    page.view("Takes")
    page.until(lambda: len(page.driver.find_elements(By.CSS_SELECTOR, "[aria-label=Takes] li a")) == 2)


@pytest.mark.parametrize(
    ("flags", "words"),
    [(FAKE[:1], "does not let this page use the microphone"), ((), "No microphone is there")],
    ids=["refused", "missing"],
)
def test_a_microphone_that_cannot_be_had_says_why_and_offers_the_other_ways(site, open_browser, piece, flags, words):
    driver = open_browser(flags=flags)
    driver.execute_cdp_cmd(
        "Browser.setPermission", {"permission": {"name": "microphone"}, "setting": "denied", "origin": site.url}
    )
    page = opened(site, driver, piece)
    choose_microphone(page)
    page.sees(words)
    page.sees("bring a recording as a file")
    assert page.axe() == []
    page.press("KeyR", "r")
    page.sees("Nothing was recorded")
