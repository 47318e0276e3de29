"""Which record belongs to which golden record: the projection of all moves, read and written many at a time."""

from collections.abc import Collection, Mapping
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt
from sqlalchemy import text
from sqlalchemy.orm import Session

from .bulk import copied_out, copy_ids, copy_rows, number_columns

Numbers = npt.NDArray[np.int64]


def members_of(session: Session, golden_ids: Collection[int]) -> dict[int, list[int]]:
    """Return member record ids, ascending, by golden id."""
    members: dict[int, list[int]] = {golden_id: [] for golden_id in golden_ids}
    query = text("SELECT golden_id, record_id FROM golden_members WHERE golden_id = ANY(:ids) ORDER BY record_id")
    for golden, record in session.execute(query, {"ids": list(golden_ids)}):
        members[golden].append(record)
    return members


def golden_of(session: Session, record_ids: Collection[int]) -> dict[int, int]:
    """Return record id → golden id of those of the records that have one, by golden id; however many there are."""
    copy_ids(session, "asked_records", record_ids)
    query = text(
        "SELECT record_id, golden_id FROM golden_members JOIN asked_records a ON a.id = record_id ORDER BY 2, 1"
    )
    return {row[0]: row[1] for row in session.execute(query)}


def membership(session: Session, register_id: int) -> tuple[Numbers, Numbers]:
    """Return (record ids ascending, golden id of each) of all records of a register that have a golden record."""
    records, golden = number_columns(
        session,
        ("record_id", "golden_id"),
        "SELECT m.record_id, m.golden_id FROM golden_members m JOIN golden_records g ON g.id = m.golden_id "
        "WHERE g.register_id = %(register_id)s ORDER BY m.record_id",
        {"register_id": register_id},
    )
    return records, golden


def apply_moves(session: Session, entry_id: int) -> None:
    """Make membership, sizes and where retired keys lead what the moves of an entry say, which is the latest."""
    values = {"entry": entry_id}
    session.execute(
        text("DELETE FROM golden_members m USING moves v WHERE v.journal_id = :entry AND m.record_id = v.record_id"), values
    )  # fmt: skip
    session.execute(
        text("""
            INSERT INTO golden_members (record_id, golden_id)
            SELECT record_id, to_golden FROM moves WHERE journal_id = :entry AND to_golden IS NOT NULL
        """),
        values,
    )
    session.execute(text("CREATE TEMPORARY TABLE IF NOT EXISTS moved_golden (id bigint PRIMARY KEY) ON COMMIT DROP"))
    session.execute(text("TRUNCATE moved_golden"))
    session.execute(
        text("""
            INSERT INTO moved_golden SELECT from_golden FROM moves WHERE journal_id = :entry AND from_golden IS NOT NULL
            UNION SELECT to_golden FROM moves WHERE journal_id = :entry AND to_golden IS NOT NULL
        """),
        values,
    )
    project_sizes(session, "moved_golden")


#: Where a golden record without members leads: to where most of its records went in the step that emptied it, of several
#: the one with the first record; nowhere if they left the register.
_LEADS = """
LEFT JOIN LATERAL (
    SELECT m.journal_id, m.part FROM moves m WHERE m.from_golden = g.id ORDER BY m.id DESC LIMIT 1
) last ON s.size IS NULL
LEFT JOIN LATERAL (
    SELECT m.to_golden FROM moves m WHERE m.journal_id = last.journal_id AND m.part = last.part AND m.from_golden = g.id
    AND m.to_golden IS NOT NULL GROUP BY m.to_golden ORDER BY count(*) DESC, min(m.record_id) LIMIT 1
) leads ON s.size IS NULL
LEFT JOIN journal j ON j.id = last.journal_id
"""


