"""The queue: doubts that wait, page by page in any order, filtered."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from sqlalchemy import text
from sqlalchemy.orm import Session

from .bulk import copy_ids
from .maintenance import by_index
from .tables import RunPair
from .work_given import Condition


@dataclass(frozen=True, slots=True)
class Queued:
    """A doubt that waits: a pair, or a cluster with the two records at the ends of its weakest link; ``cursor`` is its place in the
    order asked for."""

    what: str
    cluster: int
    left_id: int
    right_id: int
    score: float
    kind: str
    put_off: bool
    left_name: str
    right_name: str
    records: int
    value: float
    since: datetime
    until: date | None
    asked: str
    changed: list[str]
    cursor: str


@dataclass(frozen=True, slots=True)
class QueueFilter:
    """Which doubts: of a kind; with a record of a source; pairs or clusters alone ("" for both); that ``asked`` is asked about.

    A record has to be ``among`` some; where these would be too many, it has to hold ``words``, in the form that the index of words asks
    for. What other desks than ``desk`` have before them is left out. ``work`` is a further condition: whose work it is.
    """

    kind: str = ""
    source_id: int = 0
    what: str = ""
    asked: str = ""
    words: str = ""
    among: tuple[int, ...] | None = None
    desk: str = ""
    work: Condition | None = None

    def condition(self) -> str:
        """Return a condition on ``doubts d``; its parameters are the fields of this."""
        parts = [
            (self.kind, "d.kind = :kind"), (self.source_id, "CAST(:source_id AS integer) = ANY(d.sources)"),
            (self.what, "d.what = :what"), (self.asked, "d.asked = :asked"),
            (self.desk, """NOT EXISTS (SELECT FROM leases b WHERE b.desk <> :desk AND b.until > now()
                AND (b.left_id, b.right_id) = (CASE WHEN d.what = 'pair' THEN d.left_id ELSE d.one END,
                                               CASE WHEN d.what = 'pair' THEN d.right_id ELSE d.one END))"""),
            (self.among is not None, """d.id IN (
                SELECT o.id FROM asked_records a JOIN doubts o ON o.left_id = a.id AND o.run_id = :run_id
                UNION SELECT o.id FROM asked_records a JOIN doubts o ON o.right_id = a.id AND o.run_id = :run_id)"""),
            (self.words and self.among is None, """EXISTS (SELECT FROM record_words w WHERE w.record_id IN (d.left_id, d.right_id)
                AND w.words @@ CAST(:words AS tsquery))"""),
            (self.work is not None, self.work.sql if self.work else ""),
        ]  # fmt: skip
        return "".join(f" AND {part}" for wanted, part in parts if wanted)

    def values(self) -> dict[str, Any]:
        """Return the parameters."""
        every = {
            "kind": self.kind,
            "source_id": self.source_id,
            "what": self.what,
            "asked": self.asked,
            "desk": self.desk,
        }
        used = self.condition()
        own = self.work.values if self.work else {}
        return {name: value for name, value in {**every, "words": self.words}.items() if f":{name}" in used} | dict(own)


EVERYTHING = QueueFilter()
#: What each order goes by, its type, and whether the largest comes first.
_ORDERS = {
    "doubt": ("distance", "real", False), "score": ("score", "real", True), "cluster": ("records", "integer", True),
    "value": ("value", "float8", True), "age": ("since", "timestamptz", False),
}  # fmt: skip
ORDERS = tuple(_ORDERS)
_NAME = "coalesce({0}.fields->>'name', concat_ws(' ', {0}.fields->>'name.given', {0}.fields->>'name.family'))"


def queue_page(
    session: Session, run_id: int, only: QueueFilter = EVERYTHING, *, order: str, after: str = "", limit: int
) -> list[Queued]:
    """Return a page of the queue behind the cursor ``after``; what was put off for later comes last."""
    if only.among is not None:
        copy_ids(session, "asked_records", only.among)
    column, kind, falling = _ORDERS[order]
    sort = f"d.{column} {'DESC' if falling else ''}, d.id"
    found: list[Queued] = []
    state, value, last = _read_cursor(after)
    for part in ("open", "later"):
        if part == "open" and (state == "later" or only.asked):
            continue
        behind = ""
        if part == state:
            here = f"CAST(:value AS {kind})"
            behind = f"AND (d.{column}, d.id) > ({here}, :last)"
            if falling:
                behind = f"AND (d.{column} < {here} OR d.{column} = {here} AND d.id > :last) AND d.{column} <= {here}"
        query = text(f"""
                SELECT d.what, d.one, d.left_id, d.right_id, d.score, d.kind, d.state = 'later', {_NAME.format("l")}, {_NAME.format("r")},
                       d.records, d.value, d.since, d.until, d.asked, coalesce(x.changed, y.changed, '{{}}'),
                       d.{column}::text, d.id
                FROM (
                    SELECT * FROM doubts d WHERE d.run_id = :run_id AND d.state = :part {behind} {only.condition()}
                    ORDER BY {sort} LIMIT :limit
                ) d
                JOIN source_records l ON l.id = d.left_id JOIN source_records r ON r.id = d.right_id
                LEFT JOIN decisions x ON x.id = d.decision_id LEFT JOIN group_decisions y ON y.id = d.group_id
                ORDER BY {sort}
            """)
        asked = {"run_id": run_id, "part": part, "limit": limit - len(found), **only.values()}
        with by_index(session):
            rows = session.execute(query, asked | ({"value": value, "last": last} if behind else {})).all()
        found += [_queued(row, part) for row in rows]
        if len(found) >= limit:
            break
    return found


def _queued(row: Any, part: str) -> Queued:
    (what, cluster, left, right, score, kind, put_off, left_name, right_name, records, amount, since, until, asked, changed, value,
     last) = row  # fmt: skip
    cursor = f"{part}~{value}~{last}"
    return Queued(
        what, cluster, left, right, score, kind, put_off, left_name, right_name, records, amount, since, until, asked, list(changed),
        cursor,
    )  # fmt: skip


def _read_cursor(cursor: str) -> tuple[str, str, int]:
    state, _, place = cursor.partition("~")
    value, _, last = place.rpartition("~")
    try:
        return (state, value, int(last)) if state in ("open", "later") and value else ("", "", 0)
    except ValueError:
        return "", "", 0


def pairs_like(session: Session, run_id: int, pair: RunPair, most: int) -> Sequence[tuple[int, int, float, str, str]]:
    """Return (left, right, score, both names) of the pairs that wait, not put off, and are like one of a run: of its kind, every comparison
    at the same level and decided by the same condition; the highest scores first, at most ``most``."""
    rows = session.execute(
        text(f"""
            SELECT d.left_id, d.right_id, d.score, {_NAME.format("l")}, {_NAME.format("r")}
            FROM doubts d JOIN run_pairs p ON p.run_id = d.run_id AND p.left_id = d.left_id AND p.right_id = d.right_id
            JOIN source_records l ON l.id = d.left_id JOIN source_records r ON r.id = d.right_id
            WHERE d.run_id = :run_id AND d.state = 'open' AND d.what = 'pair' AND d.decision_id IS NULL AND d.kind = :kind
                AND p.levels = :levels AND p.condition = :condition
            ORDER BY d.score DESC, d.id LIMIT :most
        """),
        {"run_id": run_id, "kind": pair.kind, "levels": pair.levels, "condition": pair.condition, "most": most},
    )
    return [(row[0], row[1], row[2], row[3], row[4]) for row in rows]
