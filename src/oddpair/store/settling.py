"""What records are now: what the latest deliveries in force say of them, with corrections on top.

Every step works on the records in the temporary table ``touched``, so that it is one statement however many there are.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import text
from sqlalchemy.orm import Session

from .bulk import copied_out, copy_ids, copy_lines


def begin_touched(session: Session) -> None:
    """Make the temporary table ``touched``, empty."""
    session.execute(text("CREATE TEMPORARY TABLE IF NOT EXISTS touched (id bigint PRIMARY KEY) ON COMMIT DROP"))
    session.execute(text("TRUNCATE touched"))


def touch(session: Session, records: Iterable[int]) -> None:
    """Put records into ``touched``, in place of what was there."""
    copy_ids(session, "touched", records)


def touch_delivery(session: Session, delivery_id: int) -> None:
    """Put the records of which a delivery says something into ``touched``."""
    begin_touched(session)
    session.execute(
        text("INSERT INTO touched SELECT record_id FROM delivery_records WHERE delivery_id = :id"), {"id": delivery_id}
    )
    session.execute(text("ANALYZE touched"))


def touch_register(session: Session, register_id: int) -> None:
    """Put all records of a register into ``touched``."""
    begin_touched(session)
    session.execute(
        text("INSERT INTO touched SELECT id FROM source_records WHERE register_id = :id"), {"id": register_id}
    )
    session.execute(text("ANALYZE touched"))


def touch_corrected(session: Session, source_id: int) -> int:
    """Put the records of a source with standing corrections into ``touched``; return how many there are."""
    begin_touched(session)
    session.execute(
        text("""
            INSERT INTO touched SELECT DISTINCT c.record_id FROM corrections c JOIN source_records s ON s.id = c.record_id
            WHERE s.source_id = :source_id AND c.withdrawn_at IS NULL
        """),
        {"source_id": source_id},
    )
    return count_touched(session)


def count_touched(session: Session) -> int:
    """Return how many records are in ``touched``."""
    return int(session.execute(text("SELECT count(*) FROM touched")).scalar_one())


_SETTLE = """
CREATE TEMPORARY TABLE settled ON COMMIT DROP AS
WITH stated AS (
    SELECT DISTINCT ON (r.record_id) r.record_id, r.version_id
    FROM delivery_records r JOIN deliveries d ON d.id = r.delivery_id AND d.status = 'loaded'
    WHERE r.record_id IN (SELECT id FROM touched)
    ORDER BY r.record_id, d.loaded_at DESC, d.id DESC
)
SELECT s.id, CASE WHEN a.record_id IS NULL THEN 'withdrawn' WHEN a.version_id IS NULL THEN 'ended' ELSE 'current' END AS state,
       coalesce(a.version_id, s.version_id) AS version_id, s.state AS was, s.version_id AS was_version
FROM source_records s JOIN touched t ON t.id = s.id LEFT JOIN stated a ON a.record_id = s.id
"""
_WRITE_SETTLED = """
UPDATE source_records s
SET state = n.state, version_id = n.version_id, delivered = v.delivered, fields = v.fields, content_hash = v.content_hash,
    delivery_id = v.delivery_id, changed_version = (SELECT records_version + 1 FROM counters WHERE register_id = s.register_id)
FROM settled n JOIN record_versions v ON v.id = n.version_id
WHERE s.id = n.id AND (n.state <> n.was OR n.version_id IS DISTINCT FROM n.was_version OR s.content_hash <> v.content_hash
    OR s.delivery_id <> v.delivery_id)
