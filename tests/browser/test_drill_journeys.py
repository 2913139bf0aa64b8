"""Drills through the real interface: two presses to one on the stand, chosen otherwise, practised; at three sizes."""

from __future__ import annotations

import pytest
from page import Page
from selenium.webdriver.common.by import By
from test_count_journeys import choose
from test_keys_journeys import KEYBOARD
from test_ladder_journeys import SIZES, first_year

pytestmark = pytest.mark.browser


@pytest.mark.parametrize("size", SIZES, ids=str)
def test_a_drill_is_found_made_and_practised(site, open_browser, size):
    page = Page(open_browser(*size, touch=size[0] < 500))
    page.driver.get(f"{site.url}/drills")
    page.sees("C major, 2 : 1, right hand fast")
    page.sees("you meet on C, on one key")
    assert page.axe() == []
    assert page.driver.execute_script("return document.documentElement.scrollWidth") <= size[0]
    choose(page, "Ratio", "3 : 1")
    choose(page, "Scale", "G major")
    page.sees("G major, 3 : 1, right hand fast")
    page.sees("right hand G5, left hand G4")
    page.click("Practise it")
    page.until(lambda: "/pieces/" in page.driver.current_url)
    page.sees("Listen, finger on the notes.")
    kept = [one["title"] for one in site.http.get(f"{site.url}/api/pieces", timeout=30).json()["items"]]
    assert "G major, 3 : 1, right hand fast" in kept
    assert page.errors() == []


def test_a_left_hand_under_a_tune(site, open_browser):
    page = Page(open_browser())
    first_year(site)
    page.driver.get(f"{site.url}/drills/layer")
    page.sees("The roots are proposed from the tune")
    assert page.axe() == []
    choose(page, "The left hand plays", "three, three, two")
    page.sees("three, three, two")
    page.click("Practise it")
    page.sees("Listen, finger on the notes.")
    assert page.errors() == []


def test_left_hands_in_a_series_are_climbed_from_cue_to_cue(site, open_browser):
    page = Page(open_browser())
    piece = first_year(site)
    page.driver.get(f"{site.url}/drills/layer?of={piece}")
    page.sees("The roots are proposed from the tune")
    page.click("One more after it")
    page.sees("“at half speed”")  # the one that was not chosen yet is called
    choose(page, "Before each", "a chord held on top")
    choose(page, "At the end", "in turn, four bars each")
    page.sees("2 left hands")
    assert page.axe() == []
    page.click("Practise it")
    page.sees("The pulse, a chord on top")
    page.sees("In turn")
    page.sees("made in Drills")
    assert page.axe() == []
    page.click("made in Drills")
    page.sees("2 left hands")
    assert "turns=4" in page.driver.current_url
    assert page.errors() == []


#: C major, 2 : 1, the right hand fast, an octave apart: eighths over quarters, in eighths from the beginning.
SCALE = [(i, key) for i, key in enumerate((60, 62, 64, 65, 67, 69, 71, 72, 71, 69, 67, 65, 64, 62))] + [
    (2 * i, key) for i, key in enumerate((48, 50, 52, 53, 55, 57, 59, 60))
]

PLAY = """
const [strikes, eighth_ms] = arguments;
for (const [at, key] of strikes) {
  setTimeout(() => window.sends([0x90, key, 70]), 200 + at * eighth_ms);
  setTimeout(() => window.sends([0x80, key, 0]), 200 + (at + .8) * eighth_ms);
}
"""


@pytest.mark.clock
def test_a_ratio_scale_on_a_keyboard_is_told_whether_the_hands_met(site, open_browser):
    driver = open_browser()
    driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": KEYBOARD})
    page = Page(driver)
    options = {"scale": "C-major", "ratio": "2:1", "fast": "right", "tempo": "120"}
    kept = site.http.post(f"{site.url}/api/drills", json={"kind": "ratio", "options": options}, timeout=30).json()
    driver.get(f"{site.url}/pieces/{kept['id']}?free=play")
    page.click("Look for a keyboard")
    page.sees("Press a key to see whether it is heard.")
    driver.execute_script("window.sends([0x90, 61, 70]); window.sends([0x80, 61, 0])")
    page.sees("the last key was C♯4")
    driver.find_element(By.TAG_NAME, "h1").click()
    page.press("KeyR", "r")
    page.sees("Play now", 20)
    driver.execute_script(PLAY, SCALE, 400)
    page.sees("See this take", 40)
    page.click("See this take")
    page.sees("You met on C, on one key: right.")  # it goes down once
    assert page.axe() == []
    assert page.errors() == []


def test_a_finding_leads_to_a_drill_of_its_spot(site, open_browser):
    page = Page(open_browser())
    piece = first_year(site)
    fault = [{"kind": "hesitate", "amount": 2, "measure": "3"}]
    wanted = {"activity": "play", "bpm": 57, "measures": "1-4", "seed": 3, "faults": fault}
    take = site.http.post(f"{site.url}/api/pieces/{piece}/takes/simulated", json=wanted, timeout=60).json()
    page.driver.get(f"{site.url}/pieces/{piece}/takes/{take['id']}")
    page.click("This spot in all keys")
    page.sees("again and again, the beat runs on in between")
    page.sees("in all keys")
    assert page.axe() == []
    choose(page, "In", "its own key")
    page.sees("Harbour Steps, bars 2 to 3")
    choose(page, "to bar 3", "its end")
    page.until(lambda: "within=&" in page.driver.current_url + "&")  # of whole bars again
    assert page.errors() == []
