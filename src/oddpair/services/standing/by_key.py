"""Golden records read by their key, and the key of a record: what other programs keep instead of our numbers."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from sqlalchemy.orm import Session

from ...core.errors import NotFound
from ...store.golden import follow, golden_by_key, records_with_sources
from ...store.membership import members_of
from ...store.records import golden_key_of
from ...store.registers import register_by_slug, source_by_name

State = Literal["in force", "merged into", "ended"]


@dataclass(frozen=True, slots=True)
class Keyed:
    """A golden record by its key: its values and, per record that belongs to it, (source, the source's id).

    One that was merged ``leads_to`` a key in the end; one that ended has neither values nor records.
    """

    key: str
    state: State
    values: Mapping[str, str]
    records: Sequence[tuple[str, str]]
    leads_to: str
    version: int
    updated_at: datetime


def by_key(session: Session, slug: str, key: str) -> Keyed:
    """Return what a golden key stands for now; raise NotFound for one that was never given."""
    golden = golden_by_key(session, register_by_slug(session, slug).id, key)
    last = follow(session, golden)
    if last.withdrawn_at is not None:
        return Keyed(key, "ended", {}, (), "", golden.version, last.withdrawn_at)
    if last is not golden:
        return Keyed(key, "merged into", {}, (), last.key, golden.version, golden.updated_at)
    members = records_with_sources(session, members_of(session, [golden.id])[golden.id])
    records = sorted((source.name, record.source_key) for record, source in members.values())
    return Keyed(key, "in force", golden.values, records, "", golden.version, golden.updated_at)


def key_of_record(session: Session, slug: str, source_name: str, source_key: str) -> str:
    """Return the golden key of a record, by its source and the source's id; raise NotFound where it has none."""
    source = source_by_name(session, register_by_slug(session, slug).id, source_name)
    if source is None:
        raise NotFound("source", source_name)
    key = golden_key_of(session, source.id, source_key)
    if key is None:
        raise NotFound(f"golden record of what '{source_name}' calls", source_key)
    return key
