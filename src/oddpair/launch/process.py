"""A child process: the module named on the command line is imported, and its ``main`` called.

Some two thousand modules make many objects that stay. The interpreter's search for cycles would look through them again and again, at
the start and later on; so they are imported without it, and kept out of it from then on.
"""

import gc
import sys
from importlib import import_module

from ..core.cycles import without_cycle_search


def main() -> None:
    """Import a module and call its ``main``."""
    with without_cycle_search():
        module = import_module(sys.argv[1])
        gc.freeze()
    module.main()


if __name__ == "__main__":
    main()
