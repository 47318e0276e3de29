"""Components: groups of records that *same* pairs and decisions link, of bounded size."""

import numpy as np
import numpy.typing as npt

from ..records import IntArray
from ..text.compiled import kernel

Longs = npt.NDArray[np.int64]


@kernel
def _root(parents: IntArray, record: int) -> int:
    while parents[record] != record:
        parents[record] = parents[parents[record]]
        record = parents[record]
    return record


@kernel
def _unite(left: IntArray, right: IntArray, decided: int, most: int, parents: IntArray, sizes: IntArray) -> None:
    for pair in range(len(left)):
        a, b = _root(parents, left[pair]), _root(parents, right[pair])
        if a != b and (pair < decided or sizes[a] + sizes[b] <= most):
            # The smaller number stays the root, so the outcome does not depend on the order of the two sides.
            a, b = min(a, b), max(a, b)
            parents[b] = a
            sizes[a] += sizes[b]


@kernel
def _flatten(parents: IntArray) -> None:
    for record in range(len(parents)):
        parents[record] = _root(parents, record)


def linked_components(
    count: int, left: IntArray, right: IntArray, bits: npt.NDArray[np.float32], decided: IntArray, most: int
) -> tuple[IntArray, Longs]:
    """Return (members, starts): the records of every component of two or more, ascending, components by first record.

    Decided pairs link first and always; the others by falling evidence, as long as no component grows beyond ``most``
    records: a chain that would swallow a neighbourhood breaks at its weakest links.
    """
    order = np.lexsort((right, left, -bits))
    one = np.concatenate((decided[:, 0], left[order])).astype(np.int32)
    other = np.concatenate((decided[:, 1], right[order])).astype(np.int32)
    parents, sizes = np.arange(count, dtype=np.int32), np.ones(count, dtype=np.int32)
    _unite(one, other, len(decided), most, parents, sizes)
    _flatten(parents)
    in_groups = np.flatnonzero(np.bincount(parents, minlength=count)[parents] > 1) if count else np.zeros(0, np.int64)
    members = in_groups[np.argsort(parents[in_groups], kind="stable")].astype(np.int32)
    roots = parents[members]
    starts = (
        np.flatnonzero(np.concatenate(([True], roots[1:] != roots[:-1]))) if len(members) else np.zeros(0, np.int64)
    )
    return members, np.append(starts, len(members)).astype(np.int64)
