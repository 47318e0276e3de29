"""How long a steward waits at the desk in a real browser: from a key to the next pair on the screen, with very many doubts waiting.

Run: ``.venv/bin/python -m benchmarks.desk_in_browser [--records 100000] [--doubts 90000]``. It loads files of
organisations, runs, makes further doubts of random pairs where the data hold fewer, and presses keys in headless Chromium at about
four a second. It prints the median and the longest wait in milliseconds for stepping and for deciding. A first line says how
long a plain Python loop takes on the machine.
"""

import argparse
import statistics
import tempfile
import time
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.chrome.service import Service

from benchmarks.register import application, load, loop_seconds, more_doubts, wait_for
from oddpair.demo import make_demo

_HOME = "/api/registers/customers"
_CUSTOMERS_AT_SCALE_ONE = 3_000
_KEYS = 60
_PAUSE_S = 0.25
#: Presses a key and calls back with the milliseconds until another pair is on the screen and painted.
_WAIT = """
    const [key, done] = arguments;
    const said = () => document.querySelector('[aria-label="The two records"]')?.innerText;
    const before = said(), start = performance.now();
    window.dispatchEvent(new KeyboardEvent('keydown', {key}));
    const look = () => {
        if (!said() || said() === before) return requestAnimationFrame(look);
        requestAnimationFrame(() => done(performance.now() - start));
    };
    look();
"""


def browser() -> webdriver.Chrome:
    """Return a headless Chromium of the size of a desk."""
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in ("--headless=new", "--no-sandbox", "--disable-dev-shm-usage", "--window-size=1280,800"):
        options.add_argument(flag)
    return webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))


def waits(driver: webdriver.Chrome, key: str) -> list[float]:
    """Return the milliseconds of each of many presses of a key."""
    took = []
    for _ in range(_KEYS):
        took.append(float(driver.execute_async_script(_WAIT, key)))
        time.sleep(_PAUSE_S)
    return took


def main() -> None:
    """Load, run, and measure."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--records", type=int, default=100_000)
    parser.add_argument("--doubts", type=int, default=90_000)
    options = parser.parse_args()
    print(f"a plain loop of ten million steps: {loop_seconds():.2f} s")
    with tempfile.TemporaryDirectory(dir="/var/tmp", prefix="odd-pair-desk-") as name:
        folder = Path(name)
        folder.chmod(0o755)
        files = make_demo(folder / "demo", scale=options.records / _CUSTOMERS_AT_SCALE_ONE, only=["Customers"])
        with application(folder) as (client, url, _):
            load(client, [file.path for file in files])
            wait_for(client, client.post(f"{_HOME}/runs", json={}).json())
            print(f"{more_doubts(url, options.doubts)} doubts\n\n| key | median ms | longest ms |\n| --- | --- | --- |")
            driver = browser()
            try:
                driver.get(f"{client.base_url}/r/customers/review?what=pair")
                time.sleep(3)
                for key, does in (
                    ("ArrowDown", "next pair"),
                    ("d", "decide, and the next pair"),
                    ("s", "the same again"),
                ):
                    took = waits(driver, key)
                    print(f"| {does} | {statistics.median(took):.0f} | {max(took):.0f} |", flush=True)
            finally:
                driver.quit()


if __name__ == "__main__":
    main()
