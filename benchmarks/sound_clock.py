"""Five minutes of play-along in headless Chromium on a loaded machine: how far clicks lie from the schedule.

    .venv/bin/python benchmarks/sound_clock.py [minutes]

Starts its own database, application and browser on loopback; every core is kept busy, and the page itself is blocked
for 150 ms five times a second. Prints what the page's own meter (in the audio thread) found, and how far the sound's
clock and the page's moved apart.
"""

from __future__ import annotations

import json
import multiprocessing
import socket
import sys
import tempfile
import threading
import time
from pathlib import Path

import httpx2
import numpy as np
import uvicorn

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "tests"), str(ROOT / "tools")]

from selenium.webdriver.common.by import By
from take_pictures import open_browser

from helpers import demo_bytes
from laptick.api.app import AppSettings, create_app
from laptick.db.engine.connect import connect
from laptick.db.engine.migrate import migrate
from laptick.db.engine.server import MariaDb
from signing_in import teacher_cookies

EXACT = "return document.querySelector('[data-exactness]')?.dataset.exactness"
BLOCK = "setInterval(() => { const end = performance.now() + 150; while (performance.now() < end); }, 200)"


def burn() -> None:
    while True:
        np.linalg.svd(np.random.default_rng(1).normal(size=(300, 300)))


def main() -> None:
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else 5.0
    server = MariaDb(Path(tempfile.mkdtemp(prefix="laptick-bench-")), durable=False)
    server.start()
    connection = connect(server.settings())
    migrate(connection)
    connection.close()
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    app = create_app(AppSettings(server.settings(), ROOT / "web" / "dist"))
    web = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_level="error"))
    threading.Thread(target=web.run, daemon=True).start()
    time.sleep(2)
    url = f"http://127.0.0.1:{port}"
    files = {"file": ("copper-kettle-parade.musicxml", demo_bytes("copper-kettle-parade"))}
    cookies = teacher_cookies(server.settings(), port=port)
    piece = httpx2.post(f"{url}/api/pieces", files=files, cookies=cookies, timeout=30).json()["id"]
    driver = open_browser(1280, 800)
    for name, value in cookies.items():
        driver.execute_cdp_cmd("Network.setCookie", {"name": name, "value": value, "url": url, "httpOnly": True})
    burners = [multiprocessing.Process(target=burn, daemon=True) for _ in range(multiprocessing.cpu_count())]
    try:
        driver.get(f"{url}/pieces/{piece}?view=play")
        time.sleep(3)
        for code, key in (("KeyL", "l"), ("Digit3", "3"), ("Space", " ")):  # over and over, backing on, play
            for kind in ("rawKeyDown", "keyUp"):
                driver.execute_cdp_cmd("Input.dispatchKeyEvent", {"type": kind, "code": code, "key": key})
            time.sleep(0.3)
        for burner in burners:
            burner.start()
        driver.execute_script(BLOCK)
        time.sleep(minutes * 60)
        driver.find_elements(By.CSS_SELECTOR, "section[aria-label='Play along'] details summary")[0].click()
        time.sleep(1)
        found = json.loads(driver.execute_script(EXACT))
        print(f"{found['minutes']:.2f} minutes, {multiprocessing.cpu_count()} cores busy, the page blocked 3/4 of it")
        print(f"{found['clicks']} clicks rendered, {found['missed']} missing")
        print(f"furthest from the schedule: {found['furthest_ms']:.3f} ms")
        print(f"the sound's clock and the page's moved {found['drift_ms']:.2f} ms apart")
    finally:
        for burner in burners:
            if burner.is_alive():
                burner.terminate()
        driver.quit()
        web.should_exit = True
        server.stop()


if __name__ == "__main__":
    main()
