"""Towns learned from the postcodes of other records: for addresses in one line of which nobody can tell where the town begins."""

import numpy as np
import numpy.typing as npt

from ..joint_codes import distinct_rows
from ..records import MISSING, Column, IntArray, RecordSet, column_from_codes

_TOWN, _POSTCODE, _STREET = "address.city", "address.postcode", "address.street"
#: So many records with one postcode, and such a share of them, must name a town for it to be taken for the postcode's.
_LEAST_RECORDS, _LEAST_SHARE = 3, 0.9


def with_learned_towns(records: RecordSet) -> RecordSet:
    """Return tidy records, of which those with a postcode and no town have the town that nearly all others with the postcode have; where
    the street ends in its words, they are the town's and not the street's.
    """
    town, postcode = records.column(_TOWN), records.column(_POSTCODE)
    open_ = np.flatnonzero((town.codes < 0) & (postcode.codes >= 0))
    if not len(open_) or not len(town.values):
        return records
    towns = town.codes.copy()
    towns[open_] = _towns_of_postcodes(town, postcode)[postcode.codes[open_]]
    learned = open_[towns[open_] >= 0]
    columns = {
        **records.columns,
        _TOWN: column_from_codes(town.values, towns),
        _STREET: _without_towns(records.column(_STREET), town, towns, learned),
    }
    return RecordSet(records.sources, records.source_codes, records.ids, columns)


def _towns_of_postcodes(town: Column, postcode: Column) -> IntArray:
    """Return, per postcode, the number of the town that nearly all records with it name, ``MISSING`` where there is none."""
    both = np.flatnonzero((town.codes >= 0) & (postcode.codes >= 0))
    pairs, counts = np.unique(
        postcode.codes[both].astype(np.int64) * len(town.values) + town.codes[both], return_counts=True
    )
    of_postcode, named = np.divmod(pairs, len(town.values))
    all_of = np.bincount(of_postcode, weights=counts, minlength=len(postcode.values))
    sure = (counts >= _LEAST_RECORDS) & (counts >= _LEAST_SHARE * all_of[of_postcode])
    towns = np.full(len(postcode.values), MISSING, dtype=np.int32)
    towns[of_postcode[sure]] = named[sure]
    return towns


def _without_towns(street: Column, town: Column, towns: IntArray, learned: npt.NDArray[np.int64]) -> Column:
    """Return the streets, without the town's words at their end for the records for which a town was learned."""
    filled = learned[street.codes[learned] >= 0]
    first, which = distinct_rows([street.codes[filled], towns[filled]])
    shorter = []
    for record in filled[first].tolist():
        own, end = street.values[street.codes[record]], f" {town.values[towns[record]]}"
        shorter.append(own.removesuffix(end))
    codes = street.codes.copy()
    codes[filled] = len(street.values) + which
    return column_from_codes([*street.values, *shorter], codes)
