"""At the keys, through the real interface: no keyboard, a MIDI keyboard, the stand-in, a dropped file; listening, and the
teacher's word beside the checker's."""

from __future__ import annotations

import pytest
from page import Page
from selenium.webdriver.common.by import By
from test_count_journeys import RULER
from test_play_journeys import add

from helpers import demo_score
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task
from laptick.formats.midi.take import write_midi_take

pytestmark = pytest.mark.browser

#: A keyboard that the browser hands out: what it sends is what the test lets it send.
KEYBOARD = """
window.sends = null;
const input = {id: 'k1', name: 'a test keyboard', onmidimessage: null};
window.sends = (bytes) => input.onmidimessage?.({data: new Uint8Array(bytes), timeStamp: performance.now()});
navigator.requestMIDIAccess = () => Promise.resolve({inputs: {values: () => [input][Symbol.iterator]()}, onstatechange: null});
"""


def open_keys(page: Page, site) -> int:
    piece = add(site, "harbour-steps")
    page.driver.get(f"{site.url}/pieces/{piece}?free=play")
    page.until(lambda: page.driver.execute_script(RULER))
    return piece


def takes(site, piece: int) -> list[dict]:
    return site.http.get(f"{site.url}/api/pieces/{piece}/takes", timeout=30).json()["items"]


@pytest.mark.clock
def test_the_stand_in_goes_the_way_of_a_real_keyboard(site, open_browser):
    page = Page(open_browser())
    piece = open_keys(page, site)
    page.view("Takes")
    page.click("A student to try it with")
    page.click("Use the stand-in")
    page.view("Ladder")
    page.sees("the simulated student plays on it when you record.")
    assert page.axe() == []
    page.click("bar 1, line 1, bar 1")
    page.sees("Only bar 1")
    page.driver.find_element(By.TAG_NAME, "h1").click()
    page.press("KeyR", "r")
    page.sees("Play now", 20)
    page.sees("See this take", 40)
    [take] = takes(site, piece)
    assert (take["activity"], take["played_by"]) == ("play", "simulated")
    document = site.http.get(f"{site.url}/api/takes/{take['id']}", timeout=30).json()["document"]
    # The bar has seven notes, and one bar alone is recorded four times round.
    assert (document["source"], document["matched"], document["missing"], document["extra"]) == ("midi", 4 * 7, [], [])
    page.click("See this take")
    page.sees("At the keys")
    assert page.axe() == []
    assert page.errors() == []


@pytest.mark.clock
def test_a_keyboard_is_found_heard_and_recorded(site, open_browser):
    driver = open_browser()
    driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": KEYBOARD})
    page = Page(driver)
    piece = open_keys(page, site)
    page.click("Look for a keyboard")
    page.sees("Press a key to see whether it is heard.")
    driver.execute_script("window.sends([0x90, 61, 70]); window.sends([0x80, 61, 0])")
    page.sees("the last key was C♯4")
    page.click("bar 1, line 1, bar 1")
    driver.find_element(By.TAG_NAME, "h1").click()
    page.press("KeyR", "r")
    page.until(lambda: "Play now" in page.text(), 20, "the count-in does not end")
    # Bar 1 as written, by the page's own clock: keys down and up as bytes.
    score = demo_score("harbour-steps")
    task = lap_task(score, assigned_bpm=56, measures=score.select_measures("1"), with_pitches=True)
    plan = [[float(e.onset_quarters) * task.quarter_s * 1000, e.pitch] for e in task.expected]
    driver.execute_script(
        "for (const [at, pitch] of arguments[0]) {"
        " setTimeout(() => window.sends([0x90, pitch, 66]), at); setTimeout(() => window.sends([0x80, pitch, 0]), at + 300); }",
        plan,
    )
    page.sees("See this take", 30)
    [take] = takes(site, piece)
    full = site.http.get(f"{site.url}/api/takes/{take['id']}", timeout=30).json()
    assert (take["played_by"], full["document"]["matched"], full["document"]["wrong"]) == ("student", 7, [])
    assert full["document"]["touch"]["strengths"] == {"right": 66, "left": 66}


def test_without_midi_it_says_what_to_do(site, open_browser):
    driver = open_browser()
    driver.execute_cdp_cmd(
        "Page.addScriptToEvaluateOnNewDocument", {"source": "delete Navigator.prototype.requestMIDIAccess"}
    )
    page = Page(driver)
    open_keys(page, site)
    page.click("Look for a keyboard")
    page.sees("This browser cannot reach MIDI keyboards.")
    page.driver.find_element(By.TAG_NAME, "h1").click()
    page.press("KeyR", "r")
    page.sees("Count in", 15)
    page.until(lambda: "Play now" in page.text(), 15)
    page.press("Space", " ")
    page.sees("Nothing was played, so no take was made.")


@pytest.mark.clock
def test_a_midi_file_is_checked_and_the_teacher_has_the_last_word(site, open_browser, tmp_path):
    task = lap_task(demo_score("harbour-steps"), assigned_bpm=56, with_pitches=True)
    played = simulate(task, seed=4, source=Source.MIDI, faults=[parse_fault("hesitate=5:1.5")])
    path = tmp_path / "take.mid"
    path.write_bytes(write_midi_take(played, task))
    page = Page(open_browser())
    piece = open_keys(page, site)

    # What was heard first: the count-in, one slip, and the end.
    page.driver.find_element(By.TAG_NAME, "h1").click()
    page.press("KeyN", "n")
    page.sees("I heard a slip", 20)
    assert page.axe() == []
    page.until(lambda: "nothing marked yet" in page.text(), 15)
    page.press("KeyJ", "j")
    page.sees("1 slip marked")
    page.press("Space", " ")
    page.sees("1 slip marked: kept among the takes.")
    page.view("Takes")

    # A file that is none, then the take.
    broken = tmp_path / "broken.mid"
    broken.write_bytes(b"MThd\0\0")
    chooser = page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "input[accept*='.mid']"))[0]
    chooser.send_keys(str(broken))
    page.sees("the MIDI file cannot be read")
    chooser.send_keys(str(path))
    page.sees("You stop before bar 5.", 20)
    page.sees("from a file")
    page.sees("there: a new line, a bar line")
    page.click("Lay beside")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[role=option]"))[-1].click()
    page.sees("that only you heard")
    assert page.axe() == []

    page.click("You hear it otherwise?")
    page.driver.find_element(By.CSS_SELECTOR, "form textarea").send_keys("The page turn was mine.")
    page.click("Let it stand")
    page.sees("Your word: steady.")
    page.sees("the checker says not yet")
    page.driver.refresh()
    page.sees("The page turn was mine.")
    assert takes(site, piece)[0]["overruled"] == "steady"
    page.click("Take it back")
    page.until(lambda: takes(site, piece)[0]["overruled"] is None)
    assert page.errors() == []
