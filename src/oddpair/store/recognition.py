"""What recognition reads and writes: records that changed, what links them, and clusters that are formed anew in the standing run."""

from collections.abc import Collection, Iterable
from datetime import datetime

import numpy as np
import numpy.typing as npt
from sqlalchemy import text
from sqlalchemy.orm import Session

from .bulk import copied_out, copy_ids, number_columns
from .matching import RECORD_LINE

Numbers = npt.NDArray[np.int64]


def learned_of_run(session: Session, run_id: int) -> bytes | None:
    """Return what a run kept of what it learned, None if nothing."""
    learned: bytes | None = session.scalar(text("SELECT learned FROM runs WHERE id = :run_id"), {"run_id": run_id})
    return learned


def changed_since(session: Session, register_id: int, version: int) -> Numbers:
    """Return the records that became what they are after a version of the register's records, ascending; those that left, too."""
    [records] = number_columns(
        session, ("id",),
        "SELECT id FROM source_records WHERE register_id = %(register_id)s AND changed_version > %(version)s ORDER BY id",
        {"register_id": register_id, "version": version},
    )  # fmt: skip
    return records


def decided_after(session: Session, register_id: int, moment: datetime) -> Numbers:
    """Return the records about which something was decided or taken back from a moment on, ascending."""
    [records] = number_columns(
        session, ("id",),
        """
        SELECT DISTINCT r.id FROM (
            SELECT unnest(ARRAY[left_id, right_id]) AS id FROM decisions
            WHERE register_id = %(register_id)s AND (at >= %(moment)s OR withdrawn_at >= %(moment)s)
            UNION ALL
            SELECT m.record_id FROM group_decisions g JOIN group_members m ON m.group_id = g.id
            WHERE g.register_id = %(register_id)s AND (g.at >= %(moment)s OR g.withdrawn_at >= %(moment)s)
        ) r ORDER BY 1
        """,
        {"register_id": register_id, "moment": moment},
    )  # fmt: skip
    return records


def present_among(session: Session, ids: Iterable[int]) -> Numbers:
    """Return those of some records that are in the register, ascending."""
    copy_ids(session, "asked_records", ids)
    [records] = number_columns(
        session, ("id",),
        "SELECT s.id FROM source_records s JOIN asked_records a ON a.id = s.id WHERE s.state <> 'withdrawn' ORDER BY 1", {},
    )  # fmt: skip
    return records


def present_of(session: Session, register_id: int) -> Numbers:
    """Return all records of a register, ascending."""
    [records] = number_columns(
        session, ("id",),
        "SELECT id FROM source_records WHERE register_id = %(register_id)s AND state <> 'withdrawn' ORDER BY 1",
        {"register_id": register_id},
    )  # fmt: skip
    return records


def lines_of(session: Session, ids: Iterable[int]) -> Iterable[bytes]:
    """Yield lines (id, source, source's id, tidy values) of some records that are in the register."""
    copy_ids(session, "asked_records", ids)
    return copied_out(
        session,
        f"{RECORD_LINE.format(column='tidy')} JOIN asked_records a ON a.id = s.id WHERE s.state <> 'withdrawn'",
        {},
    )


def linked_to(session: Session, run_id: int, ids: Collection[int], least: float) -> list[int]:
    """Return the records that pairs of a run with at least so many bits link with some records."""
    copy_ids(session, "asked_records", ids)
    query = text("""
        SELECT p.right_id FROM run_pairs p JOIN asked_records a ON a.id = p.left_id
        WHERE p.run_id = :run_id AND p.score >= CAST(:least AS real)
        UNION
        SELECT p.left_id FROM run_pairs p JOIN asked_records a ON a.id = p.right_id
        WHERE p.run_id = :run_id AND p.score >= CAST(:least AS real)
    """)
    return list(session.scalars(query, {"run_id": run_id, "least": least}))


