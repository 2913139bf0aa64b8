"""Play-along, echo and the counting voice through the real interface: by keys, over a change of view, with a loaded
machine, with a microphone that says a word."""

from __future__ import annotations

import json
import threading
import time

import numpy as np
import pytest
from page import Page
from selenium.webdriver.common.by import By
from test_count_journeys import RULER, choose

from helpers import demo_bytes
from laptick.formats.sound.sound_pack import PACK_RATE, pack_samples, wav_bytes

pytestmark = pytest.mark.browser

#: What of the shipped sounds the page has fetched so far, in bytes.
PACKS = (
    "return performance.getEntriesByType('resource').filter(e => e.name.includes('pack.flac'))"
    ".map(e => e.decodedBodySize)"
)
EXACT = "return JSON.parse(document.querySelector('[data-exactness]')?.dataset.exactness ?? 'null')"


def add(site, name: str) -> int:
    files = {"file": (f"{name}.musicxml", demo_bytes(name))}
    return int(site.http.post(f"{site.url}/api/pieces", files=files, timeout=30).json()["id"])


def open_play(page: Page, site, name: str) -> int:
    piece = add(site, name)
    page.driver.get(f"{site.url}/pieces/{piece}?view=play")
    page.until(lambda: page.driver.execute_script(RULER))
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Play along'] button"))
    return piece


