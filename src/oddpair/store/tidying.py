"""Tidy steps, swap lists and value maps, and the distinct values of fields that they are looked at on."""

from collections.abc import Iterable, Sequence

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from ..core.errors import NotFound
from .tables import TidyStepsVersion, WordTableVersion


def tidy_steps_in_force(session: Session, register_id: int) -> TidyStepsVersion | None:
    """Return the newest version of the register's tidy steps, or None."""
    own = select(TidyStepsVersion).where(TidyStepsVersion.register_id == register_id)
    return session.scalars(own.order_by(TidyStepsVersion.version.desc()).limit(1)).first()


def tables_in_force(session: Session, names: Iterable[str] | None = None) -> Sequence[WordTableVersion]:
    """Return the newest version of every table, or of the named ones, by name."""
    newest = select(WordTableVersion.name, func.max(WordTableVersion.version).label("version")).group_by(
        WordTableVersion.name
    )
    if names is not None:
        newest = newest.where(WordTableVersion.name.in_(list(names)))
    part = newest.subquery()
    query = select(WordTableVersion).join(
        part, (part.c.name == WordTableVersion.name) & (part.c.version == WordTableVersion.version)
    )
    return session.scalars(query.order_by(WordTableVersion.name)).all()


def table_by_name(session: Session, name: str) -> WordTableVersion:
    """Return the newest version of a table; raise NotFound."""
    found = tables_in_force(session, [name])
    if not found:
        raise NotFound("swap list or value map", name)
    return found[0]


def table_versions(session: Session, name: str) -> Sequence[WordTableVersion]:
    """Return all versions of a table, newest first."""
    own = select(WordTableVersion).where(WordTableVersion.name == name)
    return session.scalars(own.order_by(WordTableVersion.version.desc())).all()


def registers_with_table(session: Session, name: str) -> Sequence[int]:
    """Return the ids of the registers whose tidy steps in force use a table."""
    query = text("""
        SELECT r.register_id FROM (
            SELECT DISTINCT ON (register_id) register_id, steps FROM tidy_steps ORDER BY register_id, version DESC
        ) r
        WHERE EXISTS (
            SELECT FROM jsonb_each(r.steps) f, jsonb_array_elements(f.value) s WHERE s->>'table' = :name
        )
        ORDER BY 1
    """)
    return session.scalars(query, {"name": name}).all()


def distinct_values(
    session: Session, register_id: int, fields: Sequence[str], *, limit: int, search: str = "", filled: bool = False
) -> list[tuple[int, tuple[str, ...]]]:
    """Return (how many records, values of the fields) for the most frequent combinations, most frequent first."""
    columns = ", ".join(f"coalesce(fields->>:f{place}, '') AS v{place}" for place in range(len(fields)))
    names = ", ".join(f"v{place}" for place in range(len(fields)))
    conditions = "state <> 'withdrawn' AND register_id = :register_id"
    if filled:
        conditions += " AND coalesce(fields->>:f0, '') <> ''"
    if search:
        conditions += " AND strpos(lower(coalesce(fields->>:f0, '')), lower(:search)) > 0"
    query = text(f"""
        SELECT count(*), {names} FROM (SELECT {columns} FROM source_records WHERE {conditions}) v
        GROUP BY {names} ORDER BY 1 DESC, {names} LIMIT :limit
    """)
    values = {f"f{place}": name for place, name in enumerate(fields)}
    rows = session.execute(query, {**values, "register_id": register_id, "limit": limit, "search": search})
    return [(row[0], tuple(row[1:])) for row in rows]
