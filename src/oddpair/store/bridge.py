"""The bridge between two systems: which record of one source is which of another, as golden records and the standing run say."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import RowMapping, text
from sqlalchemy.orm import Session

from .keyset import Page, make_cursor, read_cursor, turned

#: How a record of one source stands to the other source.
KNOWN, SEVERAL, PROPOSED, DOUBTFUL, NONE = STATES = ("known", "several", "proposed", "in doubt", "none")

# Records of one golden record, or that a person decided to be the same, are known to be one; those of one cluster are proposed.
_ROWS = """
    SELECT a.id, a.source_key, a.fields, g.key AS golden_key, p.partners, p.partner_ids, p.partner_names,
        CASE WHEN p.known > 1 OR p.known = 0 AND p.proposed > 1 THEN 'several' WHEN p.known = 1 THEN 'known'
             WHEN p.proposed = 1 THEN 'proposed' WHEN p.doubtful THEN 'in doubt' ELSE 'none' END AS state
    FROM source_records a
    LEFT JOIN golden_members m ON m.record_id = a.id LEFT JOIN golden_records g ON g.id = m.golden_id
    LEFT JOIN run_clusters c ON c.run_id = :run AND c.record_id = a.id
    CROSS JOIN LATERAL (
        SELECT count(*) FILTER (WHERE q.known) AS known, count(*) FILTER (WHERE NOT q.known) AS proposed,
            coalesce(array_agg(q.source_key ORDER BY q.known DESC, q.source_key), '{}') AS partners,
            coalesce(array_agg(q.id ORDER BY q.known DESC, q.source_key), '{}') AS partner_ids,
            coalesce(array_agg(q.name ORDER BY q.known DESC, q.source_key), '{}') AS partner_names,
            EXISTS (
                SELECT FROM run_pairs d JOIN source_records b ON b.id = CASE WHEN d.left_id = a.id THEN d.right_id ELSE d.left_id END
                WHERE d.run_id = :run AND (d.left_id = a.id OR d.right_id = a.id) AND NOT d.same AND b.source_id = :other
                AND b.state <> 'withdrawn' AND NOT EXISTS (
                    SELECT FROM decisions e WHERE e.register_id = a.register_id AND e.left_id = d.left_id AND e.right_id = d.right_id
                    AND e.withdrawn_at IS NULL AND e.verdict <> 'later')
            ) AS doubtful
        FROM (
            SELECT b.id, b.source_key, bool_or(found.known) AS known,
                coalesce(b.fields->>'name', concat_ws(' ', b.fields->>'name.given', b.fields->>'name.family')) AS name
            FROM (
                SELECT x.record_id, true AS known FROM golden_members x WHERE x.golden_id = m.golden_id
                UNION ALL
                SELECT e.right_id, true FROM decisions e
                WHERE e.register_id = a.register_id AND e.left_id = a.id AND e.verdict = 'same' AND e.withdrawn_at IS NULL
                UNION ALL
                SELECT e.left_id, true FROM decisions e
                WHERE e.register_id = a.register_id AND e.right_id = a.id AND e.verdict = 'same' AND e.withdrawn_at IS NULL
                UNION ALL
                SELECT y.record_id, false FROM run_clusters y WHERE y.run_id = :run AND y.cluster = c.cluster
            ) found JOIN source_records b ON b.id = found.record_id
            WHERE b.source_id = :other AND b.state <> 'withdrawn' AND NOT EXISTS (
                SELECT FROM decisions e WHERE e.register_id = a.register_id AND e.left_id = least(a.id, b.id)
                AND e.right_id = greatest(a.id, b.id) AND e.withdrawn_at IS NULL AND e.verdict = 'different')
            GROUP BY b.id, b.source_key, b.fields
        ) q
    ) p
    WHERE a.source_id = :one AND a.state <> 'withdrawn'
