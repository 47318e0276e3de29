"""Doubts as rows: made anew after a run, kept by decisions, paged by key; and the counters beside them."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import text
from sqlalchemy.orm import Session

from .bulk import copy_ids
from .counters import count_changed
from .maintenance import by_index

#: Decisions in force: the latest of each pair, not withdrawn, both records still in the register.
DECISIONS_IN_FORCE = """
    SELECT DISTINCT ON (d.left_id, d.right_id) d.id, d.left_id, d.right_id, d.verdict, d.changed
    FROM decisions d
    JOIN source_records l ON l.id = d.left_id
    JOIN source_records r ON r.id = d.right_id
    WHERE d.register_id = :register_id AND d.withdrawn_at IS NULL AND l.state <> 'withdrawn' AND r.state <> 'withdrawn' {more}
    ORDER BY d.left_id, d.right_id, d.id DESC
"""

#: One doubtful pair, the strongest, for every two clusters: one decision says whether the two clusters are one, so asking
#: for every pair of their records would be asking the same thing again.
_MAKE = f"""
    WITH in_force AS ({DECISIONS_IN_FORCE.format(more="")}),
    decided AS (
        SELECT least(l.cluster, r.cluster) AS one, greatest(l.cluster, r.cluster) AS other, bool_or(f.verdict <> 'later') AS settled
        FROM in_force f
        JOIN run_clusters l ON l.run_id = :run_id AND l.record_id = f.left_id
        JOIN run_clusters r ON r.run_id = :run_id AND r.record_id = f.right_id
        GROUP BY 1, 2
    ),
    sizes AS (SELECT cluster, count(*) AS size FROM run_clusters WHERE run_id = :run_id GROUP BY cluster),
    doubtful AS (
        SELECT DISTINCT ON (least(l.cluster, r.cluster), greatest(l.cluster, r.cluster))
               p.left_id, p.right_id, p.score, p.kind, least(l.cluster, r.cluster) AS one, greatest(l.cluster, r.cluster) AS other
        FROM run_pairs p
        JOIN run_clusters l ON l.run_id = p.run_id AND l.record_id = p.left_id
        JOIN run_clusters r ON r.run_id = p.run_id AND r.record_id = p.right_id
        JOIN source_records ls ON ls.id = p.left_id AND ls.state <> 'withdrawn'
        JOIN source_records rs ON rs.id = p.right_id AND rs.state <> 'withdrawn'
        WHERE p.run_id = :run_id AND NOT p.same
        ORDER BY 5, 6, p.score DESC, p.left_id, p.right_id
    )
    INSERT INTO doubts (register_id, run_id, left_id, right_id, one, other, kind, score, distance, records, state)
    SELECT :register_id, :run_id, d.left_id, d.right_id, d.one, d.other, d.kind, d.score, abs(d.score), a.size + b.size,
           CASE WHEN c.settled THEN 'decided' WHEN c.settled IS NOT NULL THEN 'later' ELSE 'open' END
    FROM doubtful d JOIN sizes a ON a.cluster = d.one JOIN sizes b ON b.cluster = d.other
    LEFT JOIN decided c ON c.one = d.one AND c.other = d.other
    ORDER BY d.one, d.other
"""
#: Decided pairs whose records are others now in what the decision rested on: they stay decided, and are asked again.
_MAKE_CHANGED = """
    INSERT INTO doubts (register_id, run_id, left_id, right_id, one, other, kind, score, distance, records, state, decision_id)
    SELECT :register_id, :run_id, f.left_id, f.right_id, least(f.left_id, f.right_id), greatest(f.left_id, f.right_id), 'changed',
           coalesce(p.score, 0), 0, 2, CASE WHEN f.verdict = 'later' THEN 'later' ELSE 'open' END, f.id
    FROM ({in_force}) f LEFT JOIN run_pairs p ON p.run_id = :run_id AND p.left_id = f.left_id AND p.right_id = f.right_id
    WHERE f.changed IS NOT NULL