def playing(page: Page) -> bool:
    return any("Stop" in b.text for b in page.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Play along'] button"))


def turn(page: Page) -> str:
    """Whose turn it is while it plays."""
    shown = page.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Play along'] p[role='status'] span")
    return shown[0].text if shown else ""


@pytest.mark.clock
def test_everything_by_keys_and_on_while_the_view_changes(site, open_browser):
    page = Page(open_browser())
    open_play(page, site, "harbour-steps")
    assert page.axe() == []
    assert page.driver.execute_script(PACKS) == []  # no sound is loaded before it is wanted
    page.press("Space", " ")
    page.sees("Count in")
    page.until(lambda: playing(page))
    sizes = page.driver.execute_script(PACKS)
    assert len(sizes) == 1
    assert 0 < sizes[0] < 400_000
    page.sees("Together", 20)
    assert page.axe() == []
    page.press("Digit2", "2")  # the click
    assert page.button("Click: silent")
    page.press("Digit2", "2")
    page.button("Click: sounds")
    # Another tempo counts in anew with it.
    page.until(lambda: turn(page) == "Together")
    page.press("ArrowUp", "ArrowUp")
    page.until(lambda: turn(page) == "Count in")
    # On another view, and on another page, it goes on and can be stopped.
    page.view("Roadmap")
    bar = page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[role='region'][aria-label='Playing']"))
    assert "Harbour Steps" in bar[0].text
    page.click("Settings")
    page.sees("How we count")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[role='region'][aria-label='Playing']"))
    page.click("Harbour Steps")
    page.until(lambda: playing(page))
    page.press("Space", " ")
    page.until(lambda: not playing(page))
    errors = [line for line in page.driver.get_log("browser") if line["level"] == "SEVERE"]
    assert errors == []


@pytest.mark.clock
def test_tap_tempo_rounds_and_silent_bars(site, open_browser):
    page = Page(open_browser())
    open_play(page, site, "harbour-steps")
    now = time.time()
    for beat in range(4):  # the keys' own time stamps, half a second apart
        page.press("KeyT", "t", at_epoch_s=now + beat * 0.5)
    page.sees("= 120")
    page.press("KeyL", "l")
    page.sees("over and over")
    choose(page, "each next one", "straight on")
    choose(page, "Click drops out", "1 bar of 2: keep the beat")
    page.driver.find_element(By.CSS_SELECTOR, "h1").click()  # a list that was chosen from by keyboard keeps its Space
    page.driver.execute_script("document.activeElement.blur()")
    page.press("Space", " ")
    page.until(lambda: playing(page))
    page.press("Space", " ")
    page.until(lambda: not playing(page))
    # A reload keeps what was chosen.
    page.driver.refresh()
    page.sees("over and over")
    page.sees("1 bar of 2: keep the beat")


@pytest.mark.clock
def test_an_echo_says_whose_turn_it_is(site, open_browser):
    page = Page(open_browser())
    open_play(page, site, "lantern-boat")
    page.click("Echo")
    choose(page, "A turn is", "one bar")
    page.click("Start the echo")
    page.sees("Listen", 20)
    page.sees("Your turn", 20)
    page.sees("Listen", 20)
    assert "of 16" in page.text()
    page.click("Stop")


@pytest.mark.clock
def test_clicks_are_rendered_when_they_should_be_though_the_machine_is_busy(site, open_browser):
    """Fourteen seconds and fifteen clicks at least, both cores kept busy meanwhile. Five minutes of it: ``benchmarks/sound_clock.py``."""
    page = Page(open_browser())
    open_play(page, site, "copper-kettle-parade")
    page.press("Space", " ")
    page.until(lambda: playing(page))
    stop = threading.Event()

    def burn() -> None:
        while not stop.is_set():
            np.linalg.svd(np.random.default_rng(1).normal(size=(200, 200)))

    burners = [threading.Thread(target=burn, daemon=True) for _ in range(2)]
    for burner in burners:
        burner.start()
    page.driver.execute_script(
        "window.__busy = setInterval(() => { const end = performance.now() + 150; while (performance.now() < end); }, 200)"
    )
    time.sleep(14)
    page.driver.execute_script("document.querySelector('details:last-of-type').open = true")
    page.until(lambda: (page.driver.execute_script(EXACT) or {"clicks": 0})["clicks"] >= 15, 60, "too few clicks")
    stop.set()
    for burner in burners:
        burner.join()
    page.driver.execute_script("clearInterval(window.__busy)")
    exact = page.until(lambda: page.driver.execute_script(EXACT))
    assert exact["clicks"] >= 15
    assert exact["missed"] == 0
    assert exact["furthest_ms"] < 2


def test_the_server_stops_before_the_first_sound(site, open_browser):
    page = Page(open_browser())
    open_play(page, site, "harbour-steps")
    site.stop()
    page.press("Space", " ")
    page.sees("server does not answer", 20)
    site.start()
    page.press("Space", " ")
    page.until(lambda: playing(page))


def test_a_place_that_was_not_loaded_comes_when_the_server_is_back(site, open_browser):
    page = Page(open_browser())
    open_play(page, site, "harbour-steps")
    site.stop()
    page.button("Together").click()
    page.sees("server does not answer. What you asked for opens by itself", 20)
    assert page.driver.find_element(By.CSS_SELECTOR, "h1").text == "Harbour Steps"
    site.start()
    page.sees("Line it up", 20)


@pytest.fixture
def spoken_take(tmp_path) -> str:
    """A microphone that hears one word again and again in a quiet room: two whole ones whenever it is asked."""
    word = pack_samples("word:ta")
    once = np.concatenate([np.zeros(PACK_RATE // 2), word])
    path = tmp_path / "ta.wav"
    path.write_bytes(wav_bytes(np.tile(once, 6), PACK_RATE))
    return str(path)


def test_her_own_voice_recorded_placed_and_taken_back(site, open_browser, spoken_take):
    flags = (
        "--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream",
        f"--use-file-for-fake-audio-capture={spoken_take}",
    )  # fmt: skip
    page = Page(open_browser(flags=flags))
    page.driver.get(f"{site.url}/settings/voice")
    page.sees("The counting voice")
    words = page.driver.find_element(By.CSS_SELECTOR, "[aria-label='Words of the voice']")
    next(b for b in words.find_elements(By.CSS_SELECTOR, "button") if b.text.startswith("&")).click()
    page.click("Record it")
    page.sees("Back to the voice that was there", 25)
    assert page.axe() == []

    def stored() -> dict:
        said = site.http.get(f"{site.url}/api/voice", timeout=30).json()["groups"][0]["said"]
        return next(one for one in said if one["say"] == "&")

    word = stored()
    assert word["source"] == "recorded"
    assert 0.05 < word["length_s"] < 1.2
    page.click("vowel later")
    page.until(lambda: stored()["vowel_s"] == pytest.approx(word["vowel_s"] + 0.005))
    page.click("Hear it on the click")
    page.click("Back to the voice that was there")
    page.until(lambda: stored()["source"] == "shipped")
    page.click("Use my recording again")
    page.until(lambda: stored()["source"] == "recorded")
    assert json.dumps(page.driver.get_log("browser")).count("SEVERE") == 0


def test_a_word_of_her_own_choosing(site, open_browser):
    page = Page(open_browser())
    page.driver.get(f"{site.url}/settings/voice")
    page.sees("The counting voice")
    field = page.driver.find_element(By.CSS_SELECTOR, "[aria-label='The counting voice'] form input")
    field.send_keys("even three")
    page.click("Choose it")
    page.sees("made here")
    page.click("Hear it: even three")
    assert page.axe() == []
    assert not page.driver.find_elements(By.CSS_SELECTOR, "[role='alert']")


def test_no_microphone_says_so(site, open_browser):
    page = Page(open_browser())
    page.driver.get(f"{site.url}/settings/voice")
    page.sees("The counting voice")
    page.click("words in a row")
    page.sees("The voice stays as it was.", 20)
