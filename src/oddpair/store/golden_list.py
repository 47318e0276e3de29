"""The list of golden records, page by page, in any order."""

from dataclasses import dataclass
from typing import Any

from sqlalchemy import text
from sqlalchemy.orm import Session

from .counters import counters_of
from .golden_filter import GoldenFilter
from .keyset import Page, read_cursor, turned

#: Of more than so many that a filter lets through it is only told that there are more.
MOST_COUNTED = 20_000
#: What a list is ordered by: an expression on ``golden_records g``, its type, and whether the largest come first.
_ORDERS = {
    "members": ("g.size", "integer", True), "key": ("g.number", "bigint", False),
    "changed": ("g.updated_at", "timestamptz", True), "name": ("g.sort_name", "text", False),
    "filled": ("(SELECT count(*) FROM jsonb_object_keys(g.values))", "bigint", True),
    # The key itself, the whole name, its beginning, whole words of it; then by how many records.
    "match": ("""(
        CASE WHEN lower(g.key) = :search THEN 4000 WHEN g.sort_name = :search THEN 3000
             WHEN starts_with(g.sort_name, :search) THEN 2000 ELSE 0 END
        + 100 * (SELECT count(*) FROM unnest(string_to_array(:search, ' ')) word
                 WHERE strpos(' ' || g.sort_name || ' ', ' ' || word || ' ') > 0)
        + least(g.size, 99))""", "bigint", True),
}  # fmt: skip
_BY_VALUE = "lower(coalesce(g.values->>:field, ''))"


@dataclass(frozen=True, slots=True)
class Order:
    """An order of the list: by what, or by the values of a ``field``; ``turned`` the other way round. "match" is by how well key
    and name fit a ``search``, the best first."""

    by: str = "members"
    field: str = ""
    turned: bool = False
    search: str = ""


@dataclass(frozen=True, slots=True)
class GoldenRow:
    """A golden record in a list, with how many of its fields are filled."""

    key: str
    values: dict[str, Any]
    size: int
    pinned: list[str]
    contradictions: list[str]
    filled: int
    updated_at: Any


def golden_page(
    session: Session, register_id: int, only: GoldenFilter, *, order: Order, cursor: str = "", limit: int
) -> Page[GoldenRow]:
    """Return a page of golden records in force."""
    column, kind, falling = (_BY_VALUE, "text", False) if order.field else _ORDERS[order.by]
    falling = falling != order.turned
    back, place = read_cursor(cursor)
    among, values = only.condition()
    values |= {"register_id": register_id, "limit": limit + 1}
    if order.field:
        values["field"] = order.field
    elif order.by == "match":
        values["search"] = " ".join(order.search.lower().split())
    condition = ""
    if place:
        sign = "<" if falling != back else ">"
        number_sign = "<" if back else ">"
        here = f"CAST(:value AS {kind})"
        condition = f"""AND {column} {sign}= {here}
            AND ({column} {sign} {here} OR {column} = {here} AND g.number {number_sign} CAST(:number AS bigint))"""
        values |= {"value": place[0], "number": place[1]}
    sort = f"{column} {'DESC' if falling != back else 'ASC'}, g.number {'DESC' if back else 'ASC'}"
    rows = session.execute(
        text(f"""
            SELECT g.key, g.values, g.size, g.updated_at, ({column})::text, g.number, g.contradictions,
                   ARRAY(SELECT p.field FROM pins p WHERE p.golden_id = g.id AND p.lifted_at IS NULL ORDER BY p.id)
            FROM golden_records g WHERE g.register_id = :register_id AND {among} {condition} ORDER BY {sort} LIMIT :limit
        """),
        values,
    ).all()
    found = [
        (GoldenRow(row[0], row[1], row[2], list(row[7]), list(row[6]), len(row[1]), row[3]), (row[4], str(row[5])))
        for row in rows
    ]
    return turned(found, limit=limit, back=back, cursor=cursor)


def named_like(session: Session, register_id: int, search: str, limit: int) -> tuple[int, ...]:
    """Return the golden records in force whose name begins with what is searched, the shortest names first: what is meant by it is
    among them, however many hold its words."""
    rows = text("""
        SELECT g.id FROM golden_records g
        WHERE g.register_id = :register_id AND g.leads_to IS NULL AND g.withdrawn_at IS NULL
          AND g.sort_name >= :search AND g.sort_name < :search || :last AND starts_with(g.sort_name, :search)
        ORDER BY g.sort_name, g.number LIMIT :limit
    """)
    values = {
        "register_id": register_id,
        "search": " ".join(search.lower().split()),
        "last": chr(0x10FFFF),
        "limit": limit,
    }
    return tuple(session.scalars(rows, values))


def count_golden(session: Session, register_id: int, only: GoldenFilter) -> int:
    """Return how many golden records in force are asked for, MOST_COUNTED at most where they have to be counted."""
    if only.is_everything:
        return counters_of(session, register_id).golden
    among, values = only.condition()
    counted = text(f"""
        SELECT count(*) FROM (
            SELECT FROM golden_records g WHERE g.register_id = :register_id AND {among} LIMIT {MOST_COUNTED}
        ) found
    """)
    return int(session.execute(counted, {**values, "register_id": register_id}).scalar_one())
