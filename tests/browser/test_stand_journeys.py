"""On a music stand and in a hand: while a take runs, its zones, the row that is played and the way out stay inside the
screen at every size; what is touched is as large as a finger; nothing is out of the keyboard's reach."""

from __future__ import annotations

import base64
import re
import time

import pypdfium2
import pytest
from page import Page
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_play_journeys import add

pytestmark = pytest.mark.browser

LAP = {"activity": "lap", "bpm": 66, "hands": "both", "faults": []}
SIZES = [(1280, 800), (1180, 820), (820, 1180), (844, 390), (390, 844), (360, 740), (640, 400)]
BY_TOUCH = {size for size in SIZES if size not in ((1280, 800), (640, 400))}

#: What lies outside the screen or under something else, by name. The row is the one under the cursor.
OUTSIDE = """
const box = (e) => e && e.getBoundingClientRect();
const inside = (b) => b && b.width > 0 && b.left >= 0 && b.top >= 0 && b.right <= innerWidth + .5 && b.bottom <= innerHeight + .5;
const free = (e) => { const b = box(e); const at = document.elementFromPoint(b.x + b.width / 2, b.y + b.height / 2);
  return e.contains(at) || at?.contains(e); };
const found = [];
for (const zone of document.querySelectorAll('[aria-label="Tap zones"] button'))
  if (!inside(box(zone)) || !free(zone)) found.push('zone ' + zone.innerText);
const end = [...document.querySelectorAll('button')].find((b) => b.innerText === 'End');
if (!end || !inside(box(end)) || !free(end)) found.push('End');
const cursor = document.querySelector('[data-cursor]');
if (cursor && cursor.style.visibility === 'visible') {
  const middle = box(cursor.firstElementChild);
  const row = [...document.querySelectorAll('[data-row]')].find((r) => box(r).top <= middle.y + 4 && box(r).bottom >= middle.bottom - 14);
  if (!row) found.push('no row under the cursor');
  else {
    const b = box(row), frame = box(row.closest('[data-stand]'));
    if (!inside(b) || b.bottom > frame.bottom + 1 || b.top < frame.top - 1) found.push('row ' + row.dataset.row);
  }
}
if (document.documentElement.scrollWidth > innerWidth) found.push('sideways');
return found;
"""

SEEN = "return [document.querySelector('[data-cursor]')?.style.visibility, document.querySelector('[data-count-now]')?.innerText]"
#: The row that the cursor is in, counted from the first.
ROW = """
const middle = document.querySelector('[data-cursor]').firstElementChild.getBoundingClientRect();
return [...document.querySelectorAll('[data-row]')].findIndex((r) => r.getBoundingClientRect().bottom >= middle.bottom - 14);
"""

#: Whether the focus is on the stand, or on nothing.
INSIDE = "return document.activeElement === document.body || !!document.activeElement.closest('section.fixed')"


@pytest.fixture(params=["with a mouse", "by touch"])
def turned(request, open_browser) -> tuple[Page, list[tuple[int, int]]]:
    """A page, and the sizes it is to be turned to."""
    touch = request.param == "by touch"
    sizes = [size for size in SIZES if (size in BY_TOUCH) == touch]
    return Page(open_browser(*sizes[0], touch=touch)), sizes


def turn(page: Page, size: tuple[int, int]) -> None:
    page.driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": size[0], "height": size[1], "deviceScaleFactor": 1, "mobile": size in BY_TOUCH},
    )
    page.until(lambda: page.driver.execute_script("return [innerWidth, innerHeight]") == list(size))


def test_nothing_leaves_the_screen_while_a_take_runs(site, turned):
    """Sixteen bars of 2/4, looked at while the screen is turned, tapped so that silence does not end it."""
    page, sizes = turned
    driver = page.driver
    piece = add(site, "copper-kettle-parade")
    driver.execute_cdp_cmd(
        "Page.addScriptToEvaluateOnNewDocument",
        {"source": f"localStorage['laptick.choice.{piece}'] = JSON.stringify({{bpm: 60}})"},
    )
    driver.get(f"{site.url}/pieces/{piece}?free=lap")
    page.sees("Record")
    page.click("Record")
    page.until(lambda: driver.execute_script(SEEN)[0] == "visible", 20, "it does not begin")
    looks, rows, end = dict.fromkeys(sizes, 0), set(), time.monotonic() + 60
    while (min(looks.values()) < 3 or len(rows) < 2) and time.monotonic() < end:
        for size in sizes:
            if not driver.find_elements(By.CSS_SELECTOR, "[aria-label='Tap zones']"):
                end = 0
                break
            turn(page, size)
            page.press("KeyJ", "j")
            ActionChains(driver).send_keys(Keys.TAB).perform()
            assert driver.execute_script(INSIDE), "the keyboard leaves the stand"
            time.sleep(0.4)  # laid out anew, and the row brought in
            assert driver.execute_script(OUTSIDE) == [], size
            visible, word = driver.execute_script(SEEN)
            if visible == "visible":
                assert word not in ("", "…")
                looks[size] += 1
                rows.add(driver.execute_script(ROW))
    assert min(looks.values()) >= 3, looks
    assert len(rows) >= 2
    page.click("Discard")
    page.sees("Takes")
    assert page.errors() == []


