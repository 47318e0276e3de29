"""Rows on their way out: golden records, the crosswalk both ways, retired keys, and what changed since a moment.

Lines hold JSON and numbers, see ``copied_out``; they are read while they are sent.
"""

import re
from collections.abc import Iterator
from datetime import datetime

from sqlalchemy import text
from sqlalchemy.orm import Session

from .bulk import copied_out
from .golden_filter import IN_FORCE, GoldenFilter

_NAMED = re.compile(r"(?<![:\w]):(\w+)")


#: What the members of a golden record hold: (source, its id, fields) of each.
_HELD = """(
    SELECT json_agg(json_build_array(o.name, s.source_key, s.fields) ORDER BY o.trust_rank, s.id)
    FROM golden_members m JOIN source_records s ON s.id = m.record_id JOIN sources o ON o.id = s.source_id WHERE m.golden_id = g.id
)"""


def golden_lines(
    session: Session, register_id: int, only: GoldenFilter, *, with_members: bool = False
) -> Iterator[bytes]:
    """Yield lines (key, number of records, values, and with members what each holds) of golden records in force, by number."""
    condition, values = only.condition()
    among = _NAMED.sub(r"%(\1)s", condition)
    query = f"""
        SELECT to_json(g.key), g.size, g.values{", " + _HELD if with_members else ""} FROM golden_records g
        WHERE g.register_id = %(register_id)s AND {among} ORDER BY g.number
    """
    return copied_out(session, query, {**values, "register_id": register_id})


_CROSSWALK = """
    SELECT to_json(o.name), to_json(s.source_key), to_json(g.key)
    FROM sources o JOIN source_records s ON s.source_id = o.id
    JOIN golden_members m ON m.record_id = s.id JOIN golden_records g ON g.id = m.golden_id
    WHERE o.register_id = %(id)s ORDER BY {order}
"""


def crosswalk_lines(session: Session, register_id: int, *, by_golden: bool = False) -> Iterator[bytes]:
    """Yield lines (source, source id, golden key) of every record that has a golden record, by source or by golden record."""
    order = "g.number, o.name, s.source_key" if by_golden else "o.name, s.source_key"
    return copied_out(session, _CROSSWALK.format(order=order), {"id": register_id})


#: Where a retired key leads in the end: the last on its way.
_LEADS = """
LEFT JOIN LATERAL (
    WITH RECURSIVE way AS (
        SELECT n.id, n.key, n.leads_to, n.withdrawn_at, 1 AS step FROM golden_records n WHERE n.id = g.leads_to
        UNION ALL SELECT n.id, n.key, n.leads_to, n.withdrawn_at, w.step + 1 FROM golden_records n JOIN way w ON n.id = w.leads_to
    ) SELECT key, withdrawn_at FROM way ORDER BY step DESC LIMIT 1
) last ON true
"""


def key_lines(session: Session, register_id: int) -> Iterator[bytes]:
    """Yield lines (key, state, key it leads to) of all keys ever given: in force, merged into another, or ended."""
    query = f"""
        SELECT to_json(g.key), to_json(CASE WHEN g.leads_to IS NOT NULL THEN 'merged into' WHEN g.withdrawn_at IS NOT NULL
               THEN 'ended' ELSE 'in force' END), to_json(coalesce(last.key, ''))
        FROM golden_records g {_LEADS} WHERE g.register_id = %(id)s ORDER BY g.number
    """
    return copied_out(session, query, {"id": register_id})


def change_lines(session: Session, register_id: int, since: datetime) -> Iterator[bytes]:
    """Yield lines (key, made since?, in force then?, in force now?, values then, values now, key it leads to, keys it came from) of
    golden records that were made, changed, or stopped or began to be in force since a moment.
    """
    query = f"""
        SELECT to_json(g.key), to_json(g.created_at > %(since)s),
               to_json(CASE WHEN was.id IS NULL THEN {IN_FORCE} ELSE was.values IS NOT NULL END), to_json({IN_FORCE}),
               coalesce(was.values, g.values), g.values, to_json(coalesce(last.key, '')),
               to_json(ARRAY(
                   SELECT DISTINCT f.key FROM moves m JOIN journal j ON j.id = m.journal_id JOIN golden_records f ON f.id = m.from_golden
                   WHERE m.to_golden = g.id AND g.created_at > %(since)s AND j.at > %(since)s ORDER BY f.key
               ))
        FROM golden_records g
        LEFT JOIN LATERAL (
            SELECT v.id, v.values FROM golden_versions v WHERE v.golden_id = g.id AND v.until > %(since)s ORDER BY v.id LIMIT 1
        ) was ON true
        {_LEADS}
        WHERE g.register_id = %(id)s AND g.id IN (
            SELECT id FROM golden_records WHERE register_id = %(id)s AND created_at > %(since)s
            UNION SELECT golden_id FROM golden_versions WHERE register_id = %(id)s AND until > %(since)s
        ) ORDER BY g.number
    """
    return copied_out(session, query, {"id": register_id, "since": since})


def settled_until(session: Session) -> datetime:
    """Return the moment up to which everything is written: none of the transactions that run now began earlier."""
    query = text("""
        SELECT coalesce(min(xact_start), now()) FROM pg_stat_activity
        WHERE datname = current_database() AND xact_start IS NOT NULL AND backend_type = 'client backend'
    """)
    moment: datetime = session.execute(query).scalar_one()
    return moment
