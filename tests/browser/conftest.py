"""The real interface in headless Chromium, against the real application on loopback.

With ``LAPTICK_TEST_SLOW=1`` as on a slow device far away: what only passes because nothing ever takes time fails.
"""

from __future__ import annotations

import os
import socket
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import httpx2
import pytest
import uvicorn
from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.wait import WebDriverWait

from applications import app_at
from databases import new_database
from helpers import demo_bytes
from laptick.api.app import AppSettings
from laptick.db.engine.connect import DbSettings, connect, transaction
from laptick.worker import work
from signing_in import teacher_cookies

ROOT = Path(__file__).resolve().parents[2]
DIST = ROOT / "web" / "dist"
FLAGS = (
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-dev-shm-usage",
    "--disable-background-networking", "--disable-component-update", "--disable-sync", "--mute-audio",
)  # fmt: skip


class Browser(webdriver.Chrome):
    """Waits for the one element that is asked for by ``find_element``: parts of a page load when they are opened.

    ``find_elements`` tells what is there now.
    """

    def find_element(self, *by: str) -> WebElement:  # type: ignore[override]
        def found(_: object) -> WebElement:
            return super(Browser, self).find_element(*by)  # type: ignore[arg-type]

        return WebDriverWait(self, 30, 0.02).until(found, f"no {by[-1]} on the page")


class Site:
    """A running application; ``stop`` and ``start`` keep its address."""

    def __init__(self, settings: AppSettings) -> None:
        self.settings = settings
        self.cookies: dict[str, str] = {}
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.url = f"http://127.0.0.1:{self.port}"
        self.cookies = teacher_cookies(settings.db, port=self.port)
        self.http = httpx2.Client(cookies=self.cookies, timeout=60)
        self.start()

    def let_in(self, driver: webdriver.Chrome) -> None:
        """The browser is signed in as the teacher."""
        for name, value in self.cookies.items():
            cookie = {"name": name, "value": value, "url": self.url, "httpOnly": True, "sameSite": "Strict"}
            driver.execute_cdp_cmd("Network.setCookie", cookie)

    def start(self) -> None:
        config = uvicorn.Config(
            app_at(self.settings), host="127.0.0.1", port=self.port, log_level="error", timeout_graceful_shutdown=1
        )
        self.server = uvicorn.Server(config)
        self.thread = threading.Thread(target=self.server.run, daemon=True)
        self.thread.start()
        self.ended = threading.Event()
        self.worker = threading.Thread(target=work, args=(self.settings.db, "test", self.ended), daemon=True)
        self.worker.start()
        end = time.monotonic() + 20
        while not self.server.started:
            assert time.monotonic() < end, "the application did not start"
            time.sleep(0.02)

    def made(self, address: str) -> httpx2.Response:
        """What is there, once it was made: until then the answer is 202."""
        end = time.monotonic() + 60
        while (answer := self.http.get(address)).status_code == 202:
            assert time.monotonic() < end, f"{address} is not made"
            time.sleep(0.1)
        assert answer.status_code == 200, answer.text
        return answer

    def stop(self) -> None:
        self.server.should_exit = True
        self.ended.set()
        self.thread.join(timeout=15)
        self.worker.join(timeout=15)


@pytest.fixture(scope="session")
def browser_db(mariadb, template) -> Iterator[DbSettings]:
    """One database for all journeys of a process."""
    with new_database(mariadb) as settings:
        template.copied_to(settings)
        yield settings


@pytest.fixture
def db(browser_db) -> DbSettings:
    """The same with nothing in it."""
    connection = connect(browser_db)
    with transaction(connection) as cursor:
        cursor.execute("UPDATE piece SET pencil_version_id = NULL")
        for table in ("piece", "count_choice", "voice_word"):  # what hangs on a piece goes with it
            cursor.execute(f"DELETE FROM {table}")
    connection.close()
    return browser_db


@pytest.fixture
def site(db) -> Iterator[Site]:
    if not (DIST / "index.html").is_file():
        pytest.fail("the interface is not built: run ./laptick test, or npm run build in web")
    running = Site(AppSettings(db, DIST))
    yield running
    running.stop()
    running.http.close()


@pytest.fixture
def score_file(tmp_path) -> str:
    path = tmp_path / "harbour-steps.musicxml"
    path.write_bytes(demo_bytes("harbour-steps"))
    return str(path)


@pytest.fixture
def open_browser(request) -> Iterator[Callable[..., webdriver.Chrome]]:
    """Browsers in which the site's teacher is signed in, but for those of a ``stranger``."""
    opened: list[webdriver.Chrome] = []

    def start(
        width: int = 1280,
        height: int = 800,
        touch: bool = False,
        flags: tuple[str, ...] = (),
        stranger: bool = False,
    ) -> webdriver.Chrome:
        options = webdriver.ChromeOptions()
        options.binary_location = "/usr/bin/chromium"
        for flag in (*FLAGS, *flags):
            options.add_argument(flag)
        if touch:  # touches sent by the driver do not count as a person's
            options.add_argument("--autoplay-policy=no-user-gesture-required")
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        driver = Browser(options=options, service=Service("/usr/bin/chromedriver"))
        driver.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride",
            {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": touch},
        )
        if touch:
            driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": True, "maxTouchPoints": 5})
        if os.environ.get("LAPTICK_TEST_SLOW"):
            driver.execute_cdp_cmd("Emulation.setCPUThrottlingRate", {"rate": 4})
            slow = {"offline": False, "latency": 200, "downloadThroughput": -1, "uploadThroughput": -1}
            driver.execute_cdp_cmd("Network.enable", {})
            driver.execute_cdp_cmd("Network.emulateNetworkConditions", slow)
        opened.append(driver)
        if not stranger and "site" in request.fixturenames:
            request.getfixturevalue("site").let_in(driver)
        return driver

    yield start
    for driver in opened:
        driver.quit()