"""


def make_doubts(session: Session, register_id: int, run_id: int) -> None:
    """Make the doubts of a run anew, from its pairs and clusters and the decisions in force."""
    values = {"register_id": register_id, "run_id": run_id}
    session.flush()
    session.execute(text("SET LOCAL work_mem = '128MB'"))
    session.execute(text("DELETE FROM doubts WHERE run_id = :run_id"), values)
    session.execute(text(_MAKE), values)
    session.execute(text(_MAKE_CHANGED.format(in_force=DECISIONS_IN_FORCE.format(more=""))), values)


def mark_changed_decisions(session: Session) -> None:
    """Note in the decisions about records in the temporary table ``touched`` in which fields they rest on other values now."""
    session.execute(
        text("""
            UPDATE decisions d SET changed = n.changed FROM (
                SELECT o.id, (
                    SELECT array_agg(f ORDER BY f) FROM jsonb_array_elements_text(o.basis->'fields') f
                    WHERE coalesce(o.basis->'left'->>f, '') <> coalesce(l.tidy->>f, '')
                       OR coalesce(o.basis->'right'->>f, '') <> coalesce(r.tidy->>f, '')
                ) AS changed
                FROM (
                    SELECT id FROM decisions WHERE left_id IN (SELECT id FROM touched)
                    UNION SELECT id FROM decisions WHERE right_id IN (SELECT id FROM touched)
                ) c
                JOIN decisions o ON o.id = c.id
                JOIN source_records l ON l.id = o.left_id JOIN source_records r ON r.id = o.right_id
            ) n
            WHERE n.id = d.id AND d.changed IS DISTINCT FROM n.changed
        """)
    )


def remake_changed(session: Session, register_id: int, run_id: int) -> None:
    """Make the doubts about changed decisions of the records in the temporary table ``touched`` anew."""
    values = {"register_id": register_id, "run_id": run_id}
    of_touched = "left_id IN (SELECT id FROM touched) OR right_id IN (SELECT id FROM touched)"
    session.execute(
        text(f"DELETE FROM doubts WHERE run_id = :run_id AND decision_id IS NOT NULL AND ({of_touched})"), values
    )
    more = f"AND d.id IN (SELECT id FROM decisions WHERE {of_touched})"
    # The latest of a pair counts, so every decision of such pairs is looked at.
    session.execute(text(_MAKE_CHANGED.format(in_force=DECISIONS_IN_FORCE.format(more=more))), values)


_SETTLE = f"""
    UPDATE doubts o SET state = n.state
    FROM (
        SELECT d.id, CASE WHEN bool_or(f.verdict <> 'later') THEN 'decided' WHEN count(f.id) > 0 THEN 'later' ELSE 'open' END AS state
        FROM doubts d
        LEFT JOIN LATERAL (
            {
    DECISIONS_IN_FORCE.format(
        more='''
                AND (d.left_id = ANY(:ones) AND d.right_id = ANY(:others) OR d.left_id = ANY(:others) AND d.right_id = ANY(:ones))'''
    )
}
        ) f ON true
        WHERE d.run_id = :run_id AND d.one = :one AND d.other = :other AND d.decision_id IS NULL
        GROUP BY d.id
    ) n
    WHERE o.id = n.id AND o.state <> n.state
