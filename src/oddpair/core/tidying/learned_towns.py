"""Towns learned from the postcodes of other records: for addresses in one line of which nobody can tell where the town begins."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from ..joint_codes import distinct_rows
from ..records import Column, IntArray, RecordSet, column_from_codes

_TOWN, _POSTCODE, _STREET = "address.city", "address.postcode", "address.street"
#: So many records with one postcode, and such a share of them, must name a town for it to be taken for the postcode's.
_LEAST_RECORDS, _LEAST_SHARE = 3, 0.9


def with_learned_towns(records: RecordSet) -> RecordSet:
    """Return tidy records, of which those with a postcode and no town have the town that nearly all others with the postcode have; where
    the street ends in its words, they are the town's and not the street's.
    """
    town, postcode = records.column(_TOWN), records.column(_POSTCODE)
    known = records.census.texts("towns of postcodes", lambda: _towns_of_postcodes(town, postcode))
    named = [known.get(value, "") for value in postcode.values]
    is_named = np.array([bool(name) for name in named] + [False], dtype=np.bool_)
    learned = np.flatnonzero((town.codes < 0) & is_named[postcode.codes])
    if not len(learned):
        return records
    towns, values = town.codes.copy(), [*town.values, *named]
    towns[learned] = len(town.values) + postcode.codes[learned]
    columns = {
        **records.columns,
        _TOWN: column_from_codes(values, towns),
        _STREET: _without_towns(records.column(_STREET), values, towns, learned),
    }
    return replace(records, columns=columns)


def _towns_of_postcodes(town: Column, postcode: Column) -> dict[str, str]:
    """Return postcode → the town that nearly all records with it name."""
    if not len(town.values):
        return {}
    both = np.flatnonzero((town.codes >= 0) & (postcode.codes >= 0))
    pairs, counts = np.unique(
        postcode.codes[both].astype(np.int64) * len(town.values) + town.codes[both], return_counts=True
    )
    of_postcode, named = np.divmod(pairs, len(town.values))
    all_of = np.bincount(of_postcode, weights=counts, minlength=len(postcode.values))
    sure = (counts >= _LEAST_RECORDS) & (counts >= _LEAST_SHARE * all_of[of_postcode])
    places = zip(of_postcode[sure].tolist(), named[sure].tolist(), strict=True)
    return {postcode.values[place]: town.values[name] for place, name in places}


def _without_towns(street: Column, values: Sequence[str], towns: IntArray, learned: npt.NDArray[np.int64]) -> Column:
    """Return the streets, without the town's words at their end for the records for which a town was learned."""
    filled = learned[street.codes[learned] >= 0]
    first, which = distinct_rows([street.codes[filled], towns[filled]])
    shorter = []
    for record in filled[first].tolist():
        own, end = street.values[street.codes[record]], f" {values[towns[record]]}"
        shorter.append(own.removesuffix(end))
    codes = street.codes.copy()
    codes[filled] = len(street.values) + which
    return column_from_codes([*street.values, *shorter], codes)
