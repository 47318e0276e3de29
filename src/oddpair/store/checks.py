"""Checks of records that are about to be entered: each has an index of its own, over what its parts take of a record's values."""

from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

import orjson
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from .tables import Check


def checks_of(session: Session, register_id: int) -> Sequence[Check]:
    """Return the checks of a register, in the order in which they were made."""
    return session.scalars(select(Check).where(Check.register_id == register_id).order_by(Check.id)).all()


def _literal(value: str) -> str:
    return "'" + value.replace("'", "''").replace("\\", "\\\\").replace(":", "\\:") + "'"


def _taken(part: Mapping[str, Any], of: str) -> str:
    """Return an expression of what a part takes of a record: of its tidy value, or the delivered one where there is none."""
    field = _literal(part["field"])
    value = f"lower(coalesce(nullif({of}tidy->>{field}, ''), nullif({of}fields->>{field}, '')))"
    if part["how"] == "same":
        return value
    letters, side = f"translate({value}, ' ', '')", "left" if part["how"] == "first" else "right"
    return f"CASE WHEN length({letters}) >= {int(part['letters'])} THEN {side}({letters}, {int(part['letters'])}) END"


def _key(parts: Sequence[Mapping[str, Any]], of: str = "s.") -> str:
    """Return an expression that is the same for records that agree in all parts; null where one of them says nothing."""
    return "md5(" + " || chr(31) || ".join(_taken(part, of) for part in parts) + ")"


def _index(check_id: int) -> str:
    return f"ix_source_records_check_{check_id}"


def make_index(session: Session, check: Check) -> None:
    """Make the index of a check."""
    key, only = _key(check.parts, ""), f"register_id = {check.register_id}"
    session.execute(text(f"CREATE INDEX {_index(check.id)} ON source_records ({key}) WHERE {only}"))


def drop_index(session: Session, check_id: int) -> None:
    """Remove the index of a check."""
    session.execute(text(f"DROP INDEX IF EXISTS {_index(check_id)}"))


#: Where a check agrees with thousands, as by a name's first two letters, only so many of them are looked at.
_MOST_READ = 100
_ASKED = "(SELECT CAST(:tidy AS jsonb) AS tidy, CAST(:fields AS jsonb) AS fields)"


def agreeing(
    session: Session, check: Check, tidy: Mapping[str, str], fields: Mapping[str, str], limit: int
) -> Sequence[str]:
    """Return the keys of golden records with a record that agrees with one that is about to be entered, in all parts of a check."""
    key = _key(check.parts)
    asked = {"tidy": orjson.dumps(dict(tidy)).decode(), "fields": orjson.dumps(dict(fields)).decode()}
    wanted = session.scalar(text(f"SELECT {key} FROM {_ASKED} s"), asked)
    if wanted is None:
        return ()
    query = text(f"""
        SELECT DISTINCT g.key FROM (
            SELECT s.id FROM source_records s WHERE s.register_id = {check.register_id} AND {key} = :wanted AND s.state <> 'withdrawn'
            LIMIT :most
        ) s JOIN golden_members m ON m.record_id = s.id JOIN golden_records g ON g.id = m.golden_id ORDER BY g.key LIMIT :limit
    """)
    return session.scalars(query, {"wanted": wanted, "limit": limit, "most": _MOST_READ}).all()


class Tried(NamedTuple):
    """Of how many records that came since a moment a check would have told that one like it was there, and some of them."""

    records: int
    told: int
    examples: Sequence[tuple[str, str, str, str]]


def try_parts(
    session: Session, register_id: int, parts: Sequence[Mapping[str, Any]], days: int, examples: int
) -> Tried:
    """Try a check on the records that came in the latest days; examples are (source, id, source and id of the one that was there)."""
    query = text(f"""
        WITH all_records AS MATERIALIZED (
            SELECT s.id, {_key(parts)} AS agreed, v.at >= now() - make_interval(days => :days) AS is_new
            FROM source_records s
            JOIN LATERAL (SELECT at FROM record_versions v WHERE v.record_id = s.id ORDER BY v.id LIMIT 1) v ON true
            WHERE s.register_id = :register_id AND s.state <> 'withdrawn'
        ), told AS MATERIALIZED (
            SELECT * FROM (
                SELECT *, first_value(id) OVER (PARTITION BY agreed ORDER BY id) AS there FROM all_records WHERE agreed IS NOT NULL
            ) f WHERE is_new AND there <> id
        ), shown AS (SELECT id, there FROM told ORDER BY id LIMIT :examples)
        SELECT (SELECT count(*) FROM all_records WHERE is_new), (SELECT count(*) FROM told),
            (SELECT array_agg(id ORDER BY id) FROM shown), (SELECT array_agg(there ORDER BY id) FROM shown)
    """)
    asked = {"register_id": register_id, "days": days, "examples": examples}
    new, told, ids, there = session.execute(query, asked).one()
    named = {
        row[0]: (row[1], row[2])
        for row in session.execute(
            text("""
                SELECT s.id, o.name, s.source_key FROM source_records s JOIN sources o ON o.id = s.source_id WHERE s.id = ANY(:ids)
            """),
            {"ids": [*(ids or ()), *(there or ())]},
        )
    }
    return Tried(new, told, [(*named[one], *named[other]) for one, other in zip(ids or (), there or (), strict=True)])


def try_verdict(session: Session, register_id: int, outcomes: Sequence[str], days: int) -> Tried:
    """Return how many of the records that came in the latest days came out in one of some ways when they were recognised."""
    new, told = session.execute(
        text("""
            SELECT count(*), count(*) FILTER (WHERE o.outcome = ANY(:outcomes)) FROM delivery_outcomes o
            JOIN deliveries d ON d.id = o.delivery_id JOIN sources u ON u.id = d.source_id
            WHERE u.register_id = :register_id AND d.loaded_at >= now() - make_interval(days => :days)
            AND o.outcome IN ('recognised', 'added', 'doubtful', 'refused')
        """),
        {"register_id": register_id, "outcomes": list(outcomes), "days": days},
    ).one()
    return Tried(new, told, ())
