"""What a look-up reads: records by their ids with their golden records."""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session


class Member(NamedTuple):
    """A record that is in a golden record: its id, its source and the id there, its tidy values, and the golden record."""

    id: int
    source: str
    source_key: str
    tidy: Mapping[str, str]
    golden_id: int


def members_among(session: Session, ids: Sequence[int]) -> list[Member]:
    """Return those of some records that are in golden records."""
    query = text("""
        SELECT s.id, o.name, s.source_key, s.tidy, m.golden_id FROM source_records s
        JOIN golden_members m ON m.record_id = s.id JOIN sources o ON o.id = s.source_id
        WHERE s.id = ANY(:ids) AND s.state <> 'withdrawn'
    """)
    return [Member(*row) for row in session.execute(query, {"ids": list(ids)})]


class GoldenShown(NamedTuple):
    """A golden record: its key and values, and how many records it holds."""

    key: str
    values: Mapping[str, str]
    size: int


def golden_shown(session: Session, ids: Sequence[int]) -> dict[int, GoldenShown]:
    """Return golden records by id."""
    query = text("SELECT id, key, values, size FROM golden_records WHERE id = ANY(:ids)")
    return {row[0]: GoldenShown(row[1], row[2], row[3]) for row in session.execute(query, {"ids": list(ids)})}
