"""Rows found by the words that they hold."""

from dataclasses import dataclass
from typing import Literal

from sqlalchemy import text
from sqlalchemy.orm import Session

from .maintenance import by_index

#: More found rows than this are not put in order: whoever asks has to say more.
MOST_FOUND = 1_000


@dataclass(frozen=True, slots=True)
class Frequent:
    """Words that ``rows`` rows hold, and a ``share`` of all, are looked for in a part of the table: the index would go through all of
    them. The part is ``spare`` times larger than what has to be found in it."""

    rows: int = 20_000
    share: float = 0.04
    spare: float = 3.0


_FREQUENT = Frequent()

_KEYS = {"record_words": "record_id", "golden_words": "golden_id"}
_HOLDS = "words @@ CAST(:words AS tsquery)"


def find_by_words(
    session: Session,
    table: Literal["record_words", "golden_words"],
    words: str,
    most: int = MOST_FOUND,
    frequent: Frequent = _FREQUENT,
) -> tuple[int, ...]:
    """Return the ids of rows that hold words, given in the form of the database's text search; ``most`` at most.

    Of more, they are some; always the same as long as the table is.
    """
    values: dict[str, object] = {"words": words, "most": most}
    share = _part_to_read(session, table, words, most, frequent)
    if share < 1.0:
        # Blocks drawn at random, with the same draw each time.
        part = text(
            f"SELECT {_KEYS[table]} FROM {table} TABLESAMPLE SYSTEM (:percent) REPEATABLE (1) WHERE {_HOLDS} LIMIT :most"
        )
        found = tuple(session.scalars(part, {**values, "percent": 100.0 * share}))
        if len(found) == most:
            return found
    with by_index(session):
        return tuple(session.scalars(text(f"SELECT {_KEYS[table]} FROM {table} WHERE {_HOLDS} LIMIT :most"), values))


def expected_holders(session: Session, table: str, words: str) -> float:
    """Return how many rows the planner expects to hold words."""
    explained = session.execute(text(f"EXPLAIN (FORMAT JSON) SELECT FROM {table} WHERE {_HOLDS}"), {"words": words})
    return float(explained.scalar_one()[0]["Plan"]["Plan Rows"])


def _part_to_read(session: Session, table: str, words: str, most: int, frequent: Frequent) -> float:
    """Return in which share of a table enough rows with these words are expected; 1 where they are not that frequent."""
    expected = expected_holders(session, table, words)
    rows = session.execute(
        text("SELECT reltuples FROM pg_class WHERE oid = CAST(:table AS regclass)"), {"table": table}
    )
    if expected < max(frequent.rows, frequent.share * float(rows.scalar_one())):
        return 1.0
    return min(1.0, frequent.spare * most / expected)