"""


@dataclass(frozen=True, slots=True)
class BridgeRow:
    """A record of one source with its partners in the other: their ids and names there, those that are known in front."""

    record_id: int
    source_key: str
    fields: Mapping[str, str]
    golden_key: str
    partners: Sequence[str]
    partner_ids: Sequence[int]
    partner_names: Sequence[str]
    state: str


def _row(found: RowMapping) -> BridgeRow:
    return BridgeRow(
        found["id"], found["source_key"], found["fields"], found["golden_key"] or "", found["partners"], found["partner_ids"],
        found["partner_names"], found["state"],
    )  # fmt: skip


#: So many records are looked through for a page of one state: a rare state takes several pages, none of which takes long.
LOOKED_THROUGH = 3_000


def bridge_page(
    session: Session,
    run_id: int,
    one: int,
    other: int,
    *,
    state: str = "",
    cursor: str = "",
    limit: int,
    looked_through: int = LOOKED_THROUGH,
) -> Page[BridgeRow]:
    """Return a page of the records of source ``one``, by their id there, with their partners in source ``other``.

    A page of one state may hold fewer rows than the limit, or none, although more come behind it.
    """
    back, place = read_cursor(cursor)
    at_once = looked_through if state else limit + 1
    values: dict[str, Any] = {"run": run_id, "one": one, "other": other, "limit": limit + 1, "at_once": at_once}
    condition, order = "", "DESC" if back else "ASC"
    if place:
        condition = f"AND source_key {'<' if back else '>'} :place"
        values["place"] = place[0]
    among = f"""
        SELECT * FROM source_records WHERE source_id = :one AND state <> 'withdrawn' {condition}
        ORDER BY source_key {order} LIMIT :at_once
    """
    only = ""
    if state:
        only, values["state"] = "WHERE r.state = :state", state
    looked = session.execute(
        text(f"SELECT count(*), {'min' if back else 'max'}(source_key) FROM ({among}) looked"), values
    ).one()
    query = f"SELECT * FROM ({_ROWS.replace('source_records a', f'({among}) a', 1)}) r {only} ORDER BY r.source_key {order} LIMIT :limit"
    found = [_row(row) for row in session.execute(text(query), values).mappings()]
    page = turned([(row, (row.source_key, "")) for row in found], limit=limit, back=back, cursor=cursor)
    if len(found) > limit or looked[0] < at_once or not state:
        return page
    further = make_cursor((looked[1], ""), back=back)
    return Page(page.rows, further, page.behind) if back else Page(page.rows, page.before, further)


_COUNTS = """
    WITH a AS (SELECT id, register_id FROM source_records WHERE source_id = :one AND state <> 'withdrawn'),
    b AS (SELECT id FROM source_records WHERE source_id = :other AND state <> 'withdrawn'),
    decided AS (
        SELECT e.left_id, e.right_id, e.verdict FROM decisions e
        WHERE e.register_id = (SELECT register_id FROM sources WHERE id = :one) AND e.withdrawn_at IS NULL AND e.verdict <> 'later'
    ),
    found AS (
        SELECT a.id AS one, b.id AS other, true AS known FROM a JOIN golden_members m ON m.record_id = a.id
        JOIN golden_members n ON n.golden_id = m.golden_id JOIN b ON b.id = n.record_id
        UNION ALL
        SELECT a.id, b.id, true FROM (
            SELECT left_id AS one, right_id AS other FROM decided WHERE verdict = 'same'
            UNION ALL SELECT right_id, left_id FROM decided WHERE verdict = 'same'
        ) d JOIN a ON a.id = d.one JOIN b ON b.id = d.other
        UNION ALL
        SELECT a.id, b.id, false FROM a JOIN run_clusters c ON c.run_id = :run AND c.record_id = a.id
        JOIN run_clusters e ON e.run_id = :run AND e.cluster = c.cluster JOIN b ON b.id = e.record_id
    ),
    partners AS (
        SELECT f.one, f.other, bool_or(f.known) AS known FROM found f WHERE NOT EXISTS (
            SELECT FROM decided d WHERE d.left_id = least(f.one, f.other) AND d.right_id = greatest(f.one, f.other)
            AND d.verdict = 'different')
        GROUP BY 1, 2
    ),
    counted AS (
        SELECT one, count(*) FILTER (WHERE known) AS known, count(*) FILTER (WHERE NOT known) AS proposed FROM partners GROUP BY 1
    ),
    doubtful AS (
        SELECT DISTINCT a.id FROM (
            SELECT left_id AS one, right_id AS other FROM run_pairs WHERE run_id = :run AND NOT same
            UNION ALL SELECT right_id, left_id FROM run_pairs WHERE run_id = :run AND NOT same
        ) p JOIN a ON a.id = p.one JOIN b ON b.id = p.other WHERE NOT EXISTS (
            SELECT FROM decided d WHERE d.left_id = least(p.one, p.other) AND d.right_id = greatest(p.one, p.other))
    )
    SELECT CASE WHEN c.known > 1 OR c.known = 0 AND c.proposed > 1 THEN 'several' WHEN c.known = 1 THEN 'known'
                WHEN c.proposed = 1 THEN 'proposed' WHEN d.id IS NOT NULL THEN 'in doubt' ELSE 'none' END, count(*)
    FROM a LEFT JOIN counted c ON c.one = a.id LEFT JOIN doubtful d ON d.id = a.id GROUP BY 1
"""


def bridge_counts(session: Session, run_id: int, one: int, other: int) -> dict[str, int]:
    """Return how many records of source ``one`` stand in each state to source ``other``: all at once, not one by one."""
    counted = session.execute(text(_COUNTS), {"run": run_id, "one": one, "other": other})
    return dict.fromkeys(STATES, 0) | {state: int(count) for state, count in counted}


def bridge_rows(session: Session, run_id: int, one: int, other: int) -> Iterator[BridgeRow]:
    """Yield all records of source ``one``, by their id there, as they are read."""
    query = text(f"{_ROWS} ORDER BY a.source_key").execution_options(yield_per=2_000)
    for row in session.execute(query, {"run": run_id, "one": one, "other": other}).mappings():
        yield _row(row)
