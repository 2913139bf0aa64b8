"""What the journeys do again and again, in words."""

from __future__ import annotations

import time
from pathlib import Path

from selenium.common.exceptions import ElementClickInterceptedException, StaleElementReferenceException
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

AXE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"

#: A view of a piece: the place it is in, and how it is called there.
VIEWS = {
    "Roadmap": ("The page", "Roadmap"),
    "Pencil": ("The page", "Pencil"),
    "Write": ("The page", "Write"),
    "Count": ("Count", "The count"),
    "Ask": ("Count", "Ask"),
    "Together": ("Together", None),
    "Ladder": ("Practise", "The ladder"),
    "Play": ("Practise", "Play along"),
    "Takes": ("Takes", None),
}

BUTTON = """
return [...document.querySelectorAll('button, a, summary')].find((e) =>
  (e.getAttribute('aria-label') ?? '').includes(arguments[0]) || (e.checkVisibility() && e.innerText.includes(arguments[0])));
"""


class Page:
    def __init__(self, driver) -> None:
        self.driver = driver

    def until(self, condition, seconds: float = 30, what: str = "") -> object:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            try:
                found = condition()
            except StaleElementReferenceException:
                found = None  # drawn anew while we looked
            if found:
                return found
            time.sleep(0.02)
        raise AssertionError(f"{what or 'what was waited for did not come'}; the page says:\n{self.text()[-900:]}")

    def text(self) -> str:
        return str(self.driver.execute_script("return document.body.innerText"))

    def sees(self, words: str, seconds: float = 30) -> None:
        self.until(lambda: words.lower() in self.text().lower(), seconds, f"“{words}” is not on the page")

    def button(self, words: str) -> WebElement:
        """The first button or link that shows the words or is named by them."""
        return self.until(lambda: self.driver.execute_script(BUTTON, words), what=f"no button “{words}”")  # type: ignore[return-value]

    def click(self, words: str) -> None:
        """Clicks a button; one that is drawn anew between finding and clicking is found again."""
        self.until(lambda: self._press(self.button(words)))

    def view(self, name: str) -> None:
        """Goes to a view of a piece: to its place, then inside that."""
        place, inside = VIEWS[name]
        self.click_in("nav[aria-label='Places of the piece']", place)
        if inside:
            self.click_in(f"nav[aria-label='{place}']", inside)

    def click_in(self, where: str, words: str) -> None:
        """Clicks the button of that name inside a part of the page."""
        named = "return [...document.querySelectorAll(arguments[0] + ' button')].find((e) => e.innerText.trim() === arguments[1])"
        self.until(lambda: self.driver.execute_script(named, where, words), what=f"no “{words}” in {where}")
        self.until(lambda: self._press(self.driver.execute_script(named, where, words)))

    def _press(self, element: WebElement) -> bool:
        """Clicks it, if it can be; where something lies over it, as the foot of a phone's page, it is brought to the
        middle first."""
        if not element.is_enabled():
            return False  # the change before is not through
        try:
            element.click()
        except ElementClickInterceptedException:
            self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", element)
            element.click()
        return True

    def free(self, words: str) -> None:
        """Practises freely, whatever the ladder says."""
        self.click_in("[aria-label=Freely]", words)

    def press(self, code: str, key: str, at_epoch_s: float | None = None) -> None:
        """A real key press; ``at_epoch_s`` is the time stamp the key's event carries."""
        stamp = {} if at_epoch_s is None else {"timestamp": at_epoch_s}
        for kind in ("rawKeyDown", "keyUp"):
            self.driver.execute_cdp_cmd("Input.dispatchKeyEvent", {"type": kind, "code": code, "key": key, **stamp})

    def middle(self, element: WebElement) -> dict[str, float]:
        x, y = self.driver.execute_script(
            "arguments[0].scrollIntoView({block: 'nearest'}); const b = arguments[0].getBoundingClientRect();"
            "return [b.x + b.width / 2, b.y + b.height / 2]",
            element,
        )
        return {"x": x, "y": y}

    def touch(self, element: WebElement) -> None:
        self.touch_at(self.middle(element))

    def touch_at(self, point: dict[str, float], at_epoch_s: float | None = None) -> None:
        """A touch; ``at_epoch_s`` is the time stamp its events carry."""
        stamp = {} if at_epoch_s is None else {"timestamp": at_epoch_s}
        for kind, points in (("touchStart", [point]), ("touchEnd", [])):
            self.driver.execute_cdp_cmd("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points, **stamp})

    def axe(self) -> list[str]:
        """What axe-core finds wrong on the page as it stands, in the standards' levels A and AA."""
        if not self.driver.execute_script("return 'axe' in window"):
            self.driver.execute_script(AXE.read_text(encoding="utf-8"))
        found = self.driver.execute_async_script(
            "const done = arguments[arguments.length - 1];"
            "axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'],"
            "rules: {'target-size': {enabled: true}}, resultTypes: ['violations'], selectors: false})"
            ".then(r => done(r.violations.map(v => v.id + ': ' + v.nodes.map(n => n.html.slice(0, 120)).join(' | '))));"
        )
        return list(found)

    def errors(self) -> list[str]:
        """Script errors in the console; an answer of 4xx or 5xx is not one."""
        return [
            entry["message"]
            for entry in self.driver.get_log("browser")
            if entry["level"] == "SEVERE" and "Failed to load resource" not in entry["message"]
        ]

    def add_score(self, url: str, path: str) -> None:
        self.driver.get(f"{url}/pieces")
        self.sees("Pieces")
        self.until(lambda: self.driver.find_elements(By.CSS_SELECTOR, "input[type=file]"))
        self.driver.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(path)
        self.until(lambda: "/pieces/" in self.driver.current_url)
        if "view=roadmap" in self.driver.current_url:  # there is something to know about the file
            self.view("Ladder")
        self.until(lambda: self.driver.find_elements(By.CSS_SELECTOR, "[data-row] svg"))

    def remove(self, name: str) -> None:
        """Removes a thing by the menu behind its sign."""
        self.button(name).click()
        menu = self.until(
            lambda: [m for m in self.driver.find_elements(By.CSS_SELECTOR, "[role=menu]") if m.is_displayed()]
        )
        menu[0].find_element(By.CSS_SELECTOR, "[role=menuitem]").click()  # type: ignore[index]

    def count_of(self, measure: str, steps: int) -> None:
        """Chooses a count of a bar by keyboard: its first one, and so many further on."""
        self.button(f"Change a count of bar {measure}:").send_keys(Keys.ENTER)
        for _ in range(steps):
            self.button(f"Change a count of bar {measure}:").send_keys(Keys.ARROW_RIGHT)

    def wait_for_the_beat(self) -> float:
        """Waits until the count-in is over; returns the time (epoch) at which that was seen."""
        self.sees("Count in", 10)
        self.until(lambda: "Tap now" in self.text(), 20, "the count-in does not end")
        return time.time()
