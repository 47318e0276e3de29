"""What golden records' values are made of, and where they are written: many at a time."""

from collections.abc import Iterator, Mapping, Sequence

from sqlalchemy import text
from sqlalchemy.orm import Session

from .bulk import copied_out, copy_lines
from .tables import Pin

#: Columns of the lines of golden records that are new, of the words of those, and of golden records that are there already; in
#: the server's text format.
FRESH_COLUMNS = ("id", "register_id", "number", "key", "values", "size", "sort_name", "sources", "contradictions")
WORD_COLUMNS = ("golden_id", "words")
VALUE_COLUMNS = ("id", "values", "sort_name", "sources", "contradictions", "words")


#: Golden records and those that lead to them: a merge takes the pins of both along, and undoing it gives them back.
_LED = """
WITH RECURSIVE led AS (
    SELECT g.id AS target, g.id AS golden, 0 AS depth FROM golden_records g WHERE {chosen}
    UNION ALL
    SELECT l.target, g.id, l.depth + 1 FROM led l JOIN golden_records g ON g.leads_to = l.golden
)
SELECT DISTINCT ON (l.target, p.field) l.target, p.id FROM led l JOIN pins p ON p.golden_id = l.golden AND p.lifted_at IS NULL
ORDER BY l.target, p.field, l.depth, p.id DESC
"""


def pins_of(session: Session, golden_ids: Sequence[int]) -> dict[int, list[Pin]]:
    """Return the pins in force, one per field, by golden id: its own, else those of golden records that lead to it."""
    rows = session.execute(text(_LED.format(chosen="g.id = ANY(:ids)")), {"ids": list(golden_ids)}).all()
    pins: dict[int, list[Pin]] = {}
    for target, pin_id in rows:
        pins.setdefault(target, []).append(session.get_one(Pin, pin_id))
    return pins


def pinned_values(session: Session, table: str) -> dict[int, list[tuple[str, str]]]:
    """Return golden id → (field, value) of the pins in force of the golden records in a temporary table."""
    pinned = _LED.format(chosen=f"g.id IN (SELECT id FROM {table})")
    pins: dict[int, list[tuple[str, str]]] = {}
    rows = session.execute(
        text(f"SELECT led.target, p.field, p.value FROM ({pinned}) led JOIN pins p ON p.id = led.id ORDER BY 1, 2")
    )
    for golden, field, value in rows:
        pins.setdefault(golden, []).append((field, value))
    return pins


#: Members of the golden records in a temporary table, those of one golden record one after the other. A number is given for
#: those that are not written yet; tidy values, by which records are weighed, where there are several.
_MEMBERS = """
SELECT t.id, coalesce(g.key, f.key), CASE WHEN g.id IS NULL THEN f.number END, s.source_id, to_json(s.source_key), s.state,
       s.fields, CASE WHEN count(*) OVER (PARTITION BY t.id) > 1 THEN s.tidy END
FROM {table} t LEFT JOIN golden_records g ON g.id = t.id LEFT JOIN fresh_golden f ON f.id = t.id
JOIN golden_members m ON m.golden_id = t.id JOIN source_records s ON s.id = m.record_id ORDER BY t.id, s.id
"""
_FRESH = (
    "CREATE TEMPORARY TABLE IF NOT EXISTS fresh_golden (id bigint PRIMARY KEY, number bigint, key text) ON COMMIT DROP"
)


def member_lines(session: Session, table: str) -> Iterator[bytes]:
    """Yield lines of the members of the golden records in a temporary table.

    Each says golden id, key, number if it is new, then source, source id, state, fields, tidy values.
    """
    session.execute(text(_FRESH))
    return copied_out(session, _MEMBERS.format(table=table), {})


_NEW_VALUES = """
CREATE TEMPORARY TABLE IF NOT EXISTS new_values (
    id bigint, values jsonb, sort_name text, sources integer[], contradictions text[], words tsvector
) ON COMMIT DROP
"""


def begin_values(session: Session) -> None:
    """Make the temporary table that takes new values of golden records that are there already."""
    session.execute(text(_NEW_VALUES))
    session.execute(text("TRUNCATE new_values"))


def write_fresh(session: Session, golden: bytes, words: bytes) -> None:
    """Write golden records that are new, as lines with the columns FRESH_COLUMNS, and their words, with WORD_COLUMNS."""
    copy_lines(session, "golden_records", FRESH_COLUMNS, golden)
    copy_lines(session, "golden_words", WORD_COLUMNS, words)


def stage_values(session: Session, lines: bytes) -> None:
    """Take lines with the columns VALUE_COLUMNS."""
    copy_lines(session, "new_values", VALUE_COLUMNS, lines)


def write_values(session: Session) -> int:
    """Write the staged values that are others than what is there; return how many are."""
    session.execute(text("ANALYZE new_values"))
    changed = session.execute(
        text("""
            WITH changed AS (
                UPDATE golden_records g SET values = n.values, sort_name = n.sort_name, version = g.version + 1, updated_at = now()
                FROM new_values n JOIN golden_records was USING (id)
                WHERE n.id = g.id AND (g.values <> n.values OR g.sort_name <> n.sort_name)
                RETURNING was.id, was.register_id, was.values, was.size
            ), kept AS (
                INSERT INTO golden_versions (golden_id, register_id, values, size)
                SELECT id, register_id, values, size FROM changed WHERE values <> '{}' RETURNING 1
            ) SELECT count(*) FROM changed
        """)
    )
    # Of whom it is and what contradicts is no version of its own.
    session.execute(
        text("""
            UPDATE golden_records g SET sources = n.sources, contradictions = n.contradictions
            FROM new_values n WHERE n.id = g.id AND (g.sources <> n.sources OR g.contradictions <> n.contradictions)
        """)
    )
    session.execute(
        text("""
            INSERT INTO golden_words AS w (golden_id, words) SELECT id, words FROM new_values
            ON CONFLICT (golden_id) DO UPDATE SET words = excluded.words WHERE w.words <> excluded.words
        """)
    )
    return int(changed.scalar_one())


def sources_as_judged(session: Session, register_id: int) -> Mapping[int, tuple[str, int, bool]]:
    """Return source id → (name, trust rank, whether its values may change golden records)."""
    rows = session.execute(
        text("SELECT id, name, trust_rank, supplies FROM sources WHERE register_id = :id"), {"id": register_id}
    )
    return {row[0]: (row[1], row[2], row[3]) for row in rows}
