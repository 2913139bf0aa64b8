"""The count, the roadmap and the sheet through the real interface."""

from __future__ import annotations

import time

import pypdfium2
import pytest
from page import Page
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from helpers import demo_score
from laptick.formats.midi.score_writer import write_midi
from sampling import FULL

pytestmark = pytest.mark.browser

WIDE = "return document.documentElement.scrollWidth"
RULER = "return [...document.querySelectorAll('svg[role=img]')].map(s => s.getAttribute('aria-label')).join(' ')"


#: The option with these words, or that holds them, where it can be reached: the list is put to its place after it has
#: opened.
OPTION = """
const options = [...document.querySelectorAll('[role=option]')];
const found = options.find((o) => o.innerText === arguments[0]) ?? options.find((o) => o.innerText.includes(arguments[0]));
if (!found) return null;
const b = found.getBoundingClientRect();
return found.contains(document.elementFromPoint(b.x + b.width / 2, b.y + b.height / 2)) ? found : null;
"""


def choose(page: Page, label: str, words: str) -> None:
    """Picks an option of one of our lists, by keyboard."""
    page.until(lambda: page.button(f"{label}:").send_keys(Keys.ARROW_DOWN) or True)
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[role=option]"))
    pressed_s = 0.0

    def taken() -> bool:
        """Pressed until the list is gone: a list that is put to its place just then takes a press beside it."""
        nonlocal pressed_s
        if not page.driver.find_elements(By.CSS_SELECTOR, "[role=option]"):
            return True
        option = page.driver.execute_script(OPTION, words)
        if option and time.monotonic() - pressed_s > 2:
            option.click()
            pressed_s = time.monotonic()
        return False

    page.until(taken, what=f"“{words}” cannot be reached")


def write(field: WebElement, text: str, *, enter: bool = True) -> None:
    """Replaces what stands in a field, by keyboard."""
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys(text)
    if enter:
        field.send_keys(Keys.ENTER)


def test_from_a_score_to_a_count_sheet_and_back_in(site, open_browser, score_file, tmp_path):
    driver = open_browser()
    page = Page(driver)
    page.add_score(site.url, score_file)
    piece = driver.current_url.split("/pieces/")[1].split("?")[0]
    page.click("Count")
    page.sees("How it is counted")
    assert page.axe() == []

    # Another way of counting, at once on the ruler.
    choose(page, "Way of counting", "ta ka di mi")
    page.until(lambda: "Count: ta, ta, di" in driver.execute_script(RULER), what="the ruler is not counted anew")

    # One count said otherwise, by keyboard; it is listed, and can be taken back.
    page.count_of("1", 2)
    field = page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "section[aria-label='Say it otherwise'] input"))[0]
    write(field, "hop")
    page.sees("says “hop”")
    page.until(lambda: "Count: ta, ta, hop" in driver.execute_script(RULER))
    driver.refresh()
    page.sees("says “hop”")

    # One bar counted in another beat; listed, and taken back.
    page.click("Change a count of bar 2:")
    page.sees("All of bar 2")
    assert page.axe() == []
    choose(page, "The beat", "halves")
    page.sees("bar 2: the beat in halves")
    page.click("Remove the choice for bar 2")
    page.until(lambda: "the beat in halves" not in page.text())

    # In notation, the same.
    page.click("notation")
    page.until(lambda: "hop" in driver.execute_script("return document.querySelector('.notation')?.textContent ?? ''"))
    assert page.axe() == []

    # On paper, and out and in again.
    address = page.button("As PDF").get_attribute("href")
    sheet = site.made(address)
    text = " ".join(p.get_textpage().get_text_range() for p in pypdfium2.PdfDocument(sheet.content))
    assert "hop" in text
    assert "Harbour Steps" in text
    assert "Hardest first" not in text
    choose(page, "Joining the hands", "where hands stand")
    page.until(lambda: "map=8" in str(page.button("As PDF").get_attribute("href")))
    address = page.button("As PDF").get_attribute("href")
    sheet = site.made(address)
    text = " ".join(p.get_textpage().get_text_range() for p in pypdfium2.PdfDocument(sheet.content))
    assert "Hardest first" in text
    out = site.http.get(f"{site.url}/api/pieces/{piece}/export?format=musicxml&counts=true", timeout=60).content
    again = tmp_path / "with-counts.musicxml"
    again.write_bytes(out)
    page.add_score(site.url, str(again))
    assert driver.current_url.split("/pieces/")[1].split("?")[0] != piece
    page.view("Roadmap")
    page.sees("everything in it is used")
    assert page.errors() == []

    # What was said otherwise can be taken back.
    driver.get(f"{site.url}/pieces/{piece}?view=count")
    page.click("Remove “hop” in bar 1")
    page.until(lambda: "says “hop”" not in page.text())
    page.click("Remove the choice for the piece")
    page.until(lambda: "Changed by hand" not in page.text())


