"""Clusters that an edited plan joins or cuts, with their records."""

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...store.golden import records_with_sources
from ..review.pair import FacedRecord, faced
from .benches import BenchOfRegister
from .tries import Asked, changed_clusters


@dataclass(frozen=True, slots=True)
class NamedChange:
    """Records whose clusters become others, with the clusters before and after, numbered from 0 within the change."""

    records: Sequence[FacedRecord]
    before: Sequence[int]
    after: Sequence[int]


@dataclass(frozen=True, slots=True)
class NamedChanges:
    """The first changes, and how many join and cut clusters in all."""

    joining: int
    cutting: int
    changes: Sequence[NamedChange]


def named_changes(session: Session, own: BenchOfRegister, asked: Asked) -> NamedChanges:
    """Return what a settled plan changes against the other one; raise NotFound until both are settled."""
    changes, joining, cutting = changed_clusters(own, asked)
    ids = [int(own.ids[record]) for change in changes for record in change.records]
    records = records_with_sources(session, ids)
    named = []
    for change in changes:
        rows = [
            (faced(*records[int(own.ids[record])]), before, after)
            for record, before, after in zip(change.records, change.before, change.after, strict=True)
            if int(own.ids[record]) in records
        ]
        if rows:
            shown, before, after = zip(*rows, strict=True)
            named.append(NamedChange(shown, _numbered(before), _numbered(after)))
    return NamedChanges(joining, cutting, named)


def _numbered(labels: Sequence[int]) -> list[int]:
    seen: dict[int, int] = {}
    return [seen.setdefault(label, len(seen)) for label in labels]
