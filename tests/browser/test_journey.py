"""Whole journeys through the real interface: from a dropped score to a checked take, and back again."""

from __future__ import annotations

import time

import pytest
from page import Page
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_count_journeys import choose

from helpers import demo_score
from laptick.core.score.score import Hand
from laptick.core.takes.task import lap_task
from laptick.db import takes
from laptick.db.engine.connect import connect

pytestmark = pytest.mark.browser

KEYS = {Hand.LEFT: ("KeyF", "f"), Hand.RIGHT: ("KeyJ", "j")}
BPM = 56  # where practice of this piece starts: the mark below 65 % of its printed 88


def tap_passage(page: Page, begin_epoch_s: float, measures: str) -> list[float]:
    """Taps a passage with both hands by real keys, evenly; returns the seconds from the first tap."""
    score = demo_score("harbour-steps")
    task = lap_task(score, assigned_bpm=BPM, measures=score.select_measures(measures))
    planned = [(float(e.onset_quarters) * task.quarter_s, e.hand) for e in task.expected]
    for at_s, hand in planned:
        wait = begin_epoch_s + at_s - time.time()
        if wait > 0:
            time.sleep(wait)
        page.press(*KEYS[hand], at_epoch_s=begin_epoch_s + at_s)
    return [at_s for at_s, _ in planned]


@pytest.mark.clock
def test_from_a_dropped_score_to_a_checked_take_and_back(site, db, open_browser, score_file):
    driver = open_browser()
    page = Page(driver)
    page.add_score(site.url, score_file)
    assert page.axe() == []

    # Play along: the cursor moves along the ruler, Space stops it.
    page.free("Lap taps")
    page.sees("Both hands tap the rhythm")
    assert page.axe() == []
    page.driver.find_element(By.TAG_NAME, "h1").click()
    page.press("Space", " ")
    page.until(lambda: "Stop" in page.text())
    moving = (
        "return [...document.querySelectorAll('[data-cursor]')].filter(c => c.style.visibility === 'visible')"
        ".map(c => c.style.transform).join()"
    )
    first = page.until(lambda: driver.execute_script(moving), 12)
    page.until(lambda: driver.execute_script(moving) not in ("", first))
    page.press("Space", " ")
    page.until(lambda: "Play along" in page.text())

    # Three bars only, by mouse and Shift.
    page.click("bar 1, line 1, bar 1")
    last = page.button("bar 3, line 1, bar 3")
    ActionChains(driver).key_down(Keys.SHIFT).click(last).key_up(Keys.SHIFT).perform()
    page.sees("Only bars 1 to 3")

    # A take by real keys.
    driver.find_element(By.TAG_NAME, "h1").click()
    page.press("KeyR", "r")
    begin = page.wait_for_the_beat()
    planned = tap_passage(page, begin + 0.01, "1-3")
    page.sees("See this take", 20)
    page.click("See this take")
    page.sees("Every note, nothing extra.")
    page.sees("Steady")
    assert page.axe() == []
    take_url = driver.current_url
    pins = len(driver.find_elements(By.CSS_SELECTOR, "svg g > title"))

    # Stored as tapped: the keys' own time stamps, to 3 ms.
    stored = takes.get_take(connect(db), 1, int(take_url.rsplit("/", 1)[1]))
    times = [tap["t"] for tap in stored["strikes"]["taps"]]
    assert len(times) == len(planned) == pins
    for asked, got in zip(planned, times, strict=True):
        assert abs((got - times[0]) - (asked - planned[0])) < 0.003
    assert stored["settings"]["measures"] == "1-3"

    # The figures, a note, a reload.
    page.click("Figures")
    page.sees("drift, first to last bar")
    assert page.axe() == []
    driver.find_element(By.CSS_SELECTOR, "textarea[rows='3']").send_keys("even, try 72 next")
    page.sees("Saved.")
    driver.refresh()
    page.sees("Steady")
    assert driver.find_element(By.CSS_SELECTOR, "textarea[rows='3']").get_attribute("value") == "even, try 72 next"
    assert len(driver.find_elements(By.CSS_SELECTOR, "svg g > title")) == pins

    # Removed, and brought back.
    page.remove("More for this take")
    page.sees("The take is removed.")
    page.until(lambda: "None yet" in page.text())
    page.click("Undo")
    page.until(lambda: "lap taps, bars 1–3 · at" in page.text())
    assert page.errors() == []


def test_the_simulated_student_with_a_fault_in_words(site, open_browser, score_file):
    driver = open_browser()
    page = Page(driver)
    page.add_score(site.url, score_file)
    page.free("Lap taps")
    page.view("Takes")
    page.click("A student to try it with")
    page.click("Let the simulated student play")
    page.sees("Let the simulated student play")
    page.click("Add a fault")
    choose(page, "Fault", "stops before")
    page.button("Fault: stops before")
    choose(page, "Where", "bar 7")
    page.button("Where: bar 7")
    assert page.axe() == []
    page.click("Let it play")
    page.sees("You stop before bar 7.")
    page.sees("bar 7 · line 2, bar 3")
    page.sees("Practise beat 4 of bar 6 into beat 1 of bar 7")
    assert page.axe() == []
    assert page.errors() == []


