"""The whole application, started by its own command with a small demo, in a browser: the server dies, and everything ends well."""

import os
import signal
import time
from collections.abc import Iterator
from http.client import HTTPConnection
from urllib.parse import urlsplit

import pytest

from ..kills.stand import Stand, children_of
from ..states.server import open_folder
from .chromium import Browser
from .conftest import Chromiums

pytestmark = pytest.mark.timeout(300)
#: Some programs close a connection that rested for so long.
_RESTS_S = 6.0


@pytest.fixture
def started() -> Iterator[Stand]:
    with open_folder("app") as outer:
        stand = Stand(outer / "data", "demo", "--scale", "0.03")
        try:
            yield stand
        finally:
            stand.stop()


def answered(connection: HTTPConnection) -> bool:
    connection.request("GET", "/api/health")
    answer = connection.getresponse()
    return answer.status == 200 and bool(answer.read())


def test_started_by_one_command_it_bears_a_second_start_and_the_death_of_its_server(
    started: Stand, chromiums: Chromiums
) -> None:
    [browser] = chromiums(1)
    kept = HTTPConnection(urlsplit(started.url).netloc, timeout=20)
    assert answered(kept)
    rests_since = time.monotonic()
    second_says = started.folder.parent / "second.txt"
    # It waits for the port for a while.
    second = started.start_into(second_says)
    browser.visit(started.url)
    browser.open("/")
    browser.shows("What waits for you")
    browser.open("/r/suppliers/golden")
    browser.shows("in force")
    browser.until(lambda: time.monotonic() - rests_since > _RESTS_S)
    assert answered(kept), "a connection that rested was closed"
    kept.close()
    assert second.wait(60) == 1
    assert f"port {started.port} is in use" in second_says.read_text()
    assert browser.severe() == []
    tells_that_the_server_died(started, browser)
    assert started.stop() == 0
    assert "Traceback" not in started.output.read_text()


def tells_that_the_server_died(started: Stand, browser: Browser) -> None:
    """The page says so, and goes on when the server is back."""
    for number, command in children_of(started.process.pid):
        if "oddpair.launch.web" in command:
            os.kill(number, signal.SIGKILL)
    browser.shows("Odd Pair does not answer", 60)
    browser.until(lambda: "does not answer" not in browser.text(), 90)
    browser.button("Survivorship")
    browser.open("/r/suppliers/golden")
    browser.shows("in force")
    # What the console says of a server that was away is no fault of a page.
    browser.severe()
