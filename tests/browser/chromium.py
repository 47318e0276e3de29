"""A headless Chromium with the few things that tests ask of it."""

import tempfile
from contextlib import suppress
from pathlib import Path

from selenium import webdriver
from selenium.common.exceptions import TimeoutException
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

from ..sizes import size

_FLAGS = (
    "--headless=new --no-sandbox --disable-dev-shm-usage --disable-gpu --disable-quic --no-first-run --no-default-browser-check "
    "--disable-background-networking --disable-component-update --disable-sync --disable-extensions --mute-audio --hide-scrollbars "
    "--force-color-profile=srgb --force-device-scale-factor=1 --lang=en-GB --window-size=1280,800"
).split()
THEMES = ("light", "dark")
_AXE = (Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js").read_text(encoding="utf-8")


class Browser:
    """Chromium with the few things that tests ask of it."""

    def __init__(self, downloads: Path) -> None:
        self.downloads = downloads
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
        # What a page asked for is remembered by it, but for usual only the first 250 times.
        remember = "performance.setResourceTimingBufferSize(10000)"
        self.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": remember})
        self.url = ""

    def visit(self, url: str) -> None:
        """Forget everything of the application that was visited before, and go to another one."""
        self.url = url
        self.driver.get("about:blank")
        self.driver.execute_cdp_cmd("Network.clearBrowserCookies", {})
        self.driver.execute_cdp_cmd("Storage.clearDataForOrigin", {"origin": "*", "storageTypes": "all"})
        for file in self.downloads.iterdir():
            file.unlink()
        self.severe()

    def open(self, path: str) -> None:
        self.driver.get(self.url + path)

    def until(self, ask, seconds: float = 30):  # type: ignore[no-untyped-def]
        return WebDriverWait(self.driver, seconds, poll_frequency=0.1).until(lambda driver: ask())

    def find(self, xpath: str, seconds: float = 20) -> WebElement:
        try:
            return self.until(lambda: next(iter(self.driver.find_elements("xpath", xpath)), None), seconds)
        except TimeoutException as error:
            raise AssertionError(f"never found {xpath}; shows:\n{self.text()}") from error

    def text(self) -> str:
        # Asked of the page itself, which is many times quicker than through the driver's own reading of it.
        return str(self.driver.execute_script("return document.body ? document.body.innerText : ''"))

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

    def asked(self, address: str, until_ms: float = 1e12) -> int:
        """Return how often the page in sight had asked for an address that fits a pattern, and had its answer, at a time of its own."""
        count: int = self.driver.execute_script(
            "return performance.getEntriesByType('resource').filter(one => one.responseEnd && one.responseEnd < arguments[1]"
            " && new RegExp(arguments[0]).test(new URL(one.name).pathname)).length",
            address,
            until_ms,
        )
        return count

    def axe(self, theme: str = "light") -> list[str]:
        """Return what axe finds wrong with the page in sight, in a theme."""
        self.driver.execute_script(f"document.documentElement.dataset.theme = '{theme}'")
        self.driver.execute_script("if (!window.axe) { " + _AXE + " }")
        found: list[str] = self.driver.execute_async_script(
            "const done = arguments[arguments.length - 1];"
            "axe.run({runOnly: ['wcag2a', 'wcag2aa', 'wcag22aa', 'best-practice'], resultTypes: ['violations']}).then("
            "r => done(r.violations.map(v => v.id + ': ' + v.nodes.map(n => n.html.slice(0, 160)).join(' | '))))"
        )
        return found

    def axe_in_themes(self, turn: int) -> list[str]:
        """Return what axe finds in both themes, at the long size; every day in one of them, the other one at the next turn."""
        themes = size(everyday=THEMES[turn % 2 :][:1], long=THEMES)
        return [f"{theme}: {wrong}" for theme in themes for wrong in self.axe(theme)]

    def severe(self) -> list[str]:
        return [entry["message"] for entry in self.driver.get_log("browser") if entry["level"] == "SEVERE"]
