"""Spots through the real interface: a place of the map and a spot of one's own as rungs, a cure done with one key; the place
by keyboard alone; two windows on one ladder."""

from __future__ import annotations

import json

import pytest
from page import Page
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_count_journeys import choose
from test_ladder_journeys import SIZES, first_year, say, state_of, study

pytestmark = pytest.mark.browser


@pytest.mark.parametrize("size", SIZES, ids=str)
def test_a_place_of_the_map_becomes_a_rung_of_its_own(site, open_browser, size):
    page = Page(open_browser(*size, touch=size[0] < 500))
    piece = first_year(site)
    page.driver.get(f"{site.url}/pieces/{piece}?view=together")
    page.sees("Hardest first")
    page.click("All ")
    page.click("Bar 5 into 6")
    page.click("Onto the ladder")
    page.sees("again and again; the beat runs on in between")
    [made] = [one for one in study(site, piece)["rungs"] if one["is_own"]]
    assert (made["stage"], made["measures"], made["rounds"]) == ("seams", "5-6", 4)
    assert page.axe() == []
    # What is not asked for is faint.
    faint = page.driver.find_elements(By.CSS_SELECTOR, "svg rect[opacity='0.25']")
    assert len(faint) > 4
    # A place that has a rung is gone to.
    page.driver.get(f"{site.url}/pieces/{piece}?view=together")
    page.sees("Hardest first")
    page.click("All ")
    page.click("Bar 5 into 6")
    page.click("Onto the ladder")
    page.sees("again and again; the beat runs on in between")
    assert study(site, piece)["edits"] == 1
    assert page.errors() == []


def test_a_drill_is_cut_from_any_spot(site, open_browser):
    page = Page(open_browser())
    piece = first_year(site)
    page.driver.get(f"{site.url}/pieces/{piece}?rung=join:3-4:both")
    page.click("Change this rung")
    choose(page, "of", "a spot of them")
    choose(page, "from bar 3,", "beat 3")
    choose(page, "to bar 4,", "beat 2")
    assert page.axe() == []
    page.click("Add")
    page.sees("1 change of yours.")
    page.press("Escape", "Escape")
    page.click("beat 3 of bar 3 to beat 2 of bar 4")
    page.sees("From beat 3 of bar 3 to beat 2 of bar 4, again and again")
    assert page.errors() == []


@pytest.mark.clock
def test_c_does_what_the_checker_advises(site, open_browser):
    """A student who waits at bar 3: the spot is set up and counted in, and played well it is steady."""
    page = Page(open_browser())
    piece = first_year(site, target_bpm=208)
    say(site, piece, "hear", "count", "right", "left", "lap", "line-up")
    page.driver.get(f"{site.url}/pieces/{piece}?view=takes&free=play")
    page.click("A student to try it with")
    page.click("Use the stand-in")
    plan = {"skill": "first-year", "faults": [{"kind": "hesitate", "amount": 2, "measure": "3"}]}
    page.driver.execute_script(
        "const key = arguments[0]; localStorage.setItem(key, JSON.stringify({...JSON.parse(localStorage.getItem(key) ||"
        " '{}'), rounds: 1, standIn: JSON.parse(arguments[1])}))",
        f"laptick.choice.{piece}",
        json.dumps(plan),
    )
    page.driver.get(f"{site.url}/pieces/{piece}?rung=join:1-4:both")
    page.sees("the simulated student plays on it when you record.")
    page.driver.find_element(By.TAG_NAME, "h1").click()
    page.press("KeyR", "r")
    page.sees("Do that", 60)
    page.sees("Practise beat 4 of bar 2 into beat 1 of bar 3")
    page.driver.execute_script(
        "const key = arguments[0]; const old = JSON.parse(localStorage.getItem(key)); delete old.standIn;"
        " localStorage.setItem(key, JSON.stringify(old))",
        f"laptick.choice.{piece}",
    )
    page.press("KeyC", "c")
    page.until(lambda: "free=play" in page.driver.current_url)
    page.sees("Play now", 30)
    page.until(lambda: "Play now" not in page.text(), 60)
    page.sees("a spot of bars 2–3")
    assert page.errors() == []


def focused(page: Page) -> str:
    return page.driver.execute_script(
        "const one = document.activeElement; return one.matches('button, a, summary, [role=tab]') ?"
        " (one.getAttribute('aria-label') ?? '') + ' ' + (one.innerText ?? '') : ''"
    )


def tab_to(page: Page, words: str, steps: int = 120) -> None:
    for _ in range(steps):
        ActionChains(page.driver).send_keys(Keys.TAB).perform()
        if words in focused(page):
            return
    raise AssertionError(f"“{words}” is not reached with the tab key; last: {focused(page)}")


def key(page: Page, *keys: str) -> None:
    ActionChains(page.driver).send_keys(*keys).perform()


def test_the_place_by_keyboard_alone(site, open_browser):
    """To another rung, its change, a word on it, other school, and a round begun and thrown away."""
    page = Page(open_browser())
    piece = first_year(site)
    page.driver.get(f"{site.url}/pieces/{piece}")
    page.sees("Listen, finger on the notes.")
    tab_to(page, "Done")
    key(page, Keys.ENTER)
    page.until(lambda: state_of(site, piece, "hear:1-4:both") == "passed", 15)
    tab_to(page, "Lap it")
    key(page, Keys.ENTER)
    page.sees("Both hands tap the rhythm")
    tab_to(page, "Change this rung")
    key(page, Keys.ENTER)
    page.sees("The ladder stands as it was built.")
    tab_to(page, "Higher")
    key(page, Keys.ENTER)
    page.sees("1 change of yours.")
    key(page, Keys.ESCAPE)
    page.until(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"))
    tab_to(page, "How it is taught")
    key(page, Keys.ENTER)
    page.sees("usual at this level")
    key(page, Keys.ESCAPE)
    page.until(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"))
    page.press("KeyR", "r")
    page.sees("Count in")
    page.press("Escape", "Escape")
    page.sees("Both hands tap the rhythm")
    assert page.errors() == []


def test_two_windows_on_one_ladder(site, open_browser):
    """What one changed the other is told, shown, and may then change further; no change is lost."""
    one, other = Page(open_browser()), Page(open_browser())
    piece = first_year(site)
    for page in (one, other):
        page.driver.get(f"{site.url}/pieces/{piece}?rung=join:1-4:both")
        page.click("Change this rung")
        page.sees("The ladder stands as it was built.")
    one.click("Higher")
    one.sees("1 change of yours.")
    other.click("Lower")
    other.sees("another window")
    other.sees("1 change of yours.")
    other.click("Lower")
    other.sees("2 changes of yours.")
    other.until(lambda: study(site, piece)["edits"] == 2)  # it is on the screen before it is stored
