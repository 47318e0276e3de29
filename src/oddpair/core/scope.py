"""From the scope of a pass to its sides: which records may meet at all."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .errors import PlanInvalid
from .plan import Scope
from .records import IntArray, RecordSet, further
from .sides import Flags, Sides


@dataclass(frozen=True, slots=True)
class Known:
    """What is known of records besides their values: the number of the ``golden`` record that each is in (-1: none), and when each was
    ``delivered``. Where a scope leaves records out, those of one golden record stay together."""

    golden: npt.NDArray[np.int64]
    delivered: npt.NDArray[np.datetime64]

    @property
    def in_golden(self) -> Flags:
        """Return which records are in a golden record."""
        flags: Flags = self.golden >= 0
        return flags

    def labels(self) -> IntArray:
        """Return the clusters that golden records are, counted in the order of first records; others are alone."""
        alone = np.where(
            self.golden >= 0, self.golden, int(self.golden.max(initial=-1)) + 1 + np.arange(len(self.golden))
        )
        _, first, which = np.unique(alone, return_index=True, return_inverse=True)
        rank = np.empty(len(first), dtype=np.int32)
        rank[np.argsort(first, kind="stable")] = np.arange(len(first))
        return rank[which]


def sides_of_scope(records: RecordSet, scope: Scope, known: Known | None) -> Sides:
    """Return the sides of tidy records that a scope leaves; raise PlanInvalid if it asks for what is not known of them."""
    one = _with_values(records, scope.one_side)
    other = _with_values(records, scope.other_side)
    if scope.incoming != "anything":
        in_golden = _known_or_refused(known, "incoming").in_golden
        one, other = one & ~in_golden, other & in_golden
    if scope.since is not None:
        moment = np.datetime64(
            scope.since.replace(tzinfo=None) - (scope.since.utcoffset() or scope.since - scope.since), "us"
        )
        one = one & (_known_or_refused(known, "since").delivered >= moment)
    return Sides(one, other)


def _known_or_refused(known: Known | None, asked: str) -> Known:
    if known is None:
        raise PlanInvalid([f"scope: '{asked}' asks for golden records or deliveries, which files alone do not have"])
    return known


def _with_values(records: RecordSet, wanted: Mapping[str, tuple[str, ...]]) -> Flags:
    """Return which records hold, of every field that is named, one of the values wanted, in capitals or not."""
    flags = np.ones(len(records), dtype=np.bool_)
    for field, values in wanted.items():
        folded = {value.casefold() for value in values}
        holds = np.zeros(len(records), dtype=np.bool_)
        for place in range(records.places(field)):
            column = records.column(further(field, place))
            fits = np.array([value.casefold() in folded for value in column.values] + [False], dtype=np.bool_)
            holds |= fits[column.codes]
        flags &= holds
    return flags
