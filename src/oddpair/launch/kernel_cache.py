"""Where compiled kernels are kept: a folder per state of the core.

Numba notices that the file of a kernel has changed, but not that a function has which the kernel takes in from another file.
"""

from hashlib import sha256
from pathlib import Path

_PACKAGE = Path(__file__).parents[1]
_CHECKOUT = _PACKAGE.parents[1]


def kernel_cache() -> Path:
    """Return the folder for the kernels of the core as it is now."""
    found = sha256()
    for path in sorted((_PACKAGE / "core").rglob("*.py")):
        found.update(path.read_bytes())
    return _CHECKOUT / ".cache" / "numba" / found.hexdigest()[:16]


if __name__ == "__main__":
    print(kernel_cache())
