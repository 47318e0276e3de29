"""Golden values of many clusters at once, by columns: the same values as cluster by cluster, found by sorting whole arrays."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..fields import FRESHNESS_FIELD, Field, Layout
from ..joint_codes import joint_codes
from ..records import MISSING, Column, IntArray, RecordSet, column_from_codes
from ..tidying import is_placeholder
from .consensus_columns import settle_by_consensus
from .rules import CONSENSUS, descending

Longs = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class _Records:
    """The delivered and tidy records, the cluster of each, and the order in which ties are broken."""

    delivered: RecordSet
    tidy: RecordSet
    labels: IntArray
    freshness: Longs
    ties: Longs


def _freshness(column: Column) -> Longs:
    """Return, per record, the rank of its date, the newest first and without one last."""
    order = sorted(range(len(column.values)), key=lambda place: descending(column.values[place]))
    ranks = np.empty(len(order) + 1, dtype=np.int64)
    ranks[order] = np.arange(len(order))
    ranks[-1] = len(order)
    return ranks[column.codes]


def _agreeing(records: _Records, unit: str, names: Sequence[str], holders: Longs) -> Longs:
    """Return, per holder, how many of its cluster agree with it: by tidy values, or by delivered ones where there are none."""
    root = unit.split(".")[0]
    tidy = [
        column.codes[holders]
        for name, column in records.tidy.columns.items()
        if name == root or name.startswith(root + ".")
    ]
    delivered = joint_codes([records.delivered.column(name).codes[holders] for name in names])
    key = delivered
    if tidy:
        have_tidy = np.logical_or.reduce([codes != MISSING for codes in tidy])
        key = np.where(have_tidy, joint_codes(tidy) + int(delivered.max(initial=0)) + 1, delivered)
    both = joint_codes([records.labels[holders], key.astype(np.int32)])
    return np.bincount(both)[both]


def _lengths(column: Column) -> Longs:
    return np.array([*map(len, column.values), 0], dtype=np.int64)[column.codes]


def _shouts(records: _Records, names: Sequence[str], holders: Longs) -> npt.NDArray[np.bool_]:
    """Return which holders' values are all in capitals."""
    shouting = np.ones(len(holders), dtype=np.bool_)
    for name in names:
        column = records.delivered.column(name)
        shouting &= np.array([*(value.isupper() for value in column.values), True], dtype=np.bool_)[
            column.codes[holders]
        ]
    return shouting


def _standings(records: _Records, unit: str, names: Sequence[str], rule: str, holders: Longs) -> list[Longs]:
    """Return what holders are ranked by under a rule, the least first, most telling keys last as in lexsort."""
    if rule == "newest":
        return [records.freshness[holders]]
    if rule == "most common":
        return [-_agreeing(records, unit, names, holders)]
    columns = [records.delivered.column(name) for name in names]
    length = np.sum([_lengths(column)[holders] for column in columns], axis=0)
    if rule == "longest":
        return [-length]
    if rule == "most complete":
        return [-length, -np.sum([column.codes[holders] != MISSING for column in columns], axis=0)]
    # By the rank of the source, which is the first to break ties.
    return []


def _with_gaps_filled(column: Column, gaps: Mapping[int, str]) -> Column:
    if not gaps:
        return column
    codes = column.codes.copy()
    codes[list(gaps)] = len(column.values) + np.arange(len(gaps))
    return column_from_codes([*column.values, *gaps.values()], codes)


def _winners(
    records: _Records, unit: str, fields: Sequence[Field], rule: str, clusters: int
) -> tuple[Longs, dict[str, dict[int, str]]]:
    """Return (per cluster the record whose values of a unit survive, -1 where none has any; what fills gaps, as above)."""
    names = [field.name for field in fields]
    filled = np.logical_or.reduce([records.delivered.column(name).codes != MISSING for name in names])
    winners = np.full(clusters, MISSING, dtype=np.int64)
    sizes = np.bincount(records.labels[filled], minlength=clusters)
    alone = np.flatnonzero(filled & (sizes[records.labels] == 1))
    winners[records.labels[alone]] = alone
    holders = np.flatnonzero(filled & (sizes[records.labels] > 1))
    if len(holders) and rule == CONSENSUS:
        ordered = holders[np.lexsort((records.ties[holders], records.labels[holders]))]
        return winners, settle_by_consensus(
            records.delivered, records.tidy, unit, fields, ordered, records.labels[ordered], winners
        )
    if len(holders):
        keys = [
            records.ties[holders],
            _shouts(records, names, holders),
            *_standings(records, unit, names, rule, holders),
        ]
        labels = records.labels[holders]
        order = np.lexsort((*keys, labels))
        first = np.flatnonzero(np.concatenate(([True], labels[order][1:] != labels[order][:-1])))
        winners[labels[order][first]] = holders[order][first]
    return winners, {}


def _without_fillers(delivered: RecordSet) -> RecordSet:
    """Return the records without values that only fill a gap."""
    columns = dict(delivered.columns)
    for name, column in delivered.columns.items():
        fills = np.array([*(is_placeholder(value) for value in column.values), False], dtype=np.bool_)
        if fills.any():
            columns[name] = Column(column.values, np.where(fills[column.codes], MISSING, column.codes).astype(np.int32))
    return RecordSet(delivered.sources, delivered.source_codes, delivered.ids, columns)


def golden_columns(
    layout: Layout, rules: Mapping[str, str], delivered: RecordSet, tidy: RecordSet, labels: IntArray
) -> dict[str, Column]:
    """Return, per field of the layout, the surviving values of all clusters, numbered as in ``labels``.

    All sources are trusted alike; ``delivered`` and ``tidy`` hold the same records in the same order. Each value is what
    ``golden_rows`` would yield for the cluster.
    """
    count = len(labels)
    delivered = _without_fillers(delivered)
    freshness = _freshness(tidy.column(FRESHNESS_FIELD))
    # Records are in the order of source and id, which breaks ties after freshness.
    ties = freshness * max(count, 1) + np.arange(count)
    records = _Records(delivered, tidy, labels, freshness, np.argsort(np.argsort(ties, kind="stable"), kind="stable"))
    clusters = int(labels.max(initial=-1)) + 1
    golden: dict[str, Column] = {}
    for unit, fields in layout.groups.items():
        names = [field.name for field in fields]
        winners, gaps = _winners(records, unit, fields, rules[unit], clusters)
        for name in names:
            column = delivered.column(name)
            codes = np.append(column.codes, np.int32(MISSING))[winners]
            golden[name] = _with_gaps_filled(Column(column.values, codes.astype(np.int32)), gaps.get(name, {}))
    return golden
