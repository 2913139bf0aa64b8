"""Takes the pictures of docs/screenshots from a running demo: .venv/bin/python tools/take_pictures.py [address]

Start ``LAPTICK_HOME=$(mktemp -d) ./laptick demo --port 8100`` first, so that only demo data is seen.
"""

from __future__ import annotations

import base64
import sys
import time
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.chrome.service import Service

SHOTS = Path(__file__).resolve().parent.parent / "docs" / "screenshots"
FLAGS = (
    "--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-dev-shm-usage", "--hide-scrollbars",
    "--disable-background-networking", "--disable-component-update", "--disable-sync", "--mute-audio",
    "--autoplay-policy=no-user-gesture-required", "--use-fake-device-for-media-stream",
    "--use-fake-ui-for-media-stream",
)  # fmt: skip


def open_browser(width: int, height: int, *, is_phone: bool = False) -> webdriver.Chrome:
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in FLAGS:
        options.add_argument(flag)
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    size = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": is_phone}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    return driver


def sign_in_to_demo(driver: webdriver.Chrome, address: str) -> None:
    """By what the demo's button does; the browser keeps it."""
    driver.get(address)
    driver.set_script_timeout(20)
    status = driver.execute_async_script(
        "fetch('/api/sign-in/demo', {method: 'POST'}).then((answer) => arguments[0](answer.status))"
    )
    if status != 200:
        raise SystemExit(f"{address} is not a demo that can be looked at ({status})")


def save(driver: webdriver.Chrome, name: str) -> None:
    shot = driver.execute_cdp_cmd("Page.captureScreenshot", {"format": "png"})
    (SHOTS / f"{name}.png").write_bytes(base64.b64decode(shot["data"]))
    print(name)


def piece_called(driver: webdriver.Chrome, title: str) -> str:
    links = driver.find_elements("css selector", "a[href^='/pieces/']")
    return next(link.get_attribute("href") for link in links if link.text == title)


def press(driver: webdriver.Chrome, selector: str, words: str) -> None:
    next(one for one in driver.find_elements("css selector", selector) if words in one.text).click()
    time.sleep(0.8)


def open_page(driver: webdriver.Chrome, address: str, wait_s: float = 1.5) -> None:
    driver.get(address)
    time.sleep(wait_s)


def tap_some(driver: webdriver.Chrome, seconds: float) -> None:
    end = time.monotonic() + seconds
    turn = 0
    while time.monotonic() < end:
        code, key = (("KeyJ", "j"), ("KeyF", "f"))[turn % 4 == 1]
        for kind in ("rawKeyDown", "keyUp"):
            driver.execute_cdp_cmd("Input.dispatchKeyEvent", {"type": kind, "code": code, "key": key})
        turn += 1
        time.sleep(0.4)


def main() -> None:
    address = sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8100"
    wide = open_browser(1280, 800)
    sign_in_to_demo(wide, address)
    open_page(wide, f"{address}/pieces")
    save(wide, "shelf")
    harbour, stones = piece_called(wide, "Harbour Steps"), piece_called(wide, "Five Stones")
    kite, thimble = piece_called(wide, "Kite over the Orchard"), piece_called(wide, "Thimble Waltz")
    open_page(wide, f"{harbour}?rung=lap:1-4:both", 2.5)
    save(wide, "workspace")
    wide.execute_cdp_cmd("Input.dispatchKeyEvent", {"type": "rawKeyDown", "code": "KeyR", "key": "r"})
    time.sleep(5.2)
    tap_some(wide, 2.5)
    save(wide, "recording")
    wide.execute_cdp_cmd("Input.dispatchKeyEvent", {"type": "rawKeyDown", "code": "Escape", "key": "Escape"})
    open_page(wide, f"{harbour}?view=takes")
    wide.find_element("partial link text", "You stop before").click()
    time.sleep(1.5)
    save(wide, "take")
    open_page(wide, f"{harbour}?free=play", 2.5)
    press(wide, "button[aria-label^='Heard by']", "")
    press(wide, "[role=option]", "microphone")
    time.sleep(2.5)
    wide.execute_script("window.scrollTo(0, 200)")
    time.sleep(0.4)
    save(wide, "keys")
    open_page(wide, f"{kite}?view=takes", 2.5)
    wide.find_element("partial link text", "holds through the rest").click()
    time.sleep(2)
    wide.execute_script("document.querySelector('[aria-label=\"Tempo, bar by bar\"]').scrollIntoView()")
    time.sleep(0.4)
    save(wide, "take-charts")
    open_page(wide, f"{stones}?view=count", 2.5)
    save(wide, "counting")
    open_page(wide, f"{thimble}?view=together", 2.5)
    save(wide, "together")
    open_page(wide, f"{harbour}?view=count")
    next(b for b in wide.find_elements("css selector", "button") if b.text == "notation").click()
    time.sleep(2.5)
    save(wide, "notation")
    open_page(wide, f"{stones}?view=roadmap", 2.5)
    save(wide, "roadmap")
    open_page(wide, f"{kite}?view=pencil", 3)
    save(wide, "pencil")
    open_page(wide, f"{thimble}?view=write", 2.5)
    save(wide, "writing")
    open_page(wide, f"{kite}?view=play", 2)
    next(b for b in wide.find_elements("css selector", "button") if b.text == "Echo").click()
    wide.find_element("css selector", "[aria-label='Backing: silent']").click()
    next(b for b in wide.find_elements("css selector", "button") if "Start the echo" in b.text).click()
    for _ in range(200):
        if "Your turn" in wide.find_element("css selector", "[aria-label='Play along']").text:
            break
        time.sleep(0.05)
    time.sleep(1.2)
    save(wide, "playing")
    open_page(wide, f"{address}/drills/ratio", 2.5)
    save(wide, "drills")
    open_page(wide, f"{address}/settings", 2.5)
    save(wide, "settings")
    open_page(wide, f"{address}/students", 2.5)
    aila = next(one for one in wide.find_elements("css selector", "a[href^='/students/']") if one.text == "Aila")
    student = aila.get_attribute("href")
    open_page(wide, student, 2.5)
    save(wide, "student")
    wide.quit()
    phone = open_browser(390, 844, is_phone=True)
    sign_in_to_demo(phone, address)
    open_page(phone, f"{harbour}?rung=lap:1-4:both", 2.5)
    next(b for b in phone.find_elements("css selector", "button") if b.text.startswith("Rounds")).click()
    time.sleep(5.2)
    tap_some(phone, 2)
    save(phone, "phone-recording")
    open_page(phone, f"{student}/tonight", 2.5)
    save(phone, "tonight")
    phone.quit()
    stand = open_browser(820, 1180, is_phone=True)
    sign_in_to_demo(stand, address)
    open_page(stand, f"{harbour}?view=play", 2)
    stand.find_element("css selector", "input[type=checkbox]").click()
    stand.find_element("css selector", "[data-foot] button.bg-ink").click()
    time.sleep(9)
    save(stand, "stand")
    stand.quit()


if __name__ == "__main__":
    main()