"""


@dataclass(frozen=True, slots=True)
class Settled:
    """What became of records whose deliveries changed: ids of those withdrawn and come back, and how many are others now."""

    withdrawn: list[int]
    returned: list[int]
    changed: int


def settle(session: Session) -> Settled:
    """Make touched records what the latest deliveries in force say; corrections and tidy values are left to the next steps."""
    session.flush()
    session.execute(text("DROP TABLE IF EXISTS pg_temp.settled"))
    session.execute(text(_SETTLE))
    session.execute(text(_WRITE_SETTLED))
    withdrawn = session.scalars(
        text("SELECT id FROM settled WHERE state = 'withdrawn' AND was <> 'withdrawn' ORDER BY id")
    )
    returned = session.scalars(
        text("SELECT id FROM settled WHERE state <> 'withdrawn' AND was = 'withdrawn' ORDER BY id")
    )
    changed = session.execute(
        text("SELECT count(*) FROM settled WHERE version_id IS DISTINCT FROM was_version")
    ).scalar_one()
    return Settled(list(withdrawn), list(returned), int(changed))


#: Put standing corrections into the fields; of several corrections of a field the latest counts.
_CORRECTED = """
UPDATE source_records s SET fields = n.fields FROM (
    SELECT v.record_id AS id, (
        SELECT coalesce(jsonb_object_agg(key, value) FILTER (WHERE value <> ''), '{}') FROM (
            SELECT DISTINCT ON (key) key, value FROM (
                SELECT key, value, 0 AS made FROM jsonb_each_text(v.fields)
                UNION ALL
                SELECT c.field, c.value, c.id FROM corrections c WHERE c.record_id = v.record_id AND c.withdrawn_at IS NULL
            ) stated ORDER BY key, made DESC
        ) latest) AS fields
    FROM source_records o JOIN touched t ON t.id = o.id JOIN record_versions v ON v.id = o.version_id
    WHERE EXISTS (SELECT FROM corrections c WHERE c.record_id = o.id)
) n
WHERE s.id = n.id AND s.fields <> n.fields
"""
_SUPERSEDED = """
UPDATE corrections c SET withdrawn_at = now()
FROM source_records s JOIN touched t ON t.id = s.id JOIN record_versions v ON v.id = s.version_id
WHERE c.record_id = s.id AND c.withdrawn_at IS NULL AND coalesce(v.fields->>c.field, '') <> c.was
"""


def lay_corrections(session: Session) -> None:
    """Put standing corrections on top of what touched records' versions say.

    A correction is superseded where the source delivers another value than the one that was corrected.
    """
    session.flush()
    session.execute(text(_SUPERSEDED))
    session.execute(text(_CORRECTED))


_FIELDS = """
SELECT s.id, s.fields FROM source_records s JOIN touched t ON t.id = s.id
WHERE s.id > %(after)s ORDER BY s.id LIMIT %(limit)s
"""
_WORDS = """
SELECT s.id, to_json(s.source_key), s.delivered, s.fields, s.tidy FROM source_records s JOIN touched t ON t.id = s.id
WHERE s.id > %(after)s ORDER BY s.id LIMIT %(limit)s
"""


def _parts(session: Session, query: str, at_once: int) -> Iterator[list[bytes]]:
    after = 0
    while part := list(copied_out(session, query, {"after": after, "limit": at_once})):
        after = int(part[-1].partition(b"\x01")[0])
        yield part


def touched_fields(session: Session, at_once: int) -> Iterator[list[bytes]]:
    """Yield lines (id, fields) of touched records, many at a time, by id."""
    return _parts(session, _FIELDS, at_once)


def touched_values(session: Session, at_once: int) -> Iterator[list[bytes]]:
    """Yield lines (id, source's id, delivered values, fields, tidy values) of touched records, many at a time, by id."""
    return _parts(session, _WORDS, at_once)


def write_tidy(session: Session, lines: bytes) -> int:
    """Write tidy values, given as lines (id, tidy); return how many records differ from before."""
    session.execute(text("CREATE TEMPORARY TABLE IF NOT EXISTS tidied (id bigint, tidy jsonb) ON COMMIT DROP"))
    session.execute(text("TRUNCATE tidied"))
    copy_lines(session, "tidied", ("id", "tidy"), lines)
    session.execute(text("ANALYZE tidied"))
    changed = session.execute(
        text("""
            WITH changed AS (
                UPDATE source_records s SET tidy = t.tidy,
                    changed_version = (SELECT records_version + 1 FROM counters WHERE register_id = s.register_id)
                FROM tidied t WHERE s.id = t.id AND s.tidy <> t.tidy RETURNING 1
            ) SELECT count(*) FROM changed
        """)
    )
    return int(changed.scalar_one())


def write_words(session: Session, lines: bytes) -> None:
    """Write the words by which records are searched, given as lines (id, words)."""
    session.execute(text("CREATE TEMPORARY TABLE IF NOT EXISTS new_words (id bigint, words tsvector) ON COMMIT DROP"))
    session.execute(text("TRUNCATE new_words"))
    copy_lines(session, "new_words", ("id", "words"), lines)
    session.execute(
        text("""
            INSERT INTO record_words AS w (record_id, words) SELECT id, words FROM new_words
            ON CONFLICT (record_id) DO UPDATE SET words = excluded.words WHERE w.words <> excluded.words
        """)
    )


def golden_of_touched(session: Session) -> list[int]:
    """Return the golden records that touched records belong to, ascending."""
    query = text("SELECT DISTINCT m.golden_id FROM golden_members m JOIN touched t ON t.id = m.record_id ORDER BY 1")
    return list(session.scalars(query))


def sources_of_touched(session: Session) -> Sequence[int]:
    """Return the sources whose records are touched."""
    return list(
        session.scalars(
            text("SELECT DISTINCT s.source_id FROM source_records s JOIN touched t ON t.id = s.id ORDER BY 1")
        )
    )


def delivered_in(session: Session, records: Sequence[int], field: str) -> Mapping[int, str]:
    """Return what the sources delivered in a field of records."""
    query = text("""
        SELECT s.id, coalesce(v.fields->>:field, '') FROM source_records s JOIN record_versions v ON v.id = s.version_id
        WHERE s.id = ANY(:records)
    """)
    return {row[0]: row[1] for row in session.execute(query, {"field": field, "records": list(records)})}
