"""The whole application, started by its own command with a small demo, and a headless Chromium."""

import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import pytest
from selenium import webdriver
from selenium.common.exceptions import NoSuchElementException, StaleElementReferenceException, TimeoutException
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

from oddpair.launch.postgres import free_port

_FLAGS = (
    "--headless=new --no-sandbox --disable-dev-shm-usage --disable-gpu --disable-quic --no-first-run --no-default-browser-check "
    "--disable-background-networking --disable-component-update --disable-sync --disable-extensions --mute-audio --hide-scrollbars "
    "--force-color-profile=srgb --force-device-scale-factor=1 --lang=en-GB --window-size=1280,800"
).split()
_AXE = (Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js").read_text(encoding="utf-8")


class Application:
    """A started Odd Pair."""

    def __init__(self, folder: Path, port: int, *, scale: float = 0.25, sign_in: bool = False) -> None:
        self.folder, self.port, self.url = folder, port, f"http://127.0.0.1:{port}"
        self.scale, self.sign_in = scale, sign_in
        self.output = folder.parent / "output.txt"
        self.process = self.start_into(self.output)

    def start_into(self, output: Path) -> subprocess.Popen[bytes]:
        """Start the command; what it says is written into a file."""
        command = [
            sys.executable,
            "-m",
            "oddpair.cli",
            "demo",
            "--scale",
            str(self.scale),
            "--data",
            str(self.folder),
            "--port",
            str(self.port),
        ]
        environment = {**os.environ, "ODD_PAIR_SIGN_IN": str(self.sign_in), "ODD_PAIR_ACTOR": "Maren Tollgate"}
        with output.open("ab") as out:
            return subprocess.Popen(command, stdout=out, stderr=out, stdin=subprocess.DEVNULL, env=environment)

    def wait_until_ready(self) -> None:
        deadline = time.monotonic() + 120
        while time.monotonic() < deadline:
            text = self.output.read_text()
            if "ready at" in text:
                return
            assert self.process.poll() is None, text
            time.sleep(0.1)
        raise AssertionError(self.output.read_text())

    def stop(self) -> float:
        """Stop by Ctrl C and return how many seconds it took."""
        started = time.monotonic()
        self.process.send_signal(signal.SIGINT)
        self.process.wait(30)
        return time.monotonic() - started


@contextmanager
def started(*, scale: float = 0.25, sign_in: bool = False) -> Iterator[Application]:
    """Start an Odd Pair with a demo of so many times the usual size, where people sign in or not, and stop it at the end."""
    outer = Path(tempfile.mkdtemp(prefix="odd-pair-app-", dir="/var/tmp"))
    outer.chmod(0o755)
    application = Application(outer / "data", free_port(), scale=scale, sign_in=sign_in)
    try:
        application.wait_until_ready()
        yield application
    finally:
        application.stop()
        shutil.rmtree(outer, ignore_errors=True)


@pytest.fixture(scope="session")
def application() -> Iterator[Application]:
    with started() as application:
        yield application


class Browser:
    """Chromium with the few things that tests ask of it."""

    def __init__(self, url: str, downloads: Path) -> None:
        options = webdriver.ChromeOptions()
        options.binary_location = "/usr/bin/chromium"
        for flag in (*_FLAGS, f"--user-data-dir={tempfile.mkdtemp()}"):
            options.add_argument(flag)
        options.add_experimental_option(
            "prefs", {"download.default_directory": str(downloads), "download.prompt_for_download": False}
        )
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        self.driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
        self.driver.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride",
            {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False},
        )
        self.url = url

    def open(self, path: str) -> None:
        self.driver.get(self.url + path)

    def until(self, ask, seconds: float = 30):  # type: ignore[no-untyped-def]
        return WebDriverWait(self.driver, seconds, poll_frequency=0.05).until(lambda driver: ask())

    def find(self, xpath: str, seconds: float = 20) -> WebElement:
        try:
            return self.until(lambda: next(iter(self.driver.find_elements("xpath", xpath)), None), seconds)
        except TimeoutException as error:
            raise AssertionError(f"never found {xpath}; shows:\n{self.text()}") from error

    def text(self) -> str:
        try:
            return self.driver.find_element("tag name", "body").text
        except (NoSuchElementException, StaleElementReferenceException):
            # Another page is just being opened.
            return ""

    def shows(self, text: str, seconds: float = 30) -> None:
        try:
            self.until(lambda: text in self.text(), seconds)
        except Exception as error:
            raise AssertionError(f"never showed {text!r}; shows:\n{self.text()}") from error

    def button(self, name: str) -> WebElement:
        return self.find(f'//*[self::button or self::a][contains(normalize-space(.), "{name}")][not(@disabled)]')

    def press(self, *keys: str) -> None:
        webdriver.ActionChains(self.driver).send_keys(*keys).perform()

    def press_until(self, key: str, text: str) -> None:
        """Press a key, as a person does once more where a page that was just opened did not hear it."""
        for _ in range(3):
            self.press(key)
            with suppress(AssertionError):
                self.shows(text, 10)
                return
        self.shows(text)

    def press_with_control(self, key: str) -> None:
        webdriver.ActionChains(self.driver).key_down(Keys.CONTROL).send_keys(key).key_up(Keys.CONTROL).perform()

    def drop_files(self, *paths: Path) -> None:
        """Drop files from the desktop onto the drop zone."""
        box = self.find("//*[@data-testid='drop-zone']").rect
        data = {"items": [], "files": [str(path) for path in paths], "dragOperationsMask": 1}
        for kind in ("dragEnter", "dragOver", "drop"):
            self.driver.execute_cdp_cmd(
                "Input.dispatchDragEvent", {"type": kind, "x": box["x"] + 40, "y": box["y"] + 20, "data": data}
            )

    def wears(self, theme: str) -> None:
        """Switch to the light or the dark theme."""
        self.driver.execute_script(f"localStorage.setItem('theme', '{theme}')")

    def axe(self) -> list[str]:
        """Return what axe finds wrong with the page in sight."""
        self.driver.execute_script(_AXE)
        found: list[str] = self.driver.execute_async_script(
            "const done = arguments[arguments.length - 1];"
            "axe.run({runOnly: ['wcag2a', 'wcag2aa', 'wcag22aa', 'best-practice']}).then(r => done(r.violations.map("
            "v => v.id + ': ' + v.nodes.map(n => n.html.slice(0, 160)).join(' | '))))"
        )
        return found

    def severe(self) -> list[str]:
        return [entry["message"] for entry in self.driver.get_log("browser") if entry["level"] == "SEVERE"]


@pytest.fixture(scope="session")
def browser_session(
    application: Application, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[tuple[Browser, Path]]:
    downloads = tmp_path_factory.mktemp("downloads")
    browser = Browser(application.url, downloads)
    yield browser, downloads
    browser.driver.quit()


@pytest.fixture
def browser(browser_session: tuple[Browser, Path]) -> Browser:
    # What the browser told of an earlier test is not about this one.
    browser_session[0].severe()
    return browser_session[0]


@pytest.fixture
def downloads(browser_session: tuple[Browser, Path]) -> Path:
    return browser_session[1]
