"""The PostgreSQL server of a test session: one for all test processes, without the care for data that costs time."""

import os
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import psycopg

from oddpair.launch.postgres import PrivatePostgres

_IN_MEMORY = Path("/dev/shm")
#: Copies of states take some ten MiB each, and the long tests up to 600 MB.
_WORTH_BYTES = 2 * 2**30


def roomy_folder() -> Path:
    """Return the folder for data of tests: in memory where there is room."""
    if _IN_MEMORY.is_dir() and os.access(_IN_MEMORY, os.W_OK) and shutil.disk_usage(_IN_MEMORY).free > _WORTH_BYTES:
        return _IN_MEMORY
    return Path("/var/tmp")


@contextmanager
def open_folder(prefix: str) -> Iterator[Path]:
    """Give a new folder that the server's user can reach, and remove it at the end."""
    folder = Path(tempfile.mkdtemp(prefix=f"odd-pair-{prefix}-", dir=roomy_folder()))
    folder.chmod(0o755)
    try:
        yield folder
    finally:
        shutil.rmtree(folder, ignore_errors=True)


@contextmanager
def server_of_tests() -> Iterator[PrivatePostgres]:
    """Start the server; stop it at the end."""
    with open_folder("test") as folder:
        server = PrivatePostgres(folder / "postgres", for_tests=True)
        try:
            server.start()
            yield server
        finally:
            server.stop()


def as_admin(server: PrivatePostgres, *statements: str) -> None:
    """Do what only the role may that may do anything."""
    with psycopg.connect(server.url("postgres", admin=True), autocommit=True) as connection:
        for statement in statements:
            connection.execute(statement.encode())
