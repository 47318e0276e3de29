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


@contextmanager
def by_index(session: Session) -> Iterator[None]:
    """Have rows found by an index even where the planner would read the whole table in the hope of finding enough early.

    It knows nothing of how rare the beginning of a word is, and hopes too much.
    """
    session.execute(text("SET LOCAL enable_seqscan = off"))
    yield
    session.execute(text("SET LOCAL enable_seqscan = on"))
