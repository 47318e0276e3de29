"""Help for the planner: figures, without which the server takes a table that was just filled for an empty one, and hints."""

from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy import text
from sqlalchemy.orm import Session

#: Tables that one act can fill or empty.
BULK_TABLES = (
    "source_records", "record_versions", "delivery_records", "record_words", "golden_records", "golden_members", "golden_words",
    "moves", "journal_touches", "doubts", "run_pairs", "run_clusters", "decisions",
)  # fmt: skip


def analyze(session: Session, *tables: str) -> None:
    """Gather figures of tables anew; all bulk tables without names."""
    for table in tables or BULK_TABLES:
        session.execute(text(f"ANALYZE {table}"))


def rows_at_last_count(session: Session, table: str) -> float:
    """Return how many rows a table had when its figures were gathered last, 0 if they never were."""
    query = text("SELECT greatest(reltuples, 0) FROM pg_class WHERE oid = CAST(:table AS regclass)")
    return float(session.execute(query, {"table": table}).scalar_one())


@contextmanager
def by_index(session: Session) -> Iterator[None]:
    """Have rows found by an index even where the planner would read the whole table in the hope of finding enough early.

    It knows nothing of how rare the beginning of a word is, and hopes too much.
    """
    session.execute(text("SET LOCAL enable_seqscan = off"))
    yield
    session.execute(text("SET LOCAL enable_seqscan = on"))
