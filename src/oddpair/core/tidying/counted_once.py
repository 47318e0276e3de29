"""Which records count for how common names are: of those that are one entity beyond doubt, one.

What an entity holds often never speaks less for it: a customer who stands in forty orders does not make its name forty times as common.
Records of one name that share a contact, one after the other, count as one; so do exact copies, and records that hold nothing else.
"""

from dataclasses import replace

import numpy as np
import numpy.typing as npt
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from ..joint_codes import joint_codes
from ..records import RecordSet

#: What two records of one name may share, each by itself.
_CONTACTS = (
    ("phone.end",), ("email",), ("web_site",), ("tax_number",), ("identifier",), ("birth_date",),
    ("address.street", "address.number"), ("address.box",),
)  # fmt: skip
_NAMES = ("name", "name.given", "name.family")


def with_copies_counted_once(records: RecordSet) -> RecordSet:
    """Return records that say which of them count; the first of every group does."""
    names = [records.columns[name].codes for name in _NAMES if name in records.columns]
    if not names or not len(records):
        return records
    name = joint_codes(names)
    # Most names stand once: there is nothing to look at.
    repeated = np.flatnonzero((np.bincount(name) > 1)[name] & (np.maximum.reduce(names) >= 0))
    counted = np.ones(len(records), dtype=np.bool_) if records.counted is None else records.counted.copy()
    if len(repeated):
        group = _groups(records, name[repeated], repeated)
        counted[np.delete(repeated, np.unique(group, return_index=True)[1])] = False
    return replace(records, counted=counted)


def _groups(records: RecordSet, name: npt.NDArray[np.int64], rows: npt.NDArray[np.intp]) -> npt.NDArray[np.integer]:
    """Return the number of its group for each of some records, given the numbers of their names."""
    edges, next_node = [], len(rows)
    places = np.arange(len(rows))
    for contact in _CONTACTS:
        columns = [records.columns[field].codes[rows] for field in contact if field in records.columns]
        if len(columns) < len(contact):
            continue
        held = np.flatnonzero(np.minimum.reduce(columns) >= 0)
        shared = joint_codes([name[held], *(codes[held] for codes in columns)])
        edges.append((places[held], next_node + shared))
        next_node += int(shared.max(initial=-1)) + 1
    # Copies of whole records.
    everything = [
        column.codes[rows] for field, column in records.columns.items() if field.partition(".")[0] != "updated_on"
    ]
    copies = joint_codes(everything)
    edges.append((places, next_node + copies))
    next_node += int(copies.max(initial=-1)) + 1
    one, other = (np.concatenate(ends) for ends in zip(*edges, strict=True))
    graph = coo_array((np.ones(len(one), dtype=np.int8), (one, other)), shape=(next_node, next_node))
    numbers: npt.NDArray[np.integer] = connected_components(graph, directed=False)[1][: len(rows)]
    return numbers
