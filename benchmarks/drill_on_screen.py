"""How soon a drill is on the screen: from the press on a choice to its picture, by the browser's own clock.

    .venv/bin/python benchmarks/drill_on_screen.py http://127.0.0.1:8000

A server with the demo pieces must run there. Every choice of every kind of drill is pressed in turn, and taken back.
Wanted: under 200 ms. Prints the median and the slowest of each kind.
"""

from __future__ import annotations

import sys
import time
from pathlib import Path
from statistics import median

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "tools"))

from selenium.webdriver.common.by import By
from take_pictures import open_browser, sign_in_to_demo

#: Waits until the picture is another one, and drawn; gives the milliseconds since the press.
PRESS = """
const [option, done] = arguments;
const told = () => document.querySelector('section h2')?.innerText + document.querySelector('section h2 ~ *')?.innerText
  + (document.querySelector('section [data-row]')?.innerHTML ?? '');
const before = told(), began = performance.now();
const look = () => told() !== before
  ? requestAnimationFrame(() => done(performance.now() - began))
  : performance.now() - began > 3000 ? done(-1) : requestAnimationFrame(look);
option.click();
requestAnimationFrame(look);
"""


def main() -> None:
    base = sys.argv[1]
    driver = open_browser(1280, 900)
    sign_in_to_demo(driver, base)
    driver.set_script_timeout(10)
    worst = 0.0
    for kind in ("ratio", "cross", "layer", "form", "spot", "variants"):
        driver.get(f"{base}/drills/{kind}")
        time.sleep(2.5)
        for more in driver.find_elements(By.CSS_SELECTOR, "section summary"):
            more.click()
        times: list[float] = []
        for box in range(len(driver.find_elements(By.CSS_SELECTOR, "section button[aria-haspopup=listbox]"))):
            for number in (1, 2):
                boxes = driver.find_elements(By.CSS_SELECTOR, "section button[aria-haspopup=listbox]")
                if box >= len(boxes) or not boxes[box].is_displayed():
                    continue
                boxes[box].click()
                time.sleep(0.4)
                options = driver.find_elements(By.CSS_SELECTOR, "[role=option]")
                if len(options) <= number:
                    driver.find_element(By.TAG_NAME, "h1").click()
                    continue
                took = float(driver.execute_async_script(PRESS, options[number]))
                if took >= 0:  # some choices change nothing that is seen, or are refused
                    times.append(took)
                time.sleep(0.3)
        if not times:
            print(f"{kind:>9}  nothing was pressed")
            continue
        worst = max(worst, *times)
        print(f"{kind:>9}  {len(times):2} presses  median {median(times):4.0f} ms  slowest {max(times):4.0f} ms")
    driver.quit()
    print(f"slowest of all {worst:.0f} ms; wanted 200")


if __name__ == "__main__":
    main()
