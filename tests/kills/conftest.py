"""An application to be killed, in a folder of its own."""

from collections.abc import Iterator

import pytest

from ..states.server import open_folder
from .stand import Stand


@pytest.fixture
def stand() -> Iterator[Stand]:
    with open_folder("kill") as outer:
        stand = Stand(outer / "data")
        try:
            yield stand
        finally:
            stand.stop()
