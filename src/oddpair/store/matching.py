"""Runs with their pairs and clusters."""

from collections.abc import Iterable, Sequence

import numpy as np
import numpy.typing as npt
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from .bulk import both_among, copied_out, copy_lines, copy_numbers, copy_rows
from .tables import Run, RunCluster, RunPair

PAIR_COLUMNS = ("run_id", "left_id", "right_id", "score", "same", "kind", "condition", "levels", "bits", "passed")


def write_pairs(session: Session, lines: bytes) -> None:
    """COPY pairs of a run, given as lines with PAIR_COLUMNS in the server's text format."""
    copy_lines(session, "run_pairs", PAIR_COLUMNS, lines)


def write_clusters(
    session: Session, run_id: int, records: npt.NDArray[np.int64], clusters: npt.NDArray[np.int64],
    outcomes: npt.NDArray[np.int64],
) -> None:  # fmt: skip
    """COPY cluster memberships of a run, with what came of every record in its passes."""
    runs = np.full(len(records), run_id)
    columns = ("run_id", "record_id", "cluster", "outcomes")
    copy_numbers(session, "run_clusters", columns, (runs, records, clusters, outcomes))


def write_awkward(session: Session, rows: Iterable[tuple[int, int, int, int, float, str]]) -> None:
    """COPY clusters of a run that a person should look at: (run, cluster, left and right end of the weakest link, its score, kind)."""
    copy_rows(session, "awkward_clusters", ("run_id", "cluster", "left_id", "right_id", "score", "kind"), rows)


def kept_runs(session: Session, register_id: int) -> Sequence[Run]:
    """Return the standing run and the trials that are kept, newest first."""
    query = select(Run).where(Run.register_id == register_id, Run.state.in_(("standing", "kept")))
    return session.scalars(query.order_by(Run.id.desc())).all()


def let_stand(session: Session, run: Run) -> None:
    """Make a stored run the one that doubts and golden records follow."""
    session.execute(
        text("UPDATE runs SET state = 'past' WHERE register_id = :register_id AND state = 'standing'"),
        {"register_id": run.register_id},
    )
    session.execute(text("UPDATE runs SET state = 'standing' WHERE id = :id"), {"id": run.id})
    session.expire(run)


def runs_to_forget(session: Session, register_id: int) -> list[int]:
    """Return the runs of a register that do not stand, but still have results: earlier ones, and what broke off."""
    return list(
        session.scalars(
            text("""
                SELECT r.id FROM runs r WHERE r.register_id = :register_id AND r.state <> 'standing'
                AND r.state <> 'kept' AND (r.state = 'storing' OR EXISTS (SELECT FROM run_clusters c WHERE c.run_id = r.id)) ORDER BY 1
            """),
            {"register_id": register_id},
        )
    )


def forget_run(session: Session, run_id: int) -> None:
    """Drop the pairs, clusters and doubts of a run; its report stays, unless it never stood."""
    for table in ("doubts", "run_pairs", "run_clusters", "awkward_clusters"):
        session.execute(text(f"DELETE FROM {table} WHERE run_id = :run_id"), {"run_id": run_id})
    session.execute(text("DELETE FROM runs WHERE id = :run_id AND state = 'storing'"), {"run_id": run_id})


def pair_of_run(session: Session, run_id: int, left_id: int, right_id: int) -> RunPair | None:
    """Return a pair of a run, or None."""
    return session.get(RunPair, (run_id, left_id, right_id))


def pairs_among(session: Session, run_id: int, records: Sequence[int]) -> Sequence[RunPair]:
    """Return a run's pairs whose two records are among ``records``, by record."""
    among = text(both_among("left_id", "right_id", "records")).bindparams(records=list(records))
    query = select(RunPair).where(RunPair.run_id == run_id, among)
    return session.scalars(query.order_by(RunPair.left_id, RunPair.right_id)).all()


def cluster_of(session: Session, run_id: int, record_id: int) -> int | None:
    """Return the cluster of a run that a record belongs to, None for one that the run did not see."""
    return session.scalar(
        select(RunCluster.cluster).where(RunCluster.run_id == run_id, RunCluster.record_id == record_id)
    )


def members_of_cluster(session: Session, run_id: int, cluster: int) -> Sequence[int]:
    """Return the records of a cluster of a run that are in the register now, ascending."""
    query = """
        SELECT c.record_id FROM run_clusters c JOIN source_records s ON s.id = c.record_id AND s.state <> 'withdrawn'
        WHERE c.run_id = :run_id AND c.cluster = :cluster ORDER BY 1
    """
    return session.scalars(text(query), {"run_id": run_id, "cluster": cluster}).all()


#: A record as a line: id, source, source's id, and its tidy values or fields.
RECORD_LINE = """
    SELECT s.id, to_json(o.name), to_json(s.source_key), s.{column}
    FROM source_records s JOIN sources o ON o.id = s.source_id
"""
_RECORDS = RECORD_LINE + "WHERE s.register_id = %(register_id)s AND s.state <> 'withdrawn'"


_FACTS = """
    SELECT s.id, coalesce(g.golden_id, -1), extract(epoch FROM coalesce(d.loaded_at, d.created_at))::bigint
    FROM source_records s JOIN deliveries d ON d.id = s.delivery_id LEFT JOIN golden_members g ON g.record_id = s.id
    WHERE s.register_id = %(register_id)s AND s.state <> 'withdrawn'
"""


def fact_lines(session: Session, register_id: int) -> Iterable[bytes]:
    """Yield lines (id, number of its golden record or -1, seconds since 1970 of its delivery) of all records of a register that count."""
    return copied_out(session, _FACTS, {"register_id": register_id})


def record_lines(session: Session, register_id: int, *, tidy: bool) -> Iterable[bytes]:
    """Yield lines (id, source, source's id, tidy values or fields) of all records of a register that count."""
    return copied_out(session, _RECORDS.format(column="tidy" if tidy else "fields"), {"register_id": register_id})
