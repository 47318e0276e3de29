"""From staged rows to source records, and from what deliveries said to what records are now."""

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import text
from sqlalchemy.orm import Session

from .bulk import copy_lines

INCOMING = ("source_key", "delivered", "fields", "tidy", "content_hash")


@dataclass(frozen=True, slots=True)
class LoadCounts:
    """What a load did to the source records of its source; ``gone`` counts records that a full delivery lacks."""

    new: int
    changed: int
    unchanged: int
    gone: int


def begin_staging(session: Session) -> None:
    """Make the temporary table of the transaction that takes incoming rows."""
    session.execute(text("DROP TABLE IF EXISTS pg_temp.incoming, pg_temp.matched"))
    session.execute(
        text("""
            CREATE TEMPORARY TABLE incoming (
                source_key text COLLATE "C", delivered jsonb, fields jsonb, tidy jsonb, content_hash text
            ) ON COMMIT DROP
        """)
    )


def stage(session: Session, lines: bytes) -> None:
    """COPY rows with the columns INCOMING, in the server's text format, into the staging table."""
    copy_lines(session, "incoming", INCOMING, lines)


#: What is known of each incoming row. New records get their ids in the order of their keys, so that nothing later
#: depends on the order of rows; only narrow rows are sorted for it.
_MATCH = """
CREATE TEMPORARY TABLE matched ON COMMIT DROP AS
SELECT source_key, was_new, was_changed, coalesce(record_id, nextval(pg_get_serial_sequence('source_records', 'id'))) AS record_id,
       CASE WHEN was_new_content THEN nextval(pg_get_serial_sequence('record_versions', 'id')) ELSE version_id END AS version_id,
       record_id IS NULL AS is_first, was_new_content
FROM (
    SELECT i.source_key, s.id AS record_id, s.version_id,
           s.id IS NULL OR s.state <> 'current' AS was_new,
           s.state = 'current' AND s.content_hash <> i.content_hash AS was_changed,
           s.id IS NULL OR s.content_hash <> i.content_hash OR s.version_id IS NULL AS was_new_content
    FROM incoming i LEFT JOIN source_records s ON s.source_id = :source_id AND s.source_key = i.source_key
    ORDER BY i.source_key
) known
"""
_INSERT_FIRST = """
INSERT INTO source_records (id, register_id, source_id, source_key, delivery_id, delivered, fields, tidy, content_hash, version_id)
SELECT m.record_id, :register_id, :source_id, i.source_key, :delivery_id, i.delivered, i.fields, i.tidy, i.content_hash, m.version_id
FROM incoming i JOIN matched m USING (source_key) WHERE m.is_first
"""
_UPDATE_OTHERS = """
UPDATE source_records s
SET delivery_id = CASE WHEN m.was_new_content THEN :delivery_id ELSE s.delivery_id END, delivered = i.delivered, fields = i.fields,
    tidy = i.tidy, content_hash = i.content_hash, version_id = m.version_id, state = 'current'
FROM incoming i JOIN matched m USING (source_key)
WHERE s.id = m.record_id AND NOT m.is_first AND (m.was_new OR m.was_changed OR m.was_new_content)
"""
_INSERT_VERSIONS = """
INSERT INTO record_versions (id, record_id, delivery_id, delivered, fields, content_hash)
SELECT m.version_id, m.record_id, :delivery_id, i.delivered, i.fields, i.content_hash
FROM incoming i JOIN matched m USING (source_key) WHERE m.was_new_content
"""
_INSERT_SAID = """
INSERT INTO delivery_records (delivery_id, record_id, version_id) SELECT :delivery_id, record_id, version_id FROM matched
"""
#: Looking every reference up again, row by row, takes longer than inserting; the statements above take their references
#: from rows that this transaction has just read or made. Where the role may not say so, they are looked up.
_TRUST_REFERENCES = """
SELECT CASE WHEN has_parameter_privilege('session_replication_role', 'SET')
            THEN set_config('session_replication_role', :role, true) END
"""
_GONE = """
FROM source_records s
WHERE s.source_id = :source_id AND s.state = 'current' AND NOT EXISTS (SELECT FROM matched m WHERE m.source_key = s.source_key)
"""


def load_incoming(
    session: Session, *, register_id: int, source_id: int, delivery_id: int, full: bool, end_gone: bool
) -> LoadCounts:
    """Turn the staged rows into source records and versions; nothing is duplicated by loading the same rows twice."""
    values = {"register_id": register_id, "source_id": source_id, "delivery_id": delivery_id}
    # Sorting and joining narrow rows of a million records fits into this.
    session.execute(text("SET LOCAL work_mem = '192MB'"))
    # Without figures of its own the server would take the staged rows for few.
    session.execute(text("ANALYZE incoming"))
    session.execute(text(_MATCH), values)
    session.execute(text("ANALYZE matched"))
    new, changed, unchanged = session.execute(
        text("""
            SELECT count(*) FILTER (WHERE was_new), count(*) FILTER (WHERE was_changed),
                   count(*) FILTER (WHERE NOT was_new AND NOT coalesce(was_changed, false)) FROM matched
        """)
    ).one()
    gone = session.execute(text("SELECT count(*)" + _GONE), values).scalar_one() if full else 0
    if full and end_gone:
        session.execute(
            text(f"INSERT INTO delivery_records (delivery_id, record_id) SELECT :delivery_id, s.id {_GONE}"), values
        )
        session.execute(text(f"UPDATE source_records SET state = 'ended' WHERE id IN (SELECT s.id {_GONE})"), values)
    session.execute(text(_TRUST_REFERENCES), {"role": "replica"})
    for statement in (_INSERT_FIRST, _UPDATE_OTHERS, _INSERT_VERSIONS, _INSERT_SAID):
        session.execute(text(statement), values)
    session.execute(text(_TRUST_REFERENCES), {"role": "origin"})
    return LoadCounts(new, changed, unchanged, gone)


