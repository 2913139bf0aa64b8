"""Every dialog, menu, open list and opened part, and what a view is like while it works or is refused: at the desk and in
a hand nothing is found by axe, nothing to be touched is smaller than a finger, nothing runs out of the screen."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import pytest
from page import Page
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_play_journeys import add
from test_stand_journeys import LAP, SMALL, VIEWS

pytestmark = pytest.mark.browser

OPEN_ALL = """
for (const part of document.querySelectorAll('main details')) part.open = true;
return document.querySelectorAll('main details').length;
"""
LISTS = "main [aria-haspopup=listbox]"

#: What stands above the page may lie on what is under it: only what is on top is touched.
ON_TOP = "return document.querySelector('[role=dialog], [role=listbox], [role=menu]:not([hidden])') !== null"


class Seen:
    """A page at the desk or in a hand, and all that was wrong with what was looked at."""

    def __init__(self, page: Page, is_phone: bool) -> None:
        self.page, self.is_phone = page, is_phone
        self.wrong: list[tuple[str, str]] = []

    def look(self, what: str) -> None:
        found = self.page.axe()
        if self.is_phone:
            found += self.page.driver.execute_script(SMALL)
        if self.page.driver.execute_script("return document.documentElement.scrollWidth > innerWidth"):
            found.append("it runs out of the screen")
        self.wrong += [(what, one) for one in found]


def shows(page: Page, selector: str) -> Callable[[], object]:
    return lambda: [e for e in page.driver.find_elements(By.CSS_SELECTOR, selector) if e.is_displayed()]


@pytest.fixture(params=[(1280, 800), (390, 844)], ids=["desk", "phone"])
def seen(request, open_browser) -> Iterator[Seen]:
    width, height = request.param
    looked = Seen(Page(open_browser(width, height, touch=width < 500)), width < 500)
    yield looked
    assert looked.wrong == []


def go(page: Page, url: str) -> None:
    page.driver.get(url)
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "main h1"))
    page.until(lambda: "…" not in page.driver.find_element(By.TAG_NAME, "main").text[:40])


def test_all_that_opens_in_a_view(site, seen):
    page = seen.page
    piece = add(site, "harbour-steps")
    take = site.http.post(f"{site.url}/api/pieces/{piece}/takes/simulated", json=LAP, timeout=60).json()["id"]
    places = [f"/pieces/{piece}?view={view}" for view in VIEWS]
    places += ["/pieces", f"/pieces/{piece}/takes/{take}"]
    places += [f"/settings/{part}" for part in ("counting", "syllables", "limits", "voice")]
    opened = 0
    for place in places:
        go(page, f"{site.url}{place}")
        page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "main button, main input"))
        opened += page.driver.execute_script(OPEN_ALL)
        lists = [one for one in page.driver.find_elements(By.CSS_SELECTOR, LISTS) if one.is_displayed()]
        if lists:
            lists[-1].send_keys(Keys.ARROW_DOWN)
            page.until(shows(page, "[role=option]"))
            assert page.driver.execute_script(ON_TOP)
        seen.look(place)
    assert opened >= 5


def test_dialogs_and_menus(site, seen):
    page = seen.page
    piece = add(site, "harbour-steps")
    take = site.http.post(f"{site.url}/api/pieces/{piece}/takes/simulated", json=LAP, timeout=60).json()["id"]

    go(page, f"{site.url}/pieces")
    page.click("More for “Harbour Steps”")
    page.until(shows(page, "[role=menuitem]"))
    seen.look("the menu of a piece")
    page.press("Escape", "Escape")
    page.click("Write one")
    page.until(shows(page, "[role=dialog] input"))
    seen.look("write a passage")
    page.driver.find_element(By.CSS_SELECTOR, "[role=dialog] [aria-haspopup=listbox]").send_keys(Keys.ARROW_DOWN)
    page.until(shows(page, "[role=option]"))
    seen.look("a list in a dialog")

    go(page, f"{site.url}/pieces/{piece}?free=lap")
    page.click("Help")
    page.until(shows(page, "[role=dialog]"))
    seen.look("help")
    page.click("Close")
    page.view("Takes")
    for words in ("A student to try it with", "Let the simulated student play"):  # on a phone behind the foot
        page.driver.execute_script("arguments[0].click()", page.button(words))
    page.until(shows(page, "[role=dialog]"))
    page.click("Add a fault")
    seen.look("the simulated student")

    go(page, f"{site.url}/pieces/{piece}/takes/{take}")
    page.click("More for this take")
    page.until(shows(page, "[role=menuitem]"))
    seen.look("the menu of a take")


def test_while_it_works_and_when_it_is_refused(site, seen, tmp_path):
    page = seen.page
    piece = add(site, "harbour-steps")
    go(page, f"{site.url}/pieces/{piece}?free=lap")
    page.click("Record")
    page.until(shows(page, "[aria-label='Tap zones'] button"))
    seen.look("a take that runs")
    page.click("Discard")
    page.until(shows(page, "nav[aria-label=Ladder] button"))

    # One key down once is no take that could be followed.
    taps = {
        "activity": "lap",
        "bpm": 66,
        "hands": "both",
        "client_key": "c" * 20,
        "taps": [{"t": 1.0, "hand": "right"}],
    }
    answer = site.http.post(f"{site.url}/api/pieces/{piece}/takes", json=taps, timeout=60)
    assert answer.status_code < 300, answer.text
    go(page, f"{site.url}/pieces/{piece}/takes/{answer.json()['id']}")
    seen.look("a take that could not be followed")

    page.remove("More for this take")
    page.sees("The take is removed.")
    seen.look("what can be undone")

    bad = tmp_path / "broken.musicxml"
    bad.write_text("<score-partwise><part")
    go(page, f"{site.url}/pieces")
    page.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(bad))
    page.sees("The file is damaged")
    seen.look("a file that is refused")

    for place in ("/pieces/77777", f"/pieces/{piece}/takes/77777", "/nowhere", "/settings/nowhere"):
        go(page, f"{site.url}{place}")
        seen.look(place)
