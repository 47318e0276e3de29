"""For every test an application of its own on a copy of a state, and the Chromium of this test process."""

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from ..states.registers import lived_in, lived_in_with_practice
from ..states.site import Site
from .application import Application, running
from .chromium import Browser

Chromiums = Callable[[int], list[Browser]]


@pytest.fixture(scope="session")
def chromiums(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Chromiums]:
    """As many browsers as are asked for; they are started once."""
    started: list[Browser] = []

    def so_many(count: int) -> list[Browser]:
        while len(started) < count:
            started.append(Browser(tmp_path_factory.mktemp("downloads")))
        return started[:count]

    yield so_many
    for browser in started:
        browser.driver.quit()


@pytest.fixture
def application(site: Site) -> Iterator[Application]:
    """The demo at a quarter of its size, where nobody signs in."""
    site.begin_with(lived_in)
    with running(site) as application:
        yield application


@pytest.fixture
def browser(application: Application, chromiums: Chromiums) -> Browser:
    [browser] = chromiums(1)
    browser.visit(application.url)
    return browser


@pytest.fixture
def downloads(browser: Browser) -> Path:
    return browser.downloads


@pytest.fixture
def practice(site: Site, chromiums: Chromiums) -> Iterator[Browser]:
    """A browser at an application with a register Practice of its own, and a list of guests that was looked up."""
    site.begin_with(lived_in_with_practice)
    [browser] = chromiums(1)
    with running(site) as application:
        browser.visit(application.url)
        yield browser