def test_the_playing_order_is_corrected_and_lines_are_moved(site, open_browser, score_file):
    driver = open_browser()
    page = Page(driver)
    page.add_score(site.url, score_file)
    page.view("Roadmap")
    page.sees("As it is written, every bar once")
    page.sees("the same as bar 1")
    assert page.axe() == []
    page.click("Correct it")
    field = driver.find_element(By.CSS_SELECTOR, "section[aria-label='Playing order'] input")
    write(field, "1-9", enter=False)
    page.sees("There is no bar “9”")
    write(field, "1-4, 1-8")
    page.sees("As you ordered it. 12 bars in all")
    page.view("Ladder")
    page.sees("Played, as you ordered it: bars 1–4 · 1–8")
    page.view("Roadmap")
    page.click("Back to the signs of the score")
    page.sees("As it is written, every bar once")
    page.click("begin a line here")
    page.sees("bar 2 · line 2, bar 1")
    assert page.errors() == []


def test_nothing_scrolls_sideways(site, open_browser, score_file):
    """On a tablet, zoomed in and on a phone, each view turned from one to the next."""
    sizes = [(820, 1180), (640, 400), (390, 844)]
    driver = open_browser(*sizes[0])
    page = Page(driver)
    page.add_score(site.url, score_file)
    address = driver.current_url.split("?")[0]
    places = {f"{address}?view={view}": words for view, words in (
        ("count", "How it is counted"), ("roadmap", "Playing order"), ("pencil", "Write at this place"),
        ("ask", "Bars of the same rhythm"), ("ladder", "Takes"),
    )}  # fmt: skip
    places |= {f"{site.url}/settings/{part}": words for part, words in (
        ("counting", "How we count"), ("syllables", "beat"), ("limits", "A fault is named"), ("voice", "voice"),
    )}  # fmt: skip
    for place, words in places.items():
        driver.get(place)
        for width, height in sizes:
            driver.execute_cdp_cmd(
                "Emulation.setDeviceMetricsOverride",
                {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False},
            )
            page.until(lambda width=width: driver.execute_script("return innerWidth") == width)
            page.sees(words)
            assert driver.execute_script(WIDE) <= width, (place, width)
            if (width, height) == sizes[-1] or FULL:
                assert page.axe() == [], (place, width)


def test_a_midi_file_is_read_another_way_while_one_looks(site, open_browser, tmp_path):
    file = tmp_path / "harbour.mid"
    file.write_bytes(write_midi(demo_score("harbour-steps")))
    driver = open_browser()
    page = Page(driver)
    page.add_score(site.url, str(file))
    page.view("Roadmap")
    page.sees("quantised to parts of 1/4")
    choose(page, "Written to", "eighths, and triplets")
    page.sees("quantised to parts of 1/2")
    boxes = driver.find_elements(By.CSS_SELECTOR, "section[aria-label='The file'] input[type=checkbox]")
    assert [box.is_selected() for box in boxes] == [True, True]
    boxes[1].click()
    page.sees("1 more track(s): left hand")
    page.sees("Hands divided")
    assert page.axe() == []
    assert page.errors() == []


def test_settings_hold_for_pieces_without_a_choice_of_their_own(site, open_browser, score_file):
    driver = open_browser()
    page = Page(driver)
    page.add_score(site.url, score_file)
    piece = driver.current_url.split("?")[0]
    page.click("Settings")
    page.sees("How we count")
    assert page.axe() == []
    example = "return document.querySelector('[aria-label=Example]').innerText.replace(/\\s+/g, ' ')"
    page.until(lambda: "1 2 & 3 trip let 4 e & a" in driver.execute_script(example))
    page.click("Syllables")
    field = page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "input[aria-label='Words for a beat in two']"))[0]
    write(field, "1 and")
    page.sees("back to 1 &")
    page.click("Counting")
    page.until(lambda: "1 2 and 3 trip let" in driver.execute_script(example))
    page.click("Syllables")
    field = page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "input[aria-label='Words for a beat in two']"))[0]
    write(field, "one too many")
    page.sees("2 words, please")
    driver.get(f"{piece}?view=count")
    page.until(lambda: "Count: 1, 2, and, 3" in driver.execute_script(RULER))
    driver.get(f"{site.url}/settings/syllables")
    page.click("back to 1 &")
    page.until(lambda: "back to 1 &" not in page.text())
    page.click("Counting")
    page.until(lambda: "1 2 & 3 trip let" in driver.execute_script(example))
    assert page.errors() == []
