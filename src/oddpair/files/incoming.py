"""Folders into which other programs put files to be taken: below the folder of the data, one for each source."""

import os
import shutil
import time
from dataclasses import dataclass
from pathlib import Path
from uuid import uuid4

#: A file that was written to within so many seconds may not be whole yet; nor is one with such an ending.
_SETTLED_S = 5.0
_NOT_WHOLE = (".part", ".tmp", ".filepart", ".crdownload")


@dataclass(frozen=True, slots=True)
class Incoming:
    """A file that waits to be taken: where it is, and what tells it from a later one of the same name."""

    path: Path
    mark: str


def folder_of(incoming: Path, register: str, source: str) -> Path:
    """Return the folder of a source, which is made where it is not there yet."""
    folder = incoming / register / source
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def next_file(folder: Path) -> Incoming | None:
    """Return the file that is taken next, by name; None if there is none that is whole. Hidden files and links are passed over."""
    now = time.time()
    for path in sorted(folder.iterdir()):
        if path.name.startswith(".") or path.suffix.lower() in _NOT_WHOLE or path.is_symlink() or not path.is_file():
            continue
        status = path.stat()
        if now - status.st_mtime >= _SETTLED_S:
            return Incoming(path, f"{path.name} {status.st_size} {status.st_mtime_ns}")
    return None


def take_over(file: Incoming, deliveries: Path) -> Path:
    """Copy a file to where delivered files are kept, readable by its owner only; return the copy."""
    deliveries.mkdir(mode=0o700, parents=True, exist_ok=True)
    stored = deliveries / f"{uuid4().hex}{file.path.suffix.lower()}"
    with (
        file.path.open("rb") as given,
        open(stored, "wb", opener=lambda path, flags: os.open(path, flags, 0o600)) as kept,
    ):
        shutil.copyfileobj(given, kept)
    return stored
