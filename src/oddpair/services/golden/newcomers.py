"""Records of sources that may not make golden records, or not of what is there already: a merge leaves them out."""

import numpy as np
import numpy.typing as npt

Numbers = npt.NDArray[np.int64]
Flags = npt.NDArray[np.bool_]

ALWAYS, NEVER, UNLESS_KNOWN = "always", "never", "unless known"
CREATES = (ALWAYS, NEVER, UNLESS_KNOWN)


def left_out(clusters: Numbers, held: Flags, never: Flags, unless_known: Flags) -> Flags:
    """Return which records a merge leaves out.

    Per record, ascending: its cluster, whether it is ``held`` in a golden record already, and of those that are not, whether its source
    ``never`` creates, or not ``unless_known`` is wrong. One that never creates is left out where nobody else of its cluster is, or makes,
    a golden record; one that is refused as a duplicate where somebody else of its cluster is there, of equals all but the first.
    """
    _, number = np.unique(clusters, return_inverse=True)
    count = int(number.max(initial=-1)) + 1

    def some(flags: Flags) -> Flags:
        return (np.bincount(number, weights=flags, minlength=count) > 0)[number]

    makers = ~held & ~never & ~unless_known
    first = np.full(count, len(clusters), dtype=np.int64)
    np.minimum.at(first, number[unless_known], np.flatnonzero(unless_known))
    is_first = np.arange(len(clusters)) == first[number]
    known = some(held) | some(makers)
    left: Flags = (never & ~some(held | makers | unless_known)) | (unless_known & (known | ~is_first))
    return left
