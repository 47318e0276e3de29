"""Shared fixtures: one PostgreSQL for all test processes, and for every test that asks for it a database and a folder of its own."""

import gc
import os
from collections.abc import Iterator
from contextlib import ExitStack
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, settings

from oddpair.launch.kernel_cache import kernel_cache

# Before anything compiles: every process of the tests finds what others compiled.
os.environ.setdefault("NUMBA_CACHE_DIR", str(kernel_cache()))

from oddpair.launch.postgres import PrivatePostgres
from oddpair.store.database import SessionFactory

from .sizes import ask_for_long, size
from .states.server import server_of_tests
from .states.site import Site
from .states.state import States

for name, examples in (("everyday", 40), ("long", 200)):
    settings.register_profile(
        name, max_examples=examples, deadline=None, suppress_health_check=[HealthCheck.too_slow], derandomize=True
    )
_LONGEST_FIRST = ("browser", "kills")
#: What the process that starts the others has started for them all.
_for_all = ExitStack()
_SERVER = pytest.StashKey[PrivatePostgres]()


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--long", action="store_true", help="Run every test at its long size.")


def pytest_configure(config: pytest.Config) -> None:
    if config.getoption("--long"):
        ask_for_long()
    settings.load_profile(size(everyday="everyday", long="long"))


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """The longest tests come first: one that is begun last keeps one process busy while the others have nothing left to do."""
    items.sort(key=lambda item: item.path.parent.name not in _LONGEST_FIRST)


def pytest_collection_finish() -> None:
    """What is imported and collected stays until the end: the interpreter need not search it for cycles again and again."""
    gc.collect()
    gc.freeze()


@pytest.hookimpl(optionalhook=True)
def pytest_configure_node(node: Any) -> None:
    """Tell a test process where the server of all is; it is started before the first of them."""
    stash = node.config.stash
    if _SERVER not in stash:
        stash[_SERVER] = _for_all.enter_context(server_of_tests())
    node.workerinput["server"] = (str(stash[_SERVER].folder), stash[_SERVER].port)


def pytest_unconfigure() -> None:
    _for_all.close()


@pytest.fixture(scope="session")
def postgres(pytestconfig: pytest.Config) -> PrivatePostgres:
    workerinput = getattr(pytestconfig, "workerinput", None)
    if workerinput is None:
        return _for_all.enter_context(server_of_tests())
    folder, port = workerinput["server"]
    return PrivatePostgres(Path(folder), port=port, for_tests=True)


@pytest.fixture(scope="session")
def states(postgres: PrivatePostgres) -> States:
    return States(postgres)


@pytest.fixture
def site(states: States, tmp_path: Path) -> Iterator[Site]:
    site = Site(states, tmp_path)
    yield site
    site.close()


@pytest.fixture
def database_url(site: Site) -> str:
    return site.url


@pytest.fixture
def sessions(site: Site) -> SessionFactory:
    return site.sessions