def project_sizes(session: Session, table: str) -> None:
    """Set sizes, where emptied golden records lead, and which are withdrawn, for the ids in a temporary table.

    What they were is kept where they stop or begin to be in force.
    """
    session.execute(
        text(f"""
            WITH was AS (
                SELECT g.id, g.register_id, g.values, g.size, g.leads_to IS NULL AND g.withdrawn_at IS NULL AS in_force
                FROM golden_records g JOIN {table} t ON t.id = g.id
            ), becomes AS (
            UPDATE golden_records o SET size = coalesce(s.size, 0), leads_to = leads.to_golden,
                withdrawn_at = CASE WHEN s.size IS NULL AND leads.to_golden IS NULL THEN coalesce(o.withdrawn_at, now()) END
            FROM golden_records g JOIN {table} t ON t.id = g.id
            LEFT JOIN (
                SELECT golden_id, count(*) AS size FROM golden_members WHERE golden_id IN (SELECT id FROM {table}) GROUP BY golden_id
            ) s ON s.golden_id = g.id
            {_LEADS}
            WHERE o.id = g.id AND (o.size <> coalesce(s.size, 0) OR o.leads_to IS DISTINCT FROM leads.to_golden
                OR (o.withdrawn_at IS NULL) = (s.size IS NULL AND leads.to_golden IS NULL))
            RETURNING o.id, o.leads_to IS NULL AND o.withdrawn_at IS NULL AS in_force)
            INSERT INTO golden_versions (golden_id, register_id, values, size)
            SELECT w.id, w.register_id, CASE WHEN w.in_force THEN w.values END, w.size
            FROM was w JOIN becomes b ON b.id = w.id WHERE b.in_force <> w.in_force
        """)
    )


def cluster_arrays(session: Session, run_id: int) -> tuple[Numbers, Numbers]:
    """Return (record ids ascending, cluster of each) of a run."""
    records, clusters = number_columns(
        session,
        ("record_id", "cluster"),
        "SELECT record_id, cluster FROM run_clusters WHERE run_id = %(run_id)s ORDER BY record_id",
        {"run_id": run_id},
    )
    return records, clusters


def present_of_run(session: Session, run_id: int) -> Numbers:
    """Return the records of a run that are in the register now, ascending."""
    [records] = number_columns(
        session,
        ("record_id",),
        "SELECT c.record_id FROM run_clusters c JOIN source_records s ON s.id = c.record_id "
        "WHERE c.run_id = %(run_id)s AND s.state <> 'withdrawn' ORDER BY 1",
        {"run_id": run_id},
    )
    return records


def newcomers_of(session: Session, register_id: int) -> tuple[Numbers, npt.NDArray[np.str_]]:
    """Return (records without a golden record, what may be created for them) of those for which one may not always be created: their
    source says so, or they refer to something that is not there and are to be put aside."""
    rows = session.execute(
        text("""
            SELECT s.id, o.creates FROM sources o JOIN source_records s ON s.source_id = o.id AND s.state <> 'withdrawn'
            WHERE o.register_id = :register_id AND o.creates <> 'always'
            AND NOT EXISTS (SELECT FROM golden_members m WHERE m.record_id = s.id)
            UNION ALL
            SELECT f.record_id, 'never' FROM registers r JOIN source_records s ON s.register_id = r.id AND s.state <> 'withdrawn'
            JOIN record_references f ON f.record_id = s.id AND f.target_id IS NULL
            WHERE r.id = :register_id AND r.parents = 'aside'
            AND NOT EXISTS (SELECT FROM golden_members m WHERE m.record_id = s.id) ORDER BY 1
        """),
        {"register_id": register_id},
    ).all()
    return np.array([row[0] for row in rows], dtype=np.int64), np.array([row[1] for row in rows], dtype=np.str_)


def unrecognisable(session: Session, golden_ids: Collection[int], recognisable: Mapping[str, Any]) -> list[int]:
    """Return those of some golden records that may not be recognised: whose ``field`` holds none of the ``values``, whatever their case."""
    query = text("""
        SELECT id FROM golden_records
        WHERE id = ANY(:ids) AND NOT coalesce(lower(values->>:field), '') = ANY(SELECT lower(v) FROM unnest(CAST(:values AS text[])) v)
    """)
    asked = {"ids": list(golden_ids), "field": recognisable["field"], "values": list(recognisable["values"])}
    return list(session.scalars(query, asked))


