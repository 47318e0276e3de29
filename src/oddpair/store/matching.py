"""Runs with their pairs and clusters, and decisions."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from .bulk import copied_out, copy_lines, copy_numbers
from .doubts import DECISIONS_IN_FORCE
from .tables import Decision, Run, RunPair

PAIR_COLUMNS = ("run_id", "left_id", "right_id", "score", "same", "kind", "condition", "levels", "bits")


def write_pairs(session: Session, lines: bytes) -> None:
    """COPY pairs of a run, given as lines with PAIR_COLUMNS in the server's text format."""
    copy_lines(session, "run_pairs", PAIR_COLUMNS, lines)


def write_clusters(
    session: Session, run_id: int, records: npt.NDArray[np.int64], clusters: npt.NDArray[np.int64]
) -> None:
    """COPY cluster memberships of a run."""
    runs = np.full(len(records), run_id)
    copy_numbers(session, "run_clusters", ("run_id", "record_id", "cluster"), (runs, records, clusters))


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
                AND (r.state = 'storing' OR EXISTS (SELECT FROM run_clusters c WHERE c.run_id = r.id)) ORDER BY 1
            """),
            {"register_id": register_id},
        )
    )


def forget_run(session: Session, run_id: int) -> None:
    """Drop the pairs, clusters and doubts of a run; its report stays, unless it never stood."""
    for table in ("doubts", "run_pairs", "run_clusters"):
        session.execute(text(f"DELETE FROM {table} WHERE run_id = :run_id"), {"run_id": run_id})
    session.execute(text("DELETE FROM runs WHERE id = :run_id AND state = 'storing'"), {"run_id": run_id})


@dataclass(frozen=True, slots=True)
class DecisionInForce:
    """A decision that counts: the latest of its pair, not withdrawn; ``changed`` if its records are others now."""

    id: int
    left_id: int
    right_id: int
    verdict: str
    changed: list[str] | None


def decisions_in_force(session: Session, register_id: int) -> list[DecisionInForce]:
    """Return the decisions that a run must follow, in the order in which they were made."""
    in_force = DECISIONS_IN_FORCE.format(more="")
    rows = session.execute(text(f"SELECT * FROM ({in_force}) f ORDER BY id"), {"register_id": register_id})
    return [DecisionInForce(*row) for row in rows]


def decided_among(session: Session, register_id: int, records: Sequence[int]) -> list[DecisionInForce]:
    """Return the decisions in force whose two records are among ``records``."""
    more = "AND d.left_id = ANY(:records) AND d.right_id = ANY(:records)"
    in_force = DECISIONS_IN_FORCE.format(more=more)
    rows = session.execute(text(in_force), {"register_id": register_id, "records": list(records)})
    return [DecisionInForce(*row) for row in rows]


def decision_of_pair(session: Session, left_id: int, right_id: int) -> Decision | None:
    """Return the latest decision of a pair that was not withdrawn, or None."""
    query = select(Decision).where(
        Decision.left_id == left_id, Decision.right_id == right_id, Decision.withdrawn_at.is_(None)
    )
    return session.scalars(query.order_by(Decision.id.desc()).limit(1)).first()


def pair_of_run(session: Session, run_id: int, left_id: int, right_id: int) -> RunPair | None:
    """Return a pair of a run, or None."""
    return session.get(RunPair, (run_id, left_id, right_id))


def pairs_among(session: Session, run_id: int, records: Sequence[int]) -> Sequence[RunPair]:
    """Return a run's pairs whose two records are among ``records``, by record."""
    among = text("left_id = ANY(:records) AND right_id = ANY(:records)").bindparams(records=list(records))
    query = select(RunPair).where(RunPair.run_id == run_id, among)
    return session.scalars(query.order_by(RunPair.left_id, RunPair.right_id)).all()


_RECORDS = """
    SELECT s.id, to_json(o.name), to_json(s.source_key), s.{column}
    FROM source_records s JOIN sources o ON o.id = s.source_id
    WHERE s.register_id = %(register_id)s AND s.state <> 'withdrawn'
"""


def record_lines(session: Session, register_id: int, *, tidy: bool) -> Iterable[bytes]:
    """Yield lines (id, source, source's id, tidy values or fields) of all records of a register that count."""
    return copied_out(session, _RECORDS.format(column="tidy" if tidy else "fields"), {"register_id": register_id})