#: Everything that can be touched and is smaller than a finger, but for links in the middle of a sentence.
SMALL = """
return [...document.querySelectorAll('button, a[href], input, summary, [role=option], [role=menuitem]')].filter((e) => {
  const b = e.getBoundingClientRect();
  if (!b.width || !b.height || getComputedStyle(e).visibility === 'hidden' || e.closest('[hidden], .sr-only')) return false;
  if (e.matches('.sr-only') || e.type === 'file') return false;
  if (e.tagName === 'A' && !e.hasAttribute('download') && !e.closest('li') && e.closest('p')) return false;
  if (b.right < 0 || b.bottom < 0) return false;
  const label = e.closest('label')?.getBoundingClientRect();
  const high = Math.max(b.height, label?.height ?? 0), wide = Math.max(b.width, label?.width ?? 0);
  return high < 43.5 || wide < 43.5;
}).map((e) => `${e.tagName} ${Math.round(e.getBoundingClientRect().width)}x${Math.round(e.getBoundingClientRect().height)} `
  + (e.getAttribute('aria-label') || e.innerText || e.outerHTML.slice(0, 80)));
"""


#: Of all views; what unfolds is unfolded.
VIEWS = ["practise", "play", "count", "roadmap", "pencil", "ask", "together", "takes"]


def test_everything_is_as_large_as_a_finger(site, open_browser):
    driver = open_browser(390, 844, touch=True)
    page = Page(driver)
    piece = add(site, "harbour-steps")
    take = site.http.post(f"{site.url}/api/pieces/{piece}/takes/simulated", json=LAP, timeout=60).json()["id"]
    places = [f"/pieces/{piece}?view={view}" for view in VIEWS]
    places += ["/pieces", f"/pieces/{piece}/takes/{take}"]
    places += [f"/settings/{part}" for part in ("counting", "teaching", "syllables", "limits", "voice")]
    for place in places:
        driver.get(f"{site.url}{place}")
        page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "main h1"))
        page.until(lambda: "…" not in driver.find_element(By.TAG_NAME, "main").text[:40])
        time.sleep(0.5)
        driver.execute_script("document.querySelectorAll('details').forEach((one) => { one.open = true; })")
        assert driver.execute_script("return matchMedia('(pointer: coarse)').matches")
        assert driver.execute_script(SMALL) == [], place
        assert driver.execute_script("return document.documentElement.scrollWidth") <= 390, place


def test_the_ruler_is_in_the_first_screen(site, turned):
    page, sizes = turned
    driver = page.driver
    piece = add(site, "harbour-steps")
    for view in ("practise", "play", "count"):
        for size in sizes:
            turn(page, size)
            driver.get(f"{site.url}/pieces/{piece}?view={view}")
            page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-row] svg"))
            foot = driver.execute_script(
                "const f = document.querySelector('[data-foot]');"
                " return f && getComputedStyle(f).position === 'fixed' ? f.getBoundingClientRect().top : innerHeight"
            )
            row = driver.find_element(By.CSS_SELECTOR, "[data-row='0']").rect
            assert row["y"] + row["height"] <= foot, (view, size)


def test_play_along_is_within_fifteen_stops_and_the_skip_link_leads_to_the_heading(site, open_browser):
    driver = open_browser()
    page = Page(driver)
    piece = add(site, "harbour-steps")
    driver.get(f"{site.url}/pieces/{piece}?free=lap")
    page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-row]"))
    body = driver.find_element(By.TAG_NAME, "body")
    stops = []
    for _ in range(15):
        body.send_keys(Keys.TAB)
        stops.append(
            driver.execute_script("return document.activeElement.innerText || document.activeElement.ariaLabel")
        )
        if "Play along" in stops[-1]:
            break
    assert "Play along" in stops[-1], stops
    assert "To what this page is about" in stops[0]
    driver.get(f"{site.url}/pieces/{piece}")
    page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-row]"))
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.TAB)
    driver.switch_to.active_element.send_keys(Keys.ENTER)
    assert driver.switch_to.active_element.text == "Harbour Steps"
    # Every place names itself, and begins at its heading.
    assert driver.title.startswith("Harbour Steps · Practise")
    page.click("Settings")
    page.until(lambda: driver.title.startswith("Counting · Settings"))
    page.until(lambda: driver.switch_to.active_element.text == "Settings")


def test_a_dialog_scrolls_within_the_screen(site, open_browser):
    driver = open_browser(640, 400)
    page = Page(driver)
    driver.get(f"{site.url}/pieces")
    page.sees("The shelf is empty.")
    page.press("Slash", "?")
    panel = page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "[role=dialog] [tabindex='0']"))[0]
    assert panel.rect["height"] <= 400
    assert driver.execute_script("return arguments[0].scrollHeight > arguments[0].clientHeight", panel)
    close = page.button("Close")
    driver.execute_script("arguments[0].focus()", close)
    assert 0 <= close.rect["y"] <= 400 - close.rect["height"]
    assert page.axe() == []