"""


def settle_doubts(session: Session, register_id: int, run_id: int, left_id: int, right_id: int) -> None:
    """Bring the doubts that a decision about two records concerns up to date, and the counters with them."""
    session.flush()
    before = _states_about(session, run_id, left_id, right_id)
    clusters = session.execute(
        text("SELECT cluster FROM run_clusters WHERE run_id = :run_id AND record_id IN (:left, :right) ORDER BY cluster"),
        {"run_id": run_id, "left": left_id, "right": right_id},
    ).all()  # fmt: skip
    values: dict[str, Any] = {"register_id": register_id, "run_id": run_id, "left": left_id, "right": right_id}
    if len(clusters) == 2:
        one, other = clusters[0][0], clusters[1][0]
        records = session.execute(
            text("SELECT cluster, record_id FROM run_clusters WHERE run_id = :run_id AND cluster IN (:one, :other)"),
            {"run_id": run_id, "one": one, "other": other},
        ).all()
        ones, others = [r for c, r in records if c == one], [r for c, r in records if c == other]
        session.execute(text(_SETTLE), {**values, "one": one, "other": other, "ones": ones, "others": others})
    session.execute(
        text("DELETE FROM doubts WHERE run_id = :run_id AND decision_id IS NOT NULL AND left_id = :left AND right_id = :right"),
        values,
    )  # fmt: skip
    of_pair = DECISIONS_IN_FORCE.format(more="AND d.left_id = :left AND d.right_id = :right")
    session.execute(text(_MAKE_CHANGED.format(in_force=of_pair)), values)
    count_changed(session, register_id, before, _states_about(session, run_id, left_id, right_id))


def _states_about(session: Session, run_id: int, left_id: int, right_id: int) -> list[tuple[str, str]]:
    """Return (kind, state) of the doubts about the two clusters that two records belong to, and about the pair itself."""
    rows = session.execute(
        text("""
            SELECT d.kind, d.state FROM doubts d
            WHERE d.run_id = :run_id AND d.decision_id IS NOT NULL AND d.left_id = :left AND d.right_id = :right
            UNION ALL
            SELECT d.kind, d.state FROM run_clusters l JOIN run_clusters r ON r.run_id = l.run_id AND r.record_id = :right
            JOIN doubts d ON d.run_id = l.run_id AND d.one = least(l.cluster, r.cluster) AND d.other = greatest(l.cluster, r.cluster)
                AND d.decision_id IS NULL
            WHERE l.run_id = :run_id AND l.record_id = :left
        """),
        {"run_id": run_id, "left": left_id, "right": right_id},
    )
    return [(row[0], row[1]) for row in rows]


@dataclass(frozen=True, slots=True)
class QueuedPair:
    """A pair that waits for a decision; ``cursor`` is its place in the order asked for."""

    left_id: int
    right_id: int
    score: float
    kind: str
    put_off: bool
    left_name: str
    right_name: str
    cluster_size: int
    changed: list[str]
    cursor: str


#: What each order goes by, and whether the largest comes first.
_ORDERS = {"doubt": ("distance", False), "score": ("score", True), "cluster": ("records", True)}
ORDERS = tuple(_ORDERS)
_NAME = "coalesce({0}.fields->>'name', concat_ws(' ', {0}.fields->>'name.given', {0}.fields->>'name.family'))"


def queue_page(
    session: Session,
    run_id: int,
    *,
    order: str,
    after: str = "",
    limit: int,
    words: str = "",
    among: Sequence[int] | None = None,
    kind: str = "",
) -> list[QueuedPair]:
    """Return a page of the queue behind the cursor ``after``; pairs put off for later come last.

    A record of the pair has to be ``among`` some; where these would be too many, it has to hold ``words``, in the form that the
    index of words asks for.
    """
    searched = ""
    if among is not None:
        copy_ids(session, "asked_records", among)
        searched = """AND d.id IN (
            SELECT o.id FROM asked_records a JOIN doubts o ON o.left_id = a.id AND o.run_id = :run_id
            UNION SELECT o.id FROM asked_records a JOIN doubts o ON o.right_id = a.id AND o.run_id = :run_id)"""
    elif words:
        searched = """AND EXISTS (SELECT FROM record_words w WHERE w.record_id IN (d.left_id, d.right_id)
            AND w.words @@ CAST(:words AS tsquery))"""
    column, falling = _ORDERS[order]
    found: list[QueuedPair] = []
    state, value, last = _read_cursor(after)
    for part in ("open", "later"):
        if part == "open" and state == "later":
            continue
        behind = ""
        if part == state:
            behind = f"AND (d.{column}, d.id) > (:value, :last)"
            if falling:
                behind = f"AND (d.{column} < :value OR d.{column} = :value AND d.id > :last) AND d.{column} <= :value"
        query = text(f"""
                SELECT d.left_id, d.right_id, d.score, d.kind, d.state = 'later', {_NAME.format("l")}, {_NAME.format("r")}, d.records,
                       coalesce(x.changed, '{{}}'), d.{column}, d.id
                FROM (
                    SELECT * FROM doubts d WHERE d.run_id = :run_id AND d.state = :part {behind} {"AND d.kind = :kind" if kind else ""}
                    {searched} ORDER BY d.{column} {"DESC" if falling else ""}, d.id LIMIT :limit
                ) d
                JOIN source_records l ON l.id = d.left_id JOIN source_records r ON r.id = d.right_id
                LEFT JOIN decisions x ON x.id = d.decision_id
                ORDER BY d.{column} {"DESC" if falling else ""}, d.id
            """)
        asked = {
                "run_id": run_id, "part": part, "value": value, "last": last, "limit": limit - len(found), "words": words, "kind": kind,
            }  # fmt: skip
        with by_index(session):
            rows = session.execute(query, asked).all()
        found += [_queued(row, part) for row in rows]
        if len(found) >= limit:
            break
    return found


def _queued(row: Any, part: str) -> QueuedPair:
    left, right, score, kind, put_off, left_name, right_name, size, changed, value, last = row
    cursor = f"{part} {value!r} {last}"
    return QueuedPair(left, right, score, kind, put_off, left_name, right_name, size, list(changed), cursor)


def _read_cursor(cursor: str) -> tuple[str, float, int]:
    try:
        state, value, last = cursor.split(" ")
        return (state, float(value), int(last)) if state in ("open", "later") else ("", 0.0, 0)
    except ValueError:
        return "", 0.0, 0
