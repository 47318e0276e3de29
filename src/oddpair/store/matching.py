"""Runs, their pairs and clusters, and decisions."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import delete, select, text
from sqlalchemy.orm import Session

from .bulk import copy_rows
from .doubts import DECISIONS_IN_FORCE, OPEN_DOUBTS
from .tables import Run, RunCluster, RunPair


def forget_earlier_runs(session: Session, register_id: int, keep_run_id: int) -> None:
    """Drop pairs and clusters of earlier runs; their reports stay."""
    earlier = text("run_id IN (SELECT id FROM runs WHERE register_id = :register_id AND id <> :keep)")
    for table in (RunPair, RunCluster):
        session.execute(delete(table).where(earlier), {"register_id": register_id, "keep": keep_run_id})


def write_pairs(session: Session, rows: Iterable[tuple[int, int, int, float, str, dict[str, Any], str]]) -> int:
    """COPY pairs of a run."""
    return copy_rows(
        session, "run_pairs", ("run_id", "left_id", "right_id", "score", "verdict", "levels", "reason"), rows
    )


def write_clusters(session: Session, rows: Iterable[tuple[int, int, int]]) -> int:
    """COPY cluster memberships of a run."""
    return copy_rows(session, "run_clusters", ("run_id", "record_id", "cluster"), rows)


@dataclass(frozen=True, slots=True)
class DecisionInForce:
    """A decision that counts: the latest of its pair, not withdrawn, with both records unchanged since."""

    id: int
    left_id: int
    right_id: int
    verdict: str


def decisions_in_force(session: Session, register_id: int) -> list[DecisionInForce]:
    """Return the decisions that a run must follow, in the order in which they were made."""
    rows = session.execute(text(f"SELECT * FROM ({DECISIONS_IN_FORCE}) f ORDER BY id"), {"register_id": register_id})
    return [DecisionInForce(*row) for row in rows]


@dataclass(frozen=True, slots=True)
class QueuedPair:
    """A pair that waits for a decision."""

    left_id: int
    right_id: int
    score: float
    reason: str
    put_off: bool
    left_name: str
    right_name: str
    cluster_size: int


_ORDERS = {
    "doubt": "put_off, abs(p.score - :middle), p.left_id, p.right_id",
    "score": "put_off, p.score DESC, p.left_id, p.right_id",
    "cluster": "put_off, cluster_size DESC, p.score DESC, p.left_id, p.right_id",
}
ORDERS = tuple(_ORDERS)


def review_queue(
    session: Session, run: Run, *, middle: float, order: str, search: str, offset: int, limit: int
) -> tuple[int, list[QueuedPair]]:
    """Return (how many pairs wait, one page of them); pairs put off for later come last."""
    name = "coalesce({0}.fields->>'name', concat_ws(' ', {0}.fields->>'name.given', {0}.fields->>'name.family'))"
    rows = session.execute(
        text(f"""
            {OPEN_DOUBTS},
            sizes AS (SELECT cluster, count(*) AS size FROM run_clusters WHERE run_id = :run_id GROUP BY cluster)
            SELECT p.left_id, p.right_id, p.score, p.reason, p.put_off,
                   {name.format("l")} AS left_name, {name.format("r")} AS right_name,
                   a.size + b.size AS cluster_size, count(*) OVER () AS waiting
            FROM open_doubts p
            JOIN source_records l ON l.id = p.left_id
            JOIN source_records r ON r.id = p.right_id
            JOIN sizes a ON a.cluster = p.one
            JOIN sizes b ON b.cluster = p.other
            WHERE :search = ''
               OR strpos(lower({name.format("l")} || ' ' || {name.format("r")} || ' ' || p.reason), lower(:search)) > 0
            ORDER BY {_ORDERS[order]}
            OFFSET :offset LIMIT :limit
        """),
        {
            "register_id": run.register_id, "run_id": run.id, "middle": middle, "search": search, "offset": offset, "limit": limit,
        },
    ).all()  # fmt: skip
    waiting = int(rows[0][8]) if rows else 0
    return waiting, [QueuedPair(*row[:8]) for row in rows]


def run_clusters(session: Session, run_id: int) -> Sequence[tuple[int, int]]:
    """Return (record id, cluster) of every record of a run, ordered by record id."""
    rows = session.execute(
        text("SELECT record_id, cluster FROM run_clusters WHERE run_id = :run_id ORDER BY record_id"),
        {"run_id": run_id},
    )
    return [(row[0], row[1]) for row in rows]


def pairs_among(session: Session, run_id: int, records: Sequence[int]) -> Sequence[tuple[int, int, float, str]]:
    """Return (left id, right id, score, reason) of a run's pairs whose two records are among ``records``."""
    query = (
        select(RunPair.left_id, RunPair.right_id, RunPair.score, RunPair.reason)
        .where(RunPair.run_id == run_id, RunPair.left_id.in_(records), RunPair.right_id.in_(records))
        .order_by(RunPair.left_id, RunPair.right_id)
    )
    return [(row[0], row[1], row[2], row[3]) for row in session.execute(query)]