#: How far what is on the screen has jumped, with no hand in it.
SHIFTED = """
const done = arguments[0]; let sum = 0;
new PerformanceObserver((list) => { for (const e of list.getEntries()) if (!e.hadRecentInput) sum += e.value; })
  .observe({type: 'layout-shift', buffered: true});
setTimeout(() => done(sum), 300);
"""


def test_nothing_jumps_while_a_view_is_opened(site, open_browser):
    driver = open_browser()
    page = Page(driver)
    piece = add(site, "harbour-steps")
    for place in (
        "/pieces",
        *(f"/pieces/{piece}?view={view}" for view in VIEWS),
        "/settings/counting",
        "/settings/limits",
    ):
        driver.get(f"{site.url}{place}")
        page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "main h1"))
        time.sleep(0.8)
        assert driver.execute_async_script(SHIFTED) < 0.05, place


def text_of(document) -> str:
    return " ".join(one.get_textpage().get_text_range() for one in document)


def printed(driver, words: str):
    """The paper, once the words are on it."""
    paper = driver.execute_cdp_cmd("Page.printToPDF", {"preferCSSPageSize": False, "printBackground": True})
    document = pypdfium2.PdfDocument(base64.b64decode(paper["data"]))
    return document if words in text_of(document) else None


def test_a_printed_view_holds_every_bar_and_no_control(site, open_browser):
    driver = open_browser()
    page = Page(driver)
    piece = add(site, "copper-kettle-parade")
    take = site.http.post(f"{site.url}/api/pieces/{piece}/takes/simulated", json=LAP, timeout=60).json()["id"]
    places = {view: f"/pieces/{piece}?view={view}" for view in VIEWS}
    places |= {"take": f"/pieces/{piece}/takes/{take}", "settings": "/settings/counting", "shelf": "/pieces"}
    places |= {"limits": "/settings/limits"}
    #: What is chosen or typed, and what is folded, stands on the paper.
    stated = {"count": "both hands", "limits": "120"}
    for view, place in places.items():
        driver.get(f"{site.url}{place}")
        page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "main h1"))
        if view in ("play", "count", "together", "take"):
            page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-row]"))
        time.sleep(1)
        document = page.until(lambda has=stated.get(view, ""): printed(driver, has), what=f"{view} is not printed")
        text = text_of(document)
        for bar in range(1, 17) if view in ("play", "count", "together", "take") else ():
            # What stands above the first line of a page is read letter by letter.
            assert re.search(rf"(?<!\d){bar}(?!\d)", text + text.replace("\r\n", "")), (view, bar)
        for control in ("Play along", "Record", "Help", "As PDF"):
            assert control not in text, (view, control)
        # Nothing runs over the edge of the paper: its last millimetres are white.
        for one in document:
            picture = one.render(scale=1, grayscale=True).to_numpy()
            assert picture[:, -12:].min() > 200, view
        assert len(document) <= 6


def test_the_cursor_steps_where_motion_is_unwelcome(site, open_browser):
    driver = open_browser()
    driver.execute_cdp_cmd(
        "Emulation.setEmulatedMedia", {"features": [{"name": "prefers-reduced-motion", "value": "reduce"}]}
    )
    page = Page(driver)
    piece = add(site, "harbour-steps")
    driver.get(f"{site.url}/pieces/{piece}")
    page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-row]"))
    page.press("Space", " ")
    page.until(lambda: driver.execute_script(SEEN)[0] == "visible", 20)
    seen = set()
    begun = time.monotonic()
    while time.monotonic() < begun + 4 or (len(seen) < 3 and time.monotonic() < begun + 20):
        seen.add(driver.execute_script("return document.querySelector('[data-cursor]').style.transform"))
        time.sleep(0.02)
    beats = (time.monotonic() - begun) * 56 / 60
    page.press("Space", " ")
    # A place a count (no more than two in a beat), not one a frame.
    assert 3 <= len(seen) <= 2 * beats + 3


def test_forced_colours_keep_the_hands_the_current_rung_and_the_main_button(site, open_browser):
    driver = open_browser()
    driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": [{"name": "forced-colors", "value": "active"}]})
    page = Page(driver)
    piece = add(site, "harbour-steps")
    driver.get(f"{site.url}/pieces/{piece}")
    page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-row] svg rect"))
    style = "return getComputedStyle(document.querySelector(arguments[0]))[arguments[1]]"
    assert driver.execute_script(style, ".fill-righthand", "fill") != driver.execute_script(
        style, ".fill-lefthand", "fill"
    )
    current, other = "nav[aria-label=Ladder] [aria-current]", "nav[aria-label=Ladder] button:not([aria-current])"
    assert driver.execute_script(style, current, "outlineStyle") == "solid"
    assert driver.execute_script(style, other, "outlineStyle") == "none"
    main, plain = "[data-foot] button.bg-ink", "[data-foot] button:not(.bg-ink)"
    assert driver.execute_script(style, main, "backgroundColor") != driver.execute_script(
        style, plain, "backgroundColor"
    )
