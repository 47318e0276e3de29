"""From staged rows to source records and their versions, and what taking a delivery back would do."""

from dataclasses import dataclass

from sqlalchemy import text
from sqlalchemy.orm import Session

from .bulk import copy_lines
from .settling import begin_touched

INCOMING = ("source_key", "delivered", "fields", "tidy", "content_hash", "words")


@dataclass(frozen=True, slots=True)
class LoadCounts:
    """What a load did to the source records of its source; ``gone`` counts records that a full delivery lacks.

    ``came_back`` of the new ones had left with a delivery that was taken back; ``erased`` rows are of records that were erased on request,
    and are left out.
    """

    new: int
    changed: int
    unchanged: int
    gone: int
    came_back: int
    erased: int


def begin_staging(session: Session) -> None:
    """Make the temporary table of the transaction that takes incoming rows."""
    session.execute(text("DROP TABLE IF EXISTS pg_temp.incoming, pg_temp.matched"))
    session.execute(
        text("""
            CREATE TEMPORARY TABLE incoming (
                source_key text COLLATE "C", delivered jsonb, fields jsonb, tidy jsonb, content_hash text, words tsvector
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
SELECT source_key, was_new, was_changed, came_back,
       coalesce(record_id, nextval(pg_get_serial_sequence('source_records', 'id'))) AS record_id,
       CASE WHEN was_new_content THEN nextval(pg_get_serial_sequence('record_versions', 'id')) ELSE version_id END AS version_id,
       record_id IS NULL AS is_first, was_new_content
FROM (
    SELECT i.source_key, s.id AS record_id, s.version_id,
           s.id IS NULL OR s.state <> 'current' AS was_new,
           s.state = 'withdrawn' AS came_back,
           s.state = 'current' AND s.content_hash <> i.content_hash AS was_changed,
           s.id IS NULL OR s.content_hash <> i.content_hash OR s.version_id IS NULL AS was_new_content
    FROM incoming i LEFT JOIN source_records s ON s.source_id = :source_id AND s.source_key = i.source_key
    ORDER BY i.source_key
) known
"""
_INSERT_FIRST = """
INSERT INTO source_records (id, register_id, source_id, source_key, delivery_id, delivered, fields, tidy, content_hash, version_id,
                            changed_version)
SELECT m.record_id, :register_id, :source_id, i.source_key, :delivery_id, i.delivered, i.fields, i.tidy, i.content_hash, m.version_id,
       (SELECT records_version + 1 FROM counters WHERE register_id = :register_id)
FROM incoming i JOIN matched m USING (source_key) WHERE m.is_first
"""
_UPDATE_OTHERS = """
UPDATE source_records s
SET delivery_id = CASE WHEN m.was_new_content THEN :delivery_id ELSE s.delivery_id END, delivered = i.delivered, fields = i.fields,
    tidy = i.tidy, content_hash = i.content_hash, version_id = m.version_id, state = 'current',
    changed_version = (SELECT records_version + 1 FROM counters WHERE register_id = :register_id)
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
_INSERT_WORDS = """
INSERT INTO record_words AS w (record_id, words)
SELECT m.record_id, i.words FROM incoming i JOIN matched m USING (source_key) WHERE m.was_new OR m.was_changed OR m.was_new_content
ON CONFLICT (record_id) DO UPDATE SET words = excluded.words WHERE w.words <> excluded.words
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
    erased = _leave_out_erased(session, source_id)
    # Without figures of its own the server would take the staged rows for few.
    session.execute(text("ANALYZE incoming"))
    session.execute(text(_MATCH), values)
    session.execute(text("ANALYZE matched"))
    new, changed, unchanged, came_back = session.execute(
        text("""
            SELECT count(*) FILTER (WHERE was_new), count(*) FILTER (WHERE was_changed),
                   count(*) FILTER (WHERE NOT was_new AND NOT coalesce(was_changed, false)), count(*) FILTER (WHERE came_back)
            FROM matched
        """)
    ).one()
    gone = session.execute(text("SELECT count(*)" + _GONE), values).scalar_one() if full else 0
    if full and end_gone:
        session.execute(
            text(f"INSERT INTO delivery_records (delivery_id, record_id) SELECT :delivery_id, s.id {_GONE}"), values
        )
        session.execute(text(f"UPDATE source_records SET state = 'ended' WHERE id IN (SELECT s.id {_GONE})"), values)
    for statement in (_INSERT_FIRST, _UPDATE_OTHERS, _INSERT_VERSIONS, _INSERT_SAID, _INSERT_WORDS):
        session.execute(text(statement), values)
    return LoadCounts(new, changed, unchanged, gone, came_back, erased)


#: By which digest an erased record is known: of a source ``s``, whose record has the id ``{key}``.
ERASED_DIGEST = "encode(sha256(convert_to(s.erasing_salt || {key}, 'UTF8')), 'hex')"


def _leave_out_erased(session: Session, source_id: int) -> int:
    """Take the staged rows of records that were erased on request out; return how many there were."""
    if not session.scalar(text("SELECT EXISTS (SELECT FROM erased_keys WHERE source_id = :id)"), {"id": source_id}):
        return 0
    left_out = session.execute(
        text(f"""
            DELETE FROM incoming i USING sources s, erased_keys e
            WHERE s.id = :id AND e.source_id = s.id AND e.digest = {ERASED_DIGEST.format(key="i.source_key")} RETURNING 1
        """),
        {"id": source_id},
    )
    return len(left_out.all())


def touch_loaded(session: Session, delivery_id: int) -> None:
    """Put the known records that the rows just loaded changed, ended or brought back into the temporary table ``touched``."""
    begin_touched(session)
    session.execute(
        text("""
            INSERT INTO touched SELECT record_id FROM matched WHERE NOT is_first AND (was_new OR was_changed)
            UNION SELECT record_id FROM delivery_records WHERE delivery_id = :delivery_id AND version_id IS NULL
        """),
        {"delivery_id": delivery_id},
    )
    session.execute(text("ANALYZE touched"))


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
