"""Quick entry through the real interface: eight bars of a waltz by keyboard alone, counted keys and time; a bar that is too
long; a killed tab, a stopped server; touch."""

from __future__ import annotations

import pytest
from page import Page
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_count_journeys import RULER, choose

pytestmark = pytest.mark.browser

#: Right hand: quarters, eighths, a triplet and a tie. Left hand: bass, chord, chord, the same again where it is the same.
RIGHT = "4 e g c 8 b a 4 g e 2 f 4 d 2 e . 4 e g c 8 3 d c b 4 a f 2 d . t d ."
LEFT = "h Home 4 c e G e G = g b D b D c e G e G = f a C a C g b D b D ="
WALTZ = [*RIGHT.split(), *LEFT.split()]


def begin(page: Page, url: str, title: str, signature: str = "3/4") -> int:
    """Begins a passage from the shelf; its id."""
    page.driver.get(f"{url}/pieces")
    page.click("Write one")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog] input"))
    page.driver.find_element(By.CSS_SELECTOR, "[role=dialog] input").send_keys(title)
    choose(page, "Time signature", signature)
    page.click("Begin")
    page.until(lambda: "view=write" in page.driver.current_url)
    page.until(lambda: page.driver.execute_script("return document.activeElement?.matches('[data-entry]')"))
    return int(page.driver.current_url.split("/pieces/")[1].split("?")[0])


def type_keys(page: Page, *keys: str) -> None:
    names = {"Home": Keys.HOME, "Enter": Keys.ENTER, "Backspace": Keys.BACKSPACE, "Left": Keys.ARROW_LEFT}
    for key in keys:
        ActionChains(page.driver).send_keys(names.get(key, key)).perform()


def stored(site, piece: int) -> dict:
    return site.http.get(f"{site.url}/api/pieces/{piece}/entry", timeout=30).json()


def lengths(now: dict, hand: str) -> list[str]:
    return [" ".join(e["length"] for e in bar[hand]) for bar in now["bars"]]


def test_eight_bars_of_a_waltz_by_keyboard_alone(site, open_browser):
    page = Page(open_browser())
    piece = begin(page, site.url, "A Little Waltz")
    assert page.axe() == []
    type_keys(page, *WALTZ)
    page.until(lambda: len(stored(site, piece)["bars"]) == 8 and stored(site, piece)["bars"][7]["left"])
    now = stored(site, piece)
    assert now["faults"] == []
    assert lengths(now, "right") == [
        "1 1 1", "1/2 1/2 1 1", "2 1", "3", "1 1 1", "1/3 1/3 1/3 1 1", "3", "3",
    ]  # fmt: skip
    assert lengths(now, "left") == ["1 1 1"] * 8
    assert now["bars"][6]["right"][0]["is_tied"] is True
    notes = sum(len(e["pitches"]) for bar in now["bars"] for hand in ("right", "left") for e in bar[hand])
    assert len(WALTZ) / notes < 2.2
    # It is a score like any other: counted at once on the same ruler, exported, practised.
    page.until(lambda: "Count: 1, 2, 3, 1, &, 2, 3" in page.driver.execute_script(RULER), what="it is not counted")
    assert page.axe() == []
    page.view("Ladder")
    page.sees("Say the count")
    page.view("Pencil")
    page.sees("E5, quarter · right hand")
    assert page.errors() == []


def test_a_bar_too_long_is_said_and_kept_and_nothing_is_lost(site, open_browser):
    driver = open_browser()
    page = Page(driver)
    piece = begin(page, site.url, "Too long")
    type_keys(page, "4", "x", "x", "Left", "2", "x")
    page.sees("Bar 1 is one quarter too long, right hand")
    assert lengths(stored(site, piece), "right") == ["1 2 1"]
    ActionChains(driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    page.until(lambda: "too long" not in page.text())
    page.sees("bar 1 is one quarter short")

    # A stopped server: what is typed stays, is said to, and is stored when the server is back.
    site.stop()
    type_keys(page, "Enter", "4", "c", "d", "e")
    page.sees("kept on this device", 20)
    assert "server does not answer" in page.text()
    site.start()
    page.until(lambda: lengths(stored(site, piece), "right")[1:] == ["1 1 1"], 20, "it was not stored again")
    page.sees("stored")

    # A killed tab: what was typed a moment before is there again.
    type_keys(page, "2", "f")
    driver.get("about:blank")
    driver.get(f"{site.url}/pieces/{piece}?view=write")
    page.until(lambda: lengths(stored(site, piece), "right")[2:] == ["2"], 20, "the killed tab lost a note")
    assert page.errors() == []


def test_by_touch_on_a_phone(site, open_browser):
    driver = open_browser(390, 844, touch=True)
    page = Page(driver)
    piece = begin(page, site.url, "By touch", "2/4")
    for words in ("8 eighth", "note c", "note d", "4 quarter", "x strike"):
        label = words if words.startswith("note") else words[1:].strip()
        page.touch(page.button(label))
    page.until(lambda: lengths(stored(site, piece), "right")[0] == "1/2 1/2 1")
    assert driver.execute_script("return document.documentElement.scrollWidth") <= 390
    assert page.axe() == []
    assert page.errors() == []


def test_name_meter_and_tempo_are_changed_while_it_is_written(site, open_browser):
    page = Page(open_browser())
    piece = begin(page, site.url, "Nameless", "3/4")
    type_keys(page, *["4", "c", "d", "e", "4", "c", "d", "e"])
    page.until(lambda: stored(site, piece)["bars"][1:])
    page.click("Name, meter, tempo")
    page.until(lambda: page.driver.find_element(By.CSS_SELECTOR, "details input[maxlength='200']").is_displayed())
    name = page.driver.find_element(By.CSS_SELECTOR, "details input[maxlength='200']")
    name.send_keys(Keys.CONTROL + "a")
    name.send_keys("Five Pebbles", Keys.ENTER)
    page.until(lambda: stored(site, piece)["title"] == "Five Pebbles")
    page.until(lambda: "Five Pebbles" in page.driver.find_element(By.CSS_SELECTOR, "h1").text)
    choose(page, "Time signature", "2/4")
    page.sees("too long")
    now = stored(site, piece)
    assert (now["beats"], now["title"]) == (2, "Five Pebbles")
    assert lengths(now, "right") == ["1 1 1", "1 1 1"]  # what was typed is kept
    # What is typed afterwards does not undo it.
    page.driver.find_element(By.CSS_SELECTOR, "[data-entry]").click()
    type_keys(page, "Backspace")
    page.until(lambda: lengths(stored(site, piece), "right") != ["1 1 1", "1 1 1"])
    assert stored(site, piece)["title"] == "Five Pebbles"
