"""What golden records were at a moment in the past: values from their kept versions, members from the moves of the journal."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import text
from sqlalchemy.orm import Session

_WAS = text("""
    SELECT v.values, v.id IS NOT NULL FROM golden_records g
    LEFT JOIN LATERAL (
        SELECT id, values FROM golden_versions WHERE golden_id = g.id AND until > :at ORDER BY id LIMIT 1
    ) v ON true WHERE g.id = :golden
""")


def values_at(session: Session, golden_id: int, at: datetime) -> tuple[bool, dict[str, Any] | None]:
    """Return (whether a golden record has changed since a moment, its values then, None where it was not in force)."""
    values, changed = session.execute(_WAS, {"golden": golden_id, "at": at}).one()
    return changed, values


_MEMBERS = text("""
    SELECT s.id, o.name, s.source_key FROM (
        SELECT DISTINCT ON (m.record_id) m.record_id, m.to_golden FROM moves m JOIN journal j ON j.id = m.journal_id
        WHERE m.record_id IN (SELECT record_id FROM moves WHERE to_golden = :golden) AND j.at <= :at ORDER BY m.record_id, m.id DESC
    ) latest JOIN source_records s ON s.id = latest.record_id JOIN sources o ON o.id = s.source_id
    WHERE latest.to_golden = :golden ORDER BY o.trust_rank, o.name, s.source_key
""")


def members_at(session: Session, golden_id: int, at: datetime) -> Sequence[tuple[int, str, str]]:
    """Return (record id, source, source's id) of the members of a golden record at a moment, by trust in the source."""
    rows = session.execute(_MEMBERS, {"golden": golden_id, "at": at})
    return [(row[0], row[1], row[2]) for row in rows]
