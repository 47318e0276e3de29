"""Golden values of many clusters at once, by columns: the same values as cluster by cluster, found by sorting whole arrays."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..fields import FRESHNESS_FIELD, Field, FieldKind, Layout
from ..records import MISSING, Column, IntArray, RecordSet, column_from_codes
from .chains import Chain, settle
from .clean_values import clean_columns
from .consensus_columns import settle_by_consensus
from .members import Contributor, descending, holders_of
from .rules import Rules
from .steps import CONSENSUS, NEWEST, WINNER_OF, Step

Longs = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class _Records:
    """The delivered and tidy records, the cluster of each, and the order in which ties are broken."""

    delivered: RecordSet
    tidy: RecordSet
    labels: IntArray
    freshness: Longs
    ties: Longs

    def contributor(self, record: int) -> Contributor:
        """Return a record as the rules see it."""
        delivered, tidy = self.delivered, self.tidy
        fresh = tidy.column(FRESHNESS_FIELD).at(record)
        return Contributor(
            delivered.ids[record], delivered.source_of(record), 1, fresh, delivered.row(record), tidy.row(record)
        )


def _freshness(column: Column) -> Longs:
    """Return, per record, the rank of its date, the newest first and without one last."""
    order = sorted(range(len(column.values)), key=lambda place: descending(column.values[place]))
    ranks = np.empty(len(order) + 1, dtype=np.int64)
    ranks[order] = np.arange(len(order))
    ranks[-1] = len(order)
    return ranks[column.codes]


def _with_gaps_filled(column: Column, gaps: Mapping[int, str]) -> Column:
    if not gaps:
        return column
    codes = column.codes.copy()
    codes[list(gaps)] = len(column.values) + np.arange(len(gaps))
    return column_from_codes([*column.values, *gaps.values()], codes)


def _winners(
    records: _Records, layout: Layout, unit: str, chain: Chain, clusters: int
) -> tuple[Longs, dict[str, dict[int, str]]]:
    """Return (per cluster the record whose values of a unit survive, -1 where none has any; what fills gaps, as above)."""
    fields = layout.groups[unit]
    columns = [records.delivered.column(field.name).codes for field in fields]
    filled = np.logical_or.reduce([codes != MISSING for codes in columns])
    winners = np.full(clusters, MISSING, dtype=np.int64)
    holders = np.flatnonzero(filled)
    holders = holders[np.lexsort((records.ties[holders], records.labels[holders]))]
    labels = records.labels[holders]
    starts = np.flatnonzero(np.diff(labels, prepend=-1))
    winners[labels[starts]] = holders[starts]
    sizes = np.diff(np.append(starts, len(holders)))
    several = np.repeat(sizes > 1, sizes)
    holders, labels = holders[several], labels[several]
    if not len(holders):
        return winners, {}
    if chain == (Step(CONSENSUS),):
        return winners, settle_by_consensus(records.delivered, records.tidy, unit, fields, holders, labels, winners)
    # Addresses have their gaps filled from the others, and what is all in capitals gives way to what means the same: by cluster.
    if chain == (Step(NEWEST),) and fields[0].kind is not FieldKind.ADDRESS:
        order = np.lexsort((records.ties[holders], records.freshness[holders], labels))
        first = np.flatnonzero(np.diff(labels[order], prepend=-1))
        winners[labels[order][first]] = holders[order][first]
        shouts = np.logical_and.reduce([
            np.array([*(value.isupper() for value in column.values), True], dtype=np.bool_)[column.codes[winners[labels]]]
            for column in (records.delivered.column(field.name) for field in fields)
        ])  # fmt: skip
        holders, labels = holders[shouts], labels[shouts]
        if not len(holders):
            return winners, {}
    return winners, _one_by_one(records, unit, fields, chain, holders, labels, winners)


def _one_by_one(
    records: _Records, unit: str, fields: Sequence[Field], chain: Chain, holders: Longs, labels: IntArray, winners: Longs
) -> dict[str, dict[int, str]]:  # fmt: skip
    """Set the winners of clusters by a chain, one after the other; return, per field, cluster → a value that fills a gap."""
    gaps: dict[str, dict[int, str]] = {field.name: {} for field in fields}
    starts = np.flatnonzero(np.diff(labels, prepend=-1))
    for members in np.split(holders, starts[1:]):
        own = [records.contributor(member) for member in members.tolist()]
        held = holders_of([field.name for field in fields], own)
        if all(values == held[0][1] for _, values in held):
            continue
        outcome = settle(unit, fields, chain, held, {})
        label = int(records.labels[members[0]])
        winners[label] = members[outcome.place]
        for name in outcome.filled:
            gaps[name][label] = outcome.values[name]
    return gaps


def golden_columns(
    layout: Layout, rules: Rules, delivered: RecordSet, tidy: RecordSet, labels: IntArray
) -> dict[str, Column]:
    """Return, per field of the layout, the surviving values of all clusters, numbered as in ``labels``.

    All sources are trusted alike; ``delivered`` and ``tidy`` hold the same records in the same order. Each value is what
    ``golden_rows`` would yield for the cluster. No unit may go with the winner of another (ValueError).
    """
    if any(step.by == WINNER_OF for chain in rules.values() for step in chain):
        raise ValueError("units that go with another are decided cluster by cluster only")
    count = len(labels)
    delivered = clean_columns(delivered, tidy)
    freshness = _freshness(tidy.column(FRESHNESS_FIELD))
    # Records are in the order of source and id, which breaks ties after freshness.
    ties = freshness * max(count, 1) + np.arange(count)
    records = _Records(delivered, tidy, labels, freshness, np.argsort(np.argsort(ties, kind="stable"), kind="stable"))
    clusters = int(labels.max(initial=-1)) + 1
    golden: dict[str, Column] = {}
    for unit, fields in layout.groups.items():
        names = [field.name for field in fields]
        winners, gaps = _winners(records, layout, unit, rules[unit], clusters)
        for name in names:
            column = delivered.column(name)
            codes = np.append(column.codes, np.int32(MISSING))[winners]
            golden[name] = _with_gaps_filled(Column(column.values, codes.astype(np.int32)), gaps.get(name, {}))
    return golden
