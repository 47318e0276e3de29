"""References from records of one register to those of another, as they are kept."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from sqlalchemy import text
from sqlalchemy.orm import Session

from .bulk import copy_rows


@dataclass(frozen=True, slots=True)
class Referring:
    """A record that refers to another: what it delivers, and what is known of where it leads."""

    record_id: int
    source: str
    value: str
    known_value: str
    how: str


@dataclass(frozen=True, slots=True)
class Target:
    """A record that may be referred to; records of one group are held to be one."""

    record_id: int
    source: str
    source_key: str
    name: str
    group: int


_NAME = "coalesce(s.tidy->>'name', nullif(concat_ws(' ', s.tidy->>'name.given', s.tidy->>'name.family'), ''), '')"


def referring(session: Session, register_id: int, field: str) -> Sequence[Referring]:
    """Return the records that fill a reference, by id."""
    query = text("""
        SELECT s.id, o.name, s.fields->>:field, coalesce(r.value, ''), coalesce(r.how, '')
        FROM source_records s JOIN sources o ON o.id = s.source_id
        LEFT JOIN record_references r ON r.record_id = s.id AND r.field = :field
        WHERE s.register_id = :register_id AND s.state <> 'withdrawn' AND coalesce(s.fields->>:field, '') <> ''
        ORDER BY s.id
    """)
    return [Referring(*row) for row in session.execute(query, {"register_id": register_id, "field": field})]


def referring_values(session: Session, register_id: int, field: str) -> Iterable[tuple[int, dict[str, str]]]:
    """Yield (the record that is referred to, tidy values of the record that refers to it) of all references that lead somewhere."""
    query = text("""
        SELECT r.target_id, s.tidy FROM record_references r JOIN source_records s ON s.id = r.record_id
        WHERE s.register_id = :register_id AND r.field = :field AND r.target_id IS NOT NULL AND s.state <> 'withdrawn'
        ORDER BY r.target_id, s.id
    """)
    for target, tidy in session.execute(
        query.execution_options(yield_per=5_000), {"register_id": register_id, "field": field}
    ):
        yield int(target), tidy


def values_referring_to(
    session: Session, register_id: int, field: str, records: Sequence[int]
) -> Sequence[tuple[int, dict[str, str]]]:
    """Return (the record that is referred to, fields of a record of the register that refers to it) for some records, by id."""
    query = text("""
        SELECT r.target_id, s.fields FROM record_references r JOIN source_records s ON s.id = r.record_id
        WHERE r.target_id = ANY(:records) AND r.field = :field AND s.register_id = :register_id AND s.state <> 'withdrawn'
        ORDER BY r.target_id, s.id LIMIT 200
    """)
    found = session.execute(query, {"register_id": register_id, "field": field, "records": list(records)})
    return [(int(target), fields) for target, fields in found]


def targets(session: Session, register_id: int) -> Sequence[Target]:
    """Return the records of a register that may be referred to, by id; golden records, else clusters, make the groups."""
    query = text(f"""
        SELECT s.id, o.name, s.source_key, {_NAME}, coalesce(-m.golden_id, c.cluster, s.id)
        FROM source_records s JOIN sources o ON o.id = s.source_id
        LEFT JOIN golden_members m ON m.record_id = s.id
        LEFT JOIN run_clusters c ON c.record_id = s.id
            AND c.run_id = (SELECT id FROM runs WHERE register_id = :register_id AND state = 'standing')
        WHERE s.register_id = :register_id AND s.state <> 'withdrawn' ORDER BY s.id
    """)
    return [Target(*row) for row in session.execute(query, {"register_id": register_id})]


def replace_references(
    session: Session, register_id: int, field: str, rows: Iterable[tuple[int, str, str, int | None, str, str]]
) -> None:
    """Set all references of a field that no person has set."""
    session.execute(
        text("""
            DELETE FROM record_references r USING source_records s
            WHERE s.id = r.record_id AND s.register_id = :register_id AND r.field = :field
        """),
        {"register_id": register_id, "field": field},
    )
    copy_rows(session, "record_references", ("record_id", "field", "value", "target_id", "how", "actor"), rows)


def by_hand(session: Session, register_id: int, field: str) -> dict[int, tuple[str, int | None, str]]:
    """Return record id → (value, target, actor) of the references that a person has set."""
    query = text("""
        SELECT r.record_id, r.value, r.target_id, r.actor FROM record_references r JOIN source_records s ON s.id = r.record_id
        WHERE s.register_id = :register_id AND r.field = :field AND r.how = 'hand'
    """)
    rows = session.execute(query, {"register_id": register_id, "field": field})
    return {row[0]: (row[1], row[2], row[3]) for row in rows}


def counts(session: Session, register_id: int, field: str) -> dict[str, int]:
    """Return how many references are known by id, by name, by hand, and how many are not."""
    query = text("""
        SELECT r.how, count(*) FROM record_references r JOIN source_records s ON s.id = r.record_id
        WHERE s.register_id = :register_id AND r.field = :field AND s.state <> 'withdrawn' GROUP BY r.how
    """)
    return {row[0]: row[1] for row in session.execute(query, {"register_id": register_id, "field": field})}


def unresolved(session: Session, register_id: int, field: str, limit: int) -> Sequence[tuple[int, str, str, str]]:
    """Return (record id, source, source key, value) of references that lead nowhere."""
    query = text("""
        SELECT s.id, o.name, s.source_key, r.value FROM record_references r
        JOIN source_records s ON s.id = r.record_id JOIN sources o ON o.id = s.source_id
        WHERE s.register_id = :register_id AND r.field = :field AND r.how = 'none' AND s.state <> 'withdrawn'
        ORDER BY r.value, o.name, s.source_key LIMIT :limit
    """)
    rows = session.execute(query, {"register_id": register_id, "field": field, "limit": limit})
    return [(row[0], row[1], row[2], row[3]) for row in rows]


@dataclass(frozen=True, slots=True)
class Relation:
    """A golden record, or a record without one, at the other end of references by a field: key ("" without), name, register, and by how
    many records.
    """

    field: str
    register: str
    key: str
    name: str
    records: int


#: References from members (or, turned round, to them), by the golden record at their other end.
_RELATIONS = """
SELECT f.field, r.slug, coalesce(g.key, ''), coalesce(g.sort_name, {name}), count(*)
FROM record_references f JOIN source_records s ON s.id = f.{there} AND s.state <> 'withdrawn' JOIN registers r ON r.id = s.register_id
LEFT JOIN golden_members m ON m.record_id = s.id LEFT JOIN golden_records g ON g.id = m.golden_id
WHERE f.{here} = ANY(:ids) GROUP BY 1, 2, 3, 4 ORDER BY 1, 2, count(*) DESC, 4, 3 LIMIT :limit
"""


def relations_of(session: Session, record_ids: Sequence[int], limit: int, *, towards: bool) -> list[Relation]:
    """Return to which golden records some records refer, or (``towards``) which refer to them; the most frequent of a field first."""
    here, there = ("target_id", "record_id") if towards else ("record_id", "target_id")
    query = text(_RELATIONS.format(name=_NAME, here=here, there=there))
    return [Relation(*row) for row in session.execute(query, {"ids": list(record_ids), "limit": limit})]


def unresolved_values(session: Session, register_id: int, field: str) -> list[str]:
    """Return the values of a reference that lead nowhere, each once."""
    query = text("""
        SELECT DISTINCT f.value FROM record_references f JOIN source_records s ON s.id = f.record_id
        WHERE s.register_id = :register_id AND s.state <> 'withdrawn' AND f.field = :field AND f.target_id IS NULL ORDER BY 1
    """)
    return list(session.scalars(query, {"register_id": register_id, "field": field}))


def waiting_children(session: Session, slug: str) -> list[str]:
    """Return the registers that recognise what comes in, care about parents, and hold references into a register that lead nowhere."""
    query = text("""
        SELECT r.slug FROM registers r, jsonb_array_elements(r.layout) entry
        WHERE r.recognises AND r.parents <> 'tell' AND entry->>'register' = :slug AND EXISTS (
            SELECT FROM record_references f JOIN source_records s ON s.id = f.record_id AND s.state <> 'withdrawn'
            WHERE s.register_id = r.id AND f.field = entry->>'name' AND f.target_id IS NULL)
        ORDER BY r.slug
    """)
    return list(session.scalars(query, {"slug": slug}))


def with_parents_now(session: Session, register_id: int) -> list[int]:
    """Return the records without a golden record whose references all lead somewhere: they were put aside, or nobody looked at them yet."""
    query = text("""
        SELECT s.id FROM source_records s WHERE s.register_id = :register_id AND s.state <> 'withdrawn'
        AND NOT EXISTS (SELECT FROM golden_members m WHERE m.record_id = s.id)
        AND EXISTS (SELECT FROM record_references f WHERE f.record_id = s.id)
        AND NOT EXISTS (SELECT FROM record_references f WHERE f.record_id = s.id AND f.target_id IS NULL) ORDER BY 1
    """)
    return list(session.scalars(query, {"register_id": register_id}))