@pytest.mark.clock
def test_saying_the_count_and_an_untapped_take(site, open_browser, score_file):
    driver = open_browser()
    page = Page(driver)
    page.add_score(site.url, score_file)
    page.free("Say the count")
    page.sees("tap once for each word")
    page.press("ArrowRight", "ArrowRight")
    page.sees("Only bar 1")
    page.press("KeyR", "r")
    begin = page.wait_for_the_beat()
    page.sees("tap each word")
    for at_quarters in (0, 1, 1.5, 2, 3):
        time.sleep(max(0.0, begin + at_quarters * 60 / BPM - time.time()))
        page.press("KeyJ", "j", begin + at_quarters * 60 / BPM)
    page.sees("See this take", 20)
    page.sees("Steady")

    page.press("KeyR", "r")
    page.wait_for_the_beat()
    assert page.axe() == []
    page.press("Space", " ")
    page.sees("Nothing was tapped")
    page.view("Takes")
    page.sees("the count, bar 1")


@pytest.mark.clock
def test_a_take_tapped_while_the_server_is_away_is_not_lost(site, open_browser, score_file):
    driver = open_browser()
    page = Page(driver)
    page.add_score(site.url, score_file)
    page.free("Say the count")
    page.sees("tap once for each word")
    page.press("ArrowRight", "ArrowRight")
    page.press("KeyR", "r")
    begin = page.wait_for_the_beat()
    site.stop()
    for at_quarters in (0, 1, 1.5, 2, 3):
        time.sleep(max(0.0, begin + at_quarters * 60 / BPM - time.time()))
        page.press("KeyJ", "j", begin + at_quarters * 60 / BPM)
    page.sees("kept on this device", 30)
    site.start()
    driver.refresh()
    page.sees("1 take on this device is not stored yet")
    assert page.axe() == []
    page.click("Send it now")
    page.until(lambda: "not stored yet" not in page.text())
    page.view("Takes")
    page.sees("Every note, nothing extra.")  # five taps: too few for praise of the beat


def test_bad_files_are_told_and_the_shelf_stays(site, open_browser, tmp_path):
    bad = tmp_path / "broken.musicxml"
    bad.write_text("<score-partwise><part")
    driver = open_browser()
    page = Page(driver)
    driver.get(f"{site.url}/pieces")
    page.sees("The shelf is empty.")
    assert page.axe() == []
    driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(bad))
    page.sees("The file is damaged, or breaks off, at line 1")
    page.sees("Nothing was changed.")
    page.sees("The shelf is empty.")
    driver.get(f"{site.url}/pieces/77")
    page.sees("This piece is not on the shelf")


@pytest.mark.clock
def test_on_a_phone(site, db, open_browser, score_file):
    driver = open_browser(390, 844, touch=True)
    page = Page(driver)
    page.add_score(site.url, score_file)
    page.free("Lap taps")
    page.sees("Both hands tap the rhythm")
    wide = "return document.scrollingElement.scrollWidth"
    assert driver.execute_script(wide) <= 390
    assert page.axe() == []
    page.touch(page.button("bar 1, line 1, bar 1"))
    page.sees("Only bar 1")
    page.touch(page.button("Record"))
    page.sees("Discard")
    left, right = driver.find_elements(By.CSS_SELECTOR, "[aria-label='Tap zones'] button")
    assert min(left.rect["width"], right.rect["width"]) > 120
    assert left.rect["x"] < right.rect["x"]
    points = {"left": page.middle(left), "right": page.middle(right)}
    page.wait_for_the_beat()
    begin = time.time() + 0.05
    taps = ((0, "right"), (0.02, "left"), (1, "right"), (1.5, "right"), (2, "right"), (2.02, "left"), (3, "right"))
    for at_quarters, zone in taps:
        at_s = begin + at_quarters * 60 / BPM
        time.sleep(max(0.0, at_s - time.time()))
        page.touch_at(points[zone], at_s)
    page.sees("See this take", 20)
    page.click("See this take")
    page.until(lambda: "/takes/" in driver.current_url)
    stored = takes.get_take(connect(db), 1, int(driver.current_url.rsplit("/", 1)[1]))
    tapped = [(tap["t"], tap["hand"]) for tap in stored["strikes"]["taps"]]
    assert [hand for _, hand in tapped] == [zone for _, zone in taps]
    for (asked, _), (got, _) in zip(taps, tapped, strict=True):
        assert abs((got - tapped[0][0]) - asked * 60 / BPM) < 0.003
    page.sees("Back to the rung")
    assert driver.execute_script(wide) <= 390
    assert page.axe() == []
    assert page.errors() == []
