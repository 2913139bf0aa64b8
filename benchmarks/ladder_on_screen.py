"""How soon an edit of the ladder is on the screen: from the press to the ladder with it, by the browser's own clock.

    .venv/bin/python benchmarks/ladder_on_screen.py http://127.0.0.1:8000 [PIECE …]

A demo with the pieces must run there; without any named, those of its shelf. Of each, a rung is moved up, moved down,
given another tempo, and everything taken back by the one press that does. Wanted: under 100 ms. Prints the median and
the slowest.
"""

from __future__ import annotations

import sys
import time
from pathlib import Path
from statistics import median

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "tools"))

from selenium.webdriver.remote.webdriver import WebDriver
from take_pictures import open_browser, sign_in_to_demo

PRESS = """
const [name, done] = arguments;
const told = () => [...document.querySelectorAll('nav[aria-label="Ladder"] li, [role=dialog] p, [role=status]')]
  .map((one) => one.textContent).join('|');
const named = (one) => one.innerText.trim() === name || (one.role === 'option' && name === 'another tempo');
const button = [...document.querySelectorAll('button, [role=option]:not([aria-selected=true])')].find(named);
if (!button) { done(-1); } else {
  const before = told(), began = performance.now();
  const look = () => told() !== before
    ? requestAnimationFrame(() => done(performance.now() - began))
    : performance.now() - began > 3000 ? done(-2) : requestAnimationFrame(look);
  button.click();
  requestAnimationFrame(look);
}
"""
OPEN_TEMPOS = """
[...document.querySelectorAll('[role=dialog] button')].find((one) =>
  one.parentElement.innerText.startsWith('Begins at') || (one.ariaLabel ?? '').startsWith('Begins at')).click()
"""
EDITS = ("Higher", "Lower", "Split in two", "another tempo", "Leave it out")


def press(driver: WebDriver, name: str) -> None:
    driver.execute_script(
        "[...document.querySelectorAll('button,a')].find((one) => one.innerText.includes(arguments[0])).click()", name
    )
    time.sleep(0.8)


def main() -> None:
    base, *named = sys.argv[1:]
    driver = open_browser(1280, 900)
    sign_in_to_demo(driver, base)
    driver.set_script_timeout(10)
    items = driver.execute_async_script("fetch('/api/pieces').then((it) => it.json()).then(arguments[0])")["items"]
    shelf = [str(one["id"]) for one in items]
    for piece in named or shelf:
        times: dict[str, float] = {}
        for edit in EDITS:
            driver.get(f"{base}/pieces/{piece}?view=practise")
            time.sleep(2.0)
            press(driver, "Change this rung")
            if edit == "another tempo":
                driver.execute_script(OPEN_TEMPOS)
                time.sleep(0.8)
            times[edit] = float(driver.execute_async_script(PRESS, edit))
            time.sleep(0.5)
        good = [one for one in times.values() if one >= 0]
        print(f"piece {piece}: median {median(good):.0f} ms, slowest {max(good):.0f} ms  {times}")


if __name__ == "__main__":
    main()
