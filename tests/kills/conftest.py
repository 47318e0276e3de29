"""An application to be killed, in a folder of its own."""

import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from .stand import Stand


@pytest.fixture
def stand() -> Iterator[Stand]:
    # The database may run as another user, so the folder must not lie below one that is closed to others.
    outer = Path(tempfile.mkdtemp(prefix="odd-pair-kill-", dir="/var/tmp"))
    outer.chmod(0o755)
    stand = Stand(outer / "data")
    try:
        yield stand
    finally:
        stand.stop()
        shutil.rmtree(outer, ignore_errors=True)
