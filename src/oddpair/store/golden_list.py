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
}  # fmt: skip
_BY_VALUE = "lower(coalesce(g.values->>:field, ''))"


@dataclass(frozen=True, slots=True)
class Order:
    """An order of the list: by what, or by the values of a ``field``; ``turned`` the other way round."""

    by: str = "members"
    field: str = ""
    turned: bool = False


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
    values |= {"register_id": register_id, "limit": limit + 1, "field": order.field}
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
        {name: value for name, value in values.items() if name != "field" or order.field},
    ).all()
    found = [
        (GoldenRow(row[0], row[1], row[2], list(row[7]), list(row[6]), len(row[1]), row[3]), (row[4], str(row[5])))
        for row in rows
    ]
    return turned(found, limit=limit, back=back, cursor=cursor)


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
