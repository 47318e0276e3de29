"""A directory of blocks kept in a folder, in NumPy's open form: made anew from the register in minutes, read from here in a second."""

import os
from contextlib import suppress
from pathlib import Path
from zipfile import BadZipFile

import numpy as np
import numpy.typing as npt

Places = npt.NDArray[np.uint64]
Owners = npt.NDArray[np.int64]


def _file(folder: Path, register: int, learned: str) -> Path:
    return folder / f"blocks-{register}-{learned}.npz"


def take_directory(folder: Path, register: int, learned: str) -> tuple[int, Places, Owners] | None:
    """Return (up to which version of the records, blocks ascending, who stands there), or None where it is not kept or damaged."""
    try:
        with np.load(_file(folder, register, learned), allow_pickle=False) as kept:
            return int(kept["version"]), kept["places"], kept["owners"]
    except (OSError, KeyError, ValueError, BadZipFile):
        return None


def keep_directory(folder: Path, register: int, learned: str, version: int, places: Places, owners: Owners) -> None:
    """Keep a directory, by what was ``learned``, in place of any other of the register; what cannot be kept (a full disk) is made anew the
    next time."""
    file = _file(folder, register, learned)
    beside = file.with_name(f"{file.name}.{os.getpid()}")
    with suppress(OSError):
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        try:
            with open(beside, "wb", opener=lambda path, flags: os.open(path, flags, 0o600)) as out:
                np.savez(out, version=version, places=places, owners=owners)
            for old in folder.glob(f"blocks-{register}-*.npz"):
                old.unlink(missing_ok=True)
            beside.replace(file)
        finally:
            beside.unlink(missing_ok=True)
