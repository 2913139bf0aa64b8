"""The together map: read, looked at place by place, lined up by key, by tap and at a keyboard, at three sizes."""

from __future__ import annotations

import time

import pytest
from page import Page
from selenium.webdriver.common.by import By
from test_keys_journeys import KEYBOARD
from test_play_journeys import add

pytestmark = pytest.mark.browser

RULER = "return document.querySelectorAll('[data-position]').length"
NOW = "return document.querySelector('[aria-label=\"Line it up\"]').innerText"


def open_map(page: Page, site) -> int:
    piece = add(site, "harbour-steps")
    page.driver.get(f"{site.url}/pieces/{piece}?view=together")
    page.until(lambda: page.driver.execute_script(RULER))
    return piece


def test_from_the_hardest_place_to_lining_it_up_and_to_practising_it(site, open_browser):
    page = Page(open_browser())
    piece = open_map(page, site)
    page.sees("Hardest first")
    site.http.patch(f"{site.url}/api/pieces/{piece}", json={"level": "first-year"}, timeout=60).raise_for_status()
    page.driver.refresh()
    page.sees("Harder to join than its level")
    page.click("Bar 2 into 3")
    page.sees("The left hand moves down 4 steps")
    assert page.axe() == []
    page.click("Line it up")
    # From where the hand that moves last played, the fourth beat of bar 2.
    page.until(lambda: "beat 4" in page.driver.execute_script(NOW) and "G3" in page.driver.execute_script(NOW))
    assert page.axe() == []
    page.press("ArrowRight", "ArrowRight")
    page.until(lambda: "Together" in page.driver.execute_script(NOW))
    assert "bar 3" in page.driver.execute_script(NOW)
    # With the hands: the wrong one is told, both are on.
    page.press("ArrowLeft", "ArrowLeft")
    page.until(lambda: "beat 4" in page.driver.execute_script(NOW))
    page.press("KeyJ", "j")
    page.sees("Not the right hand here.")
    page.press("KeyF", "f")
    page.until(lambda: "Together" in page.driver.execute_script(NOW))
    page.press("KeyF", "f")
    page.press("KeyJ", "j")
    page.until(lambda: "Right" in page.driver.execute_script(NOW))
    page.press("Escape", "Escape")
    page.sees("Hardest first")
    page.click("Practise it")
    page.sees("Only bars 2 to 3")
    assert page.errors() == []


def test_at_a_keyboard_just_the_right_keys_lead_on(site, open_browser):
    page = Page(open_browser())
    page.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": KEYBOARD})
    open_map(page, site)
    page.click("Line up the piece")
    page.click("With a MIDI keyboard")
    page.click("Look for a keyboard")
    page.sees("Press a key to see whether it is heard.")

    def send(status: int, *keys: int) -> None:
        page.driver.execute_script(
            "for (const key of arguments[1]) window.sends([arguments[0], key, 64])", status, keys
        )

    def step() -> str:
        return page.driver.execute_script(NOW)

    assert "1 of 41" in step()
    send(0x90, 48, 72, 74)  # with a neighbour: a hit by chance
    page.sees("A key is down that is not in it")
    assert "1 of 41" in step()
    send(0x80, 74)
    page.until(lambda: "2 of 41" in step())
    send(0x90, 74)  # D5, while C5 is still down and is to be let go
    time.sleep(0.3)
    assert "2 of 41" in step()
    send(0x80, 72)
    page.until(lambda: "3 of 41" in step())
    assert page.errors() == []


def test_the_same_on_the_engraved_page(site, open_browser):
    page = Page(open_browser())
    open_map(page, site)
    page.click("notation")
    page.until(lambda: page.driver.execute_script("return document.querySelectorAll('.notation svg').length"))
    names = "return [...document.querySelectorAll('[data-position]')].map((one) => one.dataset.position)"
    page.until(lambda: set(page.driver.execute_script(names)) == {"C position", "G position"})
    page.click("Line up the piece")
    page.press("Space", " ")
    page.until(lambda: "2 of 41" in page.driver.execute_script(NOW))
    # D5 goes down, round; C3 holds, square and dashed.
    framed = "return [...document.querySelectorAll('[data-picked], .border-dashed')].map((one) => one.className)"
    held, struck = page.until(
        lambda: len(page.driver.execute_script(framed)) == 2 and page.driver.execute_script(framed)
    )
    assert "border-lefthand" in held
    assert "rounded-full" in struck
    assert page.axe() == []
    assert page.errors() == []


def test_it_is_read_at_three_sizes(site, open_browser):
    page = Page(open_browser(1280, 800))
    open_map(page, site)
    for width, height in ((1280, 800), (820, 1180), (390, 844)):
        page.driver.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride",
            {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False},
        )
        page.until(lambda width=width: page.driver.execute_script("return innerWidth") == width)
        page.until(lambda: page.driver.execute_script(RULER))
        assert page.driver.execute_script("return document.documentElement.scrollWidth") <= width
        assert page.axe() == [], width


def test_a_strike_on_a_phone_is_not_under_the_card(site, open_browser):
    page = Page(open_browser(390, 844, touch=True))
    open_map(page, site)
    page.click("Line up the piece")
    for at in range(2, 24):
        page.click("Next")
        page.until(lambda at=at: f"{at} of 41" in page.driver.execute_script(NOW))
    time.sleep(0.4)
    row, card = page.driver.execute_script(
        "const c = document.querySelector('[data-cursor]').firstElementChild.getBoundingClientRect();"
        "return [[c.top, c.bottom], document.querySelector('[data-over-ruler]').getBoundingClientRect().bottom]"
    )
    assert card <= row[0] < row[1] <= 844
    assert page.driver.find_element(By.CSS_SELECTOR, "[data-cursor]").value_of_css_property("visibility") == "visible"
    assert page.axe() == []