class Around(NamedTuple):
    """Records that belong together, ascending with the cluster of each, and those in golden records, with the golden record of each."""

    clusters: tuple[Numbers, Numbers]
    golden: tuple[Numbers, Numbers]


_AROUND = """
    SELECT c.record_id FROM run_clusters c
    WHERE c.run_id = :run_id AND c.cluster IN (
        SELECT k.cluster FROM run_clusters k JOIN around a ON a.id = k.record_id WHERE k.run_id = :run_id)
    UNION
    SELECT m.record_id FROM golden_members m
    WHERE m.golden_id IN (SELECT k.golden_id FROM golden_members k JOIN around a ON a.id = k.record_id)
"""


def belonging_together(session: Session, run_id: int, records: Collection[int]) -> Around:
    """Return some records with all that a cluster of a run, or a golden record, holds together with them, however far that leads."""
    known = set(records)
    while True:
        copy_ids(session, "around", known)
        further = set(session.scalars(text(_AROUND), {"run_id": run_id})) - known
        if not further:
            break
        known |= further
    clusters = number_columns(
        session,
        ("record_id", "cluster"),
        "SELECT c.record_id, c.cluster FROM run_clusters c JOIN around a ON a.id = c.record_id "
        "JOIN source_records s ON s.id = c.record_id AND s.state <> 'withdrawn' WHERE c.run_id = %(run_id)s ORDER BY 1",
        {"run_id": run_id},
    )
    golden = number_columns(
        session,
        ("record_id", "golden_id"),
        "SELECT m.record_id, m.golden_id FROM golden_members m JOIN around a ON a.id = m.record_id ORDER BY 1",
        {},
    )
    return Around((clusters[0], clusters[1]), (golden[0], golden[1]))


_CHANGED_SINCE = """
    WITH ever AS (
        SELECT DISTINCT a.golden, a.cut, m.record_id FROM asked_states a JOIN moves m ON m.to_golden = a.golden AND m.id <= a.cut
    ),
    then_held AS (
        SELECT e.golden, e.record_id FROM ever e
        JOIN LATERAL (SELECT to_golden FROM moves m WHERE m.record_id = e.record_id AND m.id <= e.cut ORDER BY m.id DESC LIMIT 1) l
            ON l.to_golden = e.golden
    ),
    now_held AS (SELECT golden_id AS golden, record_id FROM golden_members WHERE golden_id IN (SELECT golden FROM asked_states))
    SELECT DISTINCT golden FROM (
        (SELECT * FROM then_held EXCEPT SELECT * FROM now_held) UNION ALL (SELECT * FROM now_held EXCEPT SELECT * FROM then_held)
    ) apart
"""


def changed_since(session: Session, moves: Mapping[int, int]) -> set[int]:
    """Return which golden records hold other records now than once a move was made; ``moves`` is golden id → move."""
    session.execute(
        text("CREATE TEMPORARY TABLE IF NOT EXISTS asked_states (golden bigint PRIMARY KEY, cut bigint) ON COMMIT DROP")
    )
    session.execute(text("TRUNCATE asked_states"))
    copy_rows(session, "asked_states", ("golden", "cut"), sorted(moves.items()))
    return set(session.scalars(text(_CHANGED_SINCE)))


def belonging(session: Session, register_id: int) -> dict[int, int]:
    """Return, per record of a register, what it belongs to: the number of its golden record, or the negative one of its cluster in the
    standing run, where it is not in a golden record yet."""
    query = """
        SELECT s.id, coalesce(m.golden_id, -c.cluster, -s.id) FROM source_records s
        LEFT JOIN golden_members m ON m.record_id = s.id
        LEFT JOIN run_clusters c ON c.record_id = s.id AND m.record_id IS NULL
            AND c.run_id = (SELECT id FROM runs WHERE register_id = %(register_id)s AND state = 'standing')
        WHERE s.register_id = %(register_id)s
    """
    lines = copied_out(session, query, {"register_id": register_id})
    return {int(record): int(owner) for record, owner in (line.split(b"\x01") for line in lines)}
