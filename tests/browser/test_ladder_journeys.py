"""The ladder through the real interface: built, changed, rebuilt; climbed without touching the screen; a cure done with
one key; the session that needs no touch; on paper. At three sizes, by keyboard where hands are on one."""

from __future__ import annotations

import pytest
from page import Page
from selenium.webdriver.common.by import By
from test_count_journeys import choose
from test_stand_journeys import add

pytestmark = pytest.mark.browser

SIZES = [(1280, 800), (820, 1180), (390, 844)]


def study(site, piece: int) -> dict:
    return site.http.get(f"{site.url}/api/pieces/{piece}/study", timeout=30).json()


def say(site, piece: int, *stages: str) -> None:
    """The teacher's word on every rung of some stages."""
    found = study(site, piece)
    for rung in found["rungs"]:
        if rung["stage"] in stages:
            answer = site.http.post(
                f"{site.url}/api/studies/{found['id']}/words", json={"rung": rung["key"]}, timeout=30
            )
            assert answer.status_code == 200


def first_year(site, **more) -> int:
    piece = add(site, "harbour-steps")
    site.http.patch(f"{site.url}/api/pieces/{piece}", json={"level": "first-year", **more}, timeout=30)
    return piece


def state_of(site, piece: int, key: str) -> str:
    return next(one["state"] for one in study(site, piece)["rungs"] if one["key"] == key)


@pytest.mark.parametrize("size", SIZES, ids=str)
def test_a_ladder_is_changed_rebuilt_and_put_back(site, open_browser, size):
    page = Page(open_browser(*size, touch=size[0] < 500))
    piece = first_year(site)
    page.driver.get(f"{site.url}/pieces/{piece}?rung=join:1-2:both")
    page.sees("Students stop at bar lines")
    assert page.axe() == []
    assert page.driver.execute_script("return document.documentElement.scrollWidth") <= size[0]
    page.click("Change this rung")
    page.sees("The ladder stands as it was built.")
    assert page.axe() == []
    page.driver.find_element(By.CSS_SELECTOR, "[role=dialog] input").send_keys("drop from the wrist")
    page.click("Keep")
    page.sees("1 change of yours.")
    page.click("Split in two")
    page.sees("2 changes of yours.")
    page.press("Escape", "Escape")
    page.sees("Touch: drop from the wrist")

    page.click("How it is taught")
    page.sees("usual at this level")
    assert page.axe() == []
    choose(page, "First", "count it")
    page.sees("chosen for this piece")
    page.press("Escape", "Escape")
    assert study(site, piece)["rungs"][0]["stage"] == "count"
    page.sees("Touch: drop from the wrist")  # it outlasts the rebuilding

    page.click("Change this rung")
    page.click("As it was built")
    page.sees("The ladder stands as it was built.")
    page.press("Escape", "Escape")
    page.until(lambda: "Touch:" not in page.text())
    assert page.errors() == []


@pytest.mark.clock
def test_three_rungs_are_climbed_without_touching_the_screen(site, open_browser):
    page = Page(open_browser())
    piece = first_year(site, target_bpm=208)
    say(site, piece, "hear", "count", "right", "left", "lap", "line-up")
    page.driver.get(f"{site.url}/pieces/{piece}?view=takes")
    page.click("A student to try it with")
    page.click("Use the stand-in")
    page.view("Ladder")
    page.sees("the simulated student plays on it when you record.")
    page.sees("Start the rounds")
    page.click("Rounds, sounds")
    for _ in range(6):
        page.click("more: Hands-free rounds")
    page.driver.find_element(By.TAG_NAME, "h1").click()
    page.press("KeyR", "r")
    page.until(lambda: state_of(site, piece, "join:2-3:both") == "passed", 150, "three rungs are not climbed")
    page.until(lambda: "join%3A3-4" in page.driver.current_url or "join:3-4" in page.driver.current_url, 30)
    page.press("Escape", "Escape")
    takes = site.http.get(f"{site.url}/api/pieces/{piece}/takes", timeout=30).json()["items"]
    assert {take["times_round"] for take in takes} == {4}
    spoken = page.driver.execute_script(
        "return performance.getEntriesByName('outcome-spoken').map((one) => Math.round(one.duration))"
    )
    print(f"the outcome was heard after {spoken} ms")
    assert len(spoken) >= 3
    assert page.errors() == []


