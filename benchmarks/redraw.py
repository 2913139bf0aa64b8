"""How long the count of 64 bars takes to be redrawn in the browser after a choice: from the choice to the changed ruler
on the screen; and how long *Together* takes to be there: from the press on its name to the drawn map. With the server's
own part of each; all of one run, server and browser on this machine.

Run: .venv/bin/python benchmarks/redraw.py   (after ./laptick test, or with web/dist built)
"""

from __future__ import annotations

import shutil
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path
from statistics import median

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / name) for name in ("tests/browser", "src", "tests", "tools")]

import compose_demo
import httpx2
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from take_pictures import open_browser

from conftest import DIST, Site
from laptick.api.app import AppSettings
from laptick.db.engine.connect import connect, transaction
from laptick.db.engine.migrate import migrate
from laptick.db.engine.server import MariaDb

BARS, ROUNDS = 64, 15
WAYS = ("numbers: 1 e", "ta ka di mi")

#: Measures in the page: from the click on an option to the frame after the one in which the ruler says something else.
WATCH = """
const said = () => [...document.querySelectorAll('svg[role=img]')].map(s => s.getAttribute('aria-label')).join(' ');
window.redraws = [];
document.addEventListener('click', (event) => {
  if (!event.target.closest('[role=option]')) return;
  const [begun, before] = [performance.now(), said()];
  const look = () => said() === before ? requestAnimationFrame(look)
    : requestAnimationFrame(() => window.redraws.push(performance.now() - begun));
  requestAnimationFrame(look);
}, true);
"""


#: Measures from the press on *Together* to the frame after the one in which the map and its list stand on the page.
WATCH_MAP = """
window.drawn = null;
const name = [...document.querySelectorAll('a, button')].find((one) => one.innerText === 'Together');
const begun = performance.now();
name.click();
const look = () => document.querySelector('[data-position]') && document.querySelector('[aria-label="Hardest first"]')
  ? requestAnimationFrame(() => { window.drawn = performance.now() - begun; })
  : requestAnimationFrame(look);
look();
"""


def shown_together(driver, address: str) -> float:
    """Milliseconds; the page is loaded anew before it, on the count."""
    driver.get(address)
    time.sleep(2.5)
    driver.execute_script(WATCH_MAP)
    end = time.monotonic() + 10
    while time.monotonic() < end:
        if (drawn := driver.execute_script("return window.drawn")) is not None:
            return float(drawn)
        time.sleep(0.05)
    raise RuntimeError("the map does not come")


def answers(client: httpx2.Client, path: str, **params: int) -> list[float]:
    """Milliseconds that an answer of the server takes."""
    found = []
    for _ in range(ROUNDS):
        begun = time.perf_counter()
        client.get(path, params=params).raise_for_status()
        found.append(1000 * (time.perf_counter() - begun))
    return found


def repeated(bars: int) -> bytes:
    piece = dict(compose_demo.PIECES["harbour-steps"])
    piece["right"], piece["left"] = piece["right"] * (bars // 8), piece["left"] * (bars // 8)
    return compose_demo.write(piece).encode()


def choose(driver, words: str) -> None:
    driver.find_element(
        By.CSS_SELECTOR, "section[aria-label='How it is counted'] button[aria-label^='Way of counting:']"
    ).send_keys(Keys.ARROW_DOWN)
    end = time.monotonic() + 5
    while time.monotonic() < end:
        for option in driver.find_elements(By.CSS_SELECTOR, "[role=option]"):
            if words in option.text:
                option.click()
                return
        time.sleep(0.02)
    raise RuntimeError(f"no option “{words}”")


def main() -> None:
    folder = Path(tempfile.mkdtemp(prefix="laptick-redraw-"))
    server = MariaDb(folder, durable=False)
    server.start()
    driver = open_browser(1280, 800)
    try:
        settings = replace(server.settings(), database="laptick_redraw")
        connection = connect(settings, database=False)
        with transaction(connection) as cursor:
            cursor.execute("CREATE DATABASE laptick_redraw CHARACTER SET utf8mb4")
        opened = connect(settings)
        migrate(opened)
        site = Site(AppSettings(settings, DIST))
        score = {"file": ("long.musicxml", repeated(BARS))}
        piece = site.http.post(f"{site.url}/api/pieces", files=score, timeout=60).json()["id"]
        site.let_in(driver)
        driver.get(f"{site.url}/pieces/{piece}?view=count")
        time.sleep(3)
        driver.execute_script(WATCH)
        for round_ in range(ROUNDS):
            choose(driver, WAYS[(round_ + 1) % 2])
            time.sleep(0.6)
        redraws = driver.execute_script("return window.redraws")[1:]
        maps = [shown_together(driver, f"{site.url}/pieces/{piece}?view=count") for _ in range(ROUNDS)]
        with httpx2.Client(base_url=site.url, cookies=site.cookies, timeout=60) as client:
            counts = answers(client, f"/api/pieces/{piece}/counts", bpm=66)
            of_map = answers(client, f"/api/pieces/{piece}/map", span=8)
        print(f"{BARS} bars, both hands, {len(redraws)} changes of the words:")
        print(f"  from the choice to the screen: median {median(redraws):.0f} ms, longest {max(redraws):.0f} ms")
        print(f"  of it one answer of the server with all counts: median {median(counts):.0f} ms")
        print(f"Together, {len(maps)} times on a page loaded anew:")
        print(f"  from the press to the drawn map: median {median(maps):.0f} ms, longest {max(maps):.0f} ms")
        print(f"  of it one answer of the server with the map: median {median(of_map):.0f} ms")
        site.stop()
    finally:
        driver.quit()
        server.stop()
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    main()