def begin_forming(session: Session, run_id: int, changed: Iterable[int], formed: Iterable[int]) -> tuple[int, int]:
    """Clear away what a run said of ``changed`` records and of clusters that are ``formed`` anew; return (how many pairs the same, how
    many in doubt that were). The temporary tables ``gone``, ``formed`` and ``gone_clusters`` stay for what follows."""
    values = {"run_id": run_id}
    copy_ids(session, "gone", changed)
    copy_ids(session, "formed", formed)
    session.execute(text("CREATE TEMPORARY TABLE IF NOT EXISTS gone_clusters (id bigint PRIMARY KEY) ON COMMIT DROP"))
    session.execute(text("TRUNCATE gone_clusters"))
    session.execute(
        text("""
            INSERT INTO gone_clusters SELECT DISTINCT c.cluster FROM run_clusters c
            JOIN (SELECT id FROM gone UNION SELECT id FROM formed) t ON t.id = c.record_id WHERE c.run_id = :run_id
        """),
        values,
    )
    session.execute(text("ANALYZE gone_clusters"))
    counts = [0, 0]
    for which in (
        "p.left_id IN (SELECT id FROM gone)",
        "p.right_id IN (SELECT id FROM gone)",
        "p.left_id IN (SELECT id FROM formed) AND p.right_id IN (SELECT id FROM formed)",
    ):
        query = text(f"""
            WITH dropped AS (DELETE FROM run_pairs p WHERE p.run_id = :run_id AND {which} RETURNING same)
            SELECT count(*) FILTER (WHERE same), count(*) FILTER (WHERE NOT same) FROM dropped
        """)
        same, unsure = session.execute(query, values).one()
        counts = [counts[0] + same, counts[1] + unsure]
    session.execute(
        text("DELETE FROM awkward_clusters WHERE run_id = :run_id AND cluster IN (SELECT id FROM gone_clusters)"),
        values,
    )
    session.execute(
        text("""
            DELETE FROM run_clusters c USING (SELECT id FROM gone UNION SELECT id FROM formed) t
            WHERE c.run_id = :run_id AND c.record_id = t.id
        """),
        values,
    )
    return counts[0], counts[1]


#: What came of records in a run of one pass, as ``core.pass_table.Outcome`` numbers it.
_OUTCOMES = """
    UPDATE run_clusters o SET outcomes = n.outcome FROM (
        SELECT c.record_id, CASE
            WHEN EXISTS (
                SELECT FROM run_clusters k WHERE k.run_id = :run_id AND k.cluster = c.cluster AND k.record_id <> c.record_id
            ) THEN 2
            WHEN d.clusters > 1 THEN 3 WHEN d.clusters = 1 THEN 4 ELSE 5 END AS outcome
        FROM run_clusters c JOIN told t ON t.id = c.record_id
        LEFT JOIN (
            SELECT p.id, count(DISTINCT k.cluster) AS clusters FROM (
                SELECT p.left_id AS id, p.right_id AS other FROM run_pairs p JOIN told t ON t.id = p.left_id
                WHERE p.run_id = :run_id AND NOT p.same
                UNION ALL
                SELECT p.right_id, p.left_id FROM run_pairs p JOIN told t ON t.id = p.right_id WHERE p.run_id = :run_id AND NOT p.same
            ) p JOIN run_clusters k ON k.run_id = :run_id AND k.record_id = p.other GROUP BY p.id
        ) d ON d.id = c.record_id
        WHERE c.run_id = :run_id
    ) n WHERE o.run_id = :run_id AND o.record_id = n.record_id AND o.outcomes <> n.outcome
"""


def tell_outcomes(session: Session, run_id: int, also: Iterable[int]) -> None:
    """Write what came of the records in ``formed``, of those they are in doubt with, and of some others."""
    copy_ids(session, "told", also)
    session.execute(
        text("""
            INSERT INTO told SELECT id FROM formed
            UNION SELECT p.right_id FROM run_pairs p JOIN formed f ON f.id = p.left_id WHERE p.run_id = :run_id AND NOT p.same
            UNION SELECT p.left_id FROM run_pairs p JOIN formed f ON f.id = p.right_id WHERE p.run_id = :run_id AND NOT p.same
            ON CONFLICT DO NOTHING
        """),
        {"run_id": run_id},
    )
    session.execute(text("ANALYZE told"))
    session.execute(text(_OUTCOMES), {"run_id": run_id})


def clusters_of_formed(session: Session, run_id: int) -> int:
    """Return of how many clusters the records in ``formed`` are."""
    query = text("""
        SELECT count(DISTINCT c.cluster) FROM run_clusters c JOIN formed f ON f.id = c.record_id WHERE c.run_id = :run_id
    """)
    return int(session.execute(query, {"run_id": run_id}).scalar_one())


def count_gone_clusters(session: Session) -> int:
    """Return how many clusters are no longer what they were."""
    return int(session.execute(text("SELECT count(*) FROM gone_clusters")).scalar_one())


def others_in_doubt(session: Session, run_id: int) -> list[int]:
    """Return the records, not formed anew, that are in doubt with one in ``gone`` or ``formed``, before what a run said is cleared away."""
    query = text("""
        SELECT p.right_id FROM run_pairs p JOIN (SELECT id FROM gone UNION SELECT id FROM formed) t ON t.id = p.left_id
        WHERE p.run_id = :run_id AND NOT p.same
        UNION
        SELECT p.left_id FROM run_pairs p JOIN (SELECT id FROM gone UNION SELECT id FROM formed) t ON t.id = p.right_id
        WHERE p.run_id = :run_id AND NOT p.same
    """)
    return list(session.scalars(query, {"run_id": run_id}))