def test_some_bars_have_a_ladder_of_their_own(site, open_browser):
    page = Page(open_browser())
    piece = first_year(site)
    page.driver.get(f"{site.url}/pieces/{piece}?free=play")
    page.click("bar 5, line 2, bar 1")
    page.sees("Only bar 5")
    page.click("Make a ladder of bar 5")
    page.until(lambda: "passage=5" in page.driver.current_url)
    page.sees("The ladder of bar 5.")
    page.sees("Hear it")
    page.click("Done")
    page.until(lambda: "1 of" in page.text())
    assert page.axe() == []
    page.click("the whole piece")
    page.until(lambda: "passage" not in page.driver.current_url)
    page.sees("The ladder of the whole piece.")
    assert page.errors() == []


def test_a_cure_is_done_with_one_key(site, open_browser):
    page = Page(open_browser())
    piece = first_year(site)
    fault = [{"kind": "hesitate", "amount": 2, "measure": "3"}]
    page.driver.get(f"{site.url}/pieces/{piece}?view=takes&free=play")
    page.click("A student to try it with")
    wanted = {"activity": "play", "bpm": 57, "measures": "1-4", "rung": "join:1-4:both", "seed": 3, "faults": fault}
    take = site.http.post(f"{site.url}/api/pieces/{piece}/takes/simulated", json=wanted, timeout=60).json()
    page.driver.get(f"{site.url}/pieces/{piece}/takes/{take['id']}")
    page.sees("Practise beat 4 of bar 2 into beat 1 of bar 3")
    # Watched from within: a take that is counted in and left alone ends by itself.
    page.driver.execute_script(
        "window.counted = setInterval(() => {"
        " if ([...document.querySelectorAll('button')].some((one) => one.innerText.includes('Discard')))"
        " window.wasCountedIn = true; }, 50)"
    )
    page.press("KeyC", "c")
    page.sees("Only bars 2 to 3")
    assert "free=play" in page.driver.current_url
    page.until(lambda: page.driver.execute_script("return window.wasCountedIn"), what="it is not counted in at once")
    assert page.errors() == []


@pytest.mark.clock
def test_a_session_that_needs_no_touch(site, open_browser):
    """What is heard and said is done when it was played; then the busier hand, on the stand-in."""
    page = Page(open_browser())
    piece = first_year(site, target_bpm=208)
    page.driver.get(f"{site.url}/pieces/{piece}?view=takes&free=play")
    page.click("A student to try it with")
    page.click("Use the stand-in")
    page.driver.get(f"{site.url}/pieces/{piece}")
    page.sees("Listen, finger on the notes.")
    page.driver.find_element(By.TAG_NAME, "h1").click()
    page.press("KeyG", "g")
    page.until(lambda: state_of(site, piece, "hear:1-4:both") == "passed", 120, "it is not heard")
    page.until(lambda: state_of(site, piece, "count:1-4:both") == "passed", 120, "it is not said")
    page.until(lambda: "right%3A1-4" in page.driver.current_url or "right:1-4" in page.driver.current_url, 30)
    page.sees("Play now", 30)
    page.press("Escape", "Escape")
    assert page.errors() == []


@pytest.mark.parametrize("shows", ["week", "colouring"])
def test_what_is_taken_along(site, open_browser, shows):
    page = Page(open_browser())
    piece = first_year(site)
    page.driver.get(f"{site.url}/pieces/{piece}")
    page.click("To take along")
    link = page.driver.find_element(By.CSS_SELECTOR, f"a[href*='practice-sheet?shows={shows}']")
    address = link.get_attribute("href")
    assert site.made(address).headers["content-type"] == "application/pdf"
    page.driver.get(f"{address}&format=html")
    assert page.axe() == []