_SETTLE = """
WITH said AS (
    SELECT DISTINCT ON (r.record_id) r.record_id, r.version_id
    FROM delivery_records r JOIN deliveries d ON d.id = r.delivery_id AND d.status = 'loaded'
    WHERE r.record_id = ANY(:records)
    ORDER BY r.record_id, d.loaded_at DESC, d.id DESC
),
now_is AS (
    SELECT s.id, CASE WHEN a.record_id IS NULL THEN 'withdrawn' WHEN a.version_id IS NULL THEN 'ended' ELSE 'current' END AS state,
           coalesce(a.version_id, s.version_id) AS version_id, s.state AS was, s.content_hash AS had
    FROM source_records s LEFT JOIN said a ON a.record_id = s.id
    WHERE s.id = ANY(:records)
)
UPDATE source_records s
SET state = n.state, version_id = n.version_id, delivered = v.delivered, fields = v.fields, content_hash = v.content_hash,
    delivery_id = v.delivery_id
FROM now_is n JOIN record_versions v ON v.id = n.version_id
WHERE s.id = n.id
RETURNING s.id, n.was, s.state, n.had <> s.content_hash
"""


@dataclass(frozen=True, slots=True)
class Settled:
    """What became of records whose deliveries changed: ids of those withdrawn, come back, and changed in content.

    ``touched`` are all whose fields were set anew.
    """

    withdrawn: list[int]
    returned: list[int]
    changed: list[int]
    touched: list[int]


def settle(session: Session, records: Sequence[int]) -> Settled:
    """Make records what the latest deliveries that were not taken back say; tidy values are left as they were."""
    session.flush()
    rows = session.execute(text(_SETTLE), {"records": list(records)}).all()
    session.expire_all()
    return Settled(
        sorted(row[0] for row in rows if row[2] == "withdrawn" and row[1] != "withdrawn"),
        sorted(row[0] for row in rows if row[1] == "withdrawn" and row[2] != "withdrawn"),
        sorted(row[0] for row in rows if row[3]),
        sorted(row[0] for row in rows),
    )


@dataclass(frozen=True, slots=True)
class TakeBackCounts:
    """What taking a delivery back would do.

    ``withdrawn`` records would leave the register, ``restored`` ones go back to what an earlier delivery said, of
    ``staying`` ones another delivery says the same or a later one more; ``golden`` golden records would lose records.
    """

    withdrawn: int
    restored: int
    staying: int
    golden: int


_WOULD_BE = """
WITH touched AS (SELECT record_id FROM delivery_records WHERE delivery_id = :id),
said AS (
    SELECT DISTINCT ON (r.record_id) r.record_id, r.version_id
    FROM delivery_records r JOIN deliveries d ON d.id = r.delivery_id AND d.status = 'loaded' AND d.id <> :id
    WHERE r.record_id IN (SELECT record_id FROM touched)
    ORDER BY r.record_id, d.loaded_at DESC, d.id DESC
)
SELECT count(*) FILTER (WHERE a.record_id IS NULL),
       count(*) FILTER (WHERE a.record_id IS NOT NULL AND (a.version_id IS DISTINCT FROM s.version_id) AND
                        NOT (a.version_id IS NULL AND s.state = 'ended')),
       count(*) FILTER (WHERE a.record_id IS NOT NULL AND (a.version_id IS NOT DISTINCT FROM s.version_id OR
                        (a.version_id IS NULL AND s.state = 'ended'))),
       count(DISTINCT m.golden_id) FILTER (WHERE a.record_id IS NULL)
FROM touched t JOIN source_records s ON s.id = t.record_id LEFT JOIN said a ON a.record_id = t.record_id
LEFT JOIN golden_members m ON m.record_id = t.record_id
"""


def take_back_counts(session: Session, delivery_id: int) -> TakeBackCounts:
    """Return what taking a delivery back would do."""
    return TakeBackCounts(*session.execute(text(_WOULD_BE), {"id": delivery_id}).one())


def records_of_delivery(session: Session, delivery_id: int) -> list[int]:
    """Return the ids of the records of which a delivery said something."""
    query = text("SELECT record_id FROM delivery_records WHERE delivery_id = :id ORDER BY record_id")
    return list(session.scalars(query, {"id": delivery_id}))


def forget_pairs(session: Session, register_id: int, records: Sequence[int]) -> None:
    """Drop what the latest run says of records that are gone from the register."""
    of_register = "run_id IN (SELECT id FROM runs WHERE register_id = :register_id)"
    values = {"register_id": register_id, "records": list(records)}
    for table, fits in (
        ("run_pairs", "left_id = ANY(:records)"), ("run_pairs", "right_id = ANY(:records)"), ("run_clusters", "record_id = ANY(:records)"),
    ):  # fmt: skip
        session.execute(text(f"DELETE FROM {table} WHERE {of_register} AND {fits}"), values)
