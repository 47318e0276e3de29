"""Doubts as rows: made anew after a run, kept by decisions; and the counters beside them."""

from collections.abc import Sequence
from typing import Any

from sqlalchemy import text
from sqlalchemy.orm import Session

from .bulk import both_among
from .counters import count_changed

#: Decisions in force: the latest of each pair, not withdrawn, both records still in the register.
DECISIONS_IN_FORCE = """
    SELECT DISTINCT ON (d.left_id, d.right_id) d.id, d.left_id, d.right_id, d.verdict, d.changed, d.at, d.until, d.asked
    FROM decisions d
    JOIN source_records l ON l.id = d.left_id
    JOIN source_records r ON r.id = d.right_id
    WHERE d.register_id = :register_id AND d.withdrawn_at IS NULL AND l.state <> 'withdrawn' AND r.state <> 'withdrawn' {more}
    ORDER BY d.left_id, d.right_id, d.id DESC
"""
#: What a decision for later says of a doubt: it waits until its day is there.
_STILL_LATER = "{0}.verdict = 'later' AND ({0}.until IS NULL OR {0}.until > current_date)"

#: What decisions say of every two clusters, and of every cluster: of all (``{more}`` is empty), or of those among some records.
#: One decision says whether two clusters are one. A cluster is settled once all its records are said to be the same, or some
#: of them different, or its weakest link was decided.
_DECIDED = f"""
    in_force AS ({DECISIONS_IN_FORCE}),
    groups AS (
        SELECT g.id, g.verdict, g.until, g.asked, m.record_id, m.side, c.cluster
        FROM group_decisions g JOIN group_members m ON m.group_id = g.id
        JOIN run_clusters c ON c.run_id = :run_id AND c.record_id = m.record_id
        WHERE g.register_id = :register_id AND g.withdrawn_at IS NULL {{of_groups}}
    ),
    proposed AS (
        SELECT least(l.cluster, r.cluster) AS one, greatest(l.cluster, r.cluster) AS other
        FROM proposal_pairs p
        JOIN run_clusters l ON l.run_id = :run_id AND l.record_id = p.left_id
        JOIN run_clusters r ON r.run_id = :run_id AND r.record_id = p.right_id
        WHERE p.register_id = :register_id {{of_proposed}}
    ),
    sayings AS (
        SELECT least(l.cluster, r.cluster) AS one, greatest(l.cluster, r.cluster) AS other, f.verdict <> 'later' AS settled,
               {_STILL_LATER.format("f")} AS waits, f.until, f.asked, false AS proposed
        FROM in_force f
        JOIN run_clusters l ON l.run_id = :run_id AND l.record_id = f.left_id
        JOIN run_clusters r ON r.run_id = :run_id AND r.record_id = f.right_id
        UNION ALL
        SELECT least(a.cluster, b.cluster), greatest(a.cluster, b.cluster), true, false, NULL, '', false
        FROM groups a JOIN groups b ON b.id = a.id AND b.record_id > a.record_id AND b.cluster <> a.cluster
            AND (a.verdict = 'same' OR a.side <> b.side)
        WHERE a.verdict <> 'later'
        UNION ALL
        SELECT one, other, false, false, NULL, '', true FROM proposed
    ),
    decided AS (
        SELECT one, other, bool_or(settled) AS settled, bool_or(waits) AS waits, bool_or(proposed) AS proposed,
               max(until) FILTER (WHERE NOT settled) AS until,
               max(asked) FILTER (WHERE waits) AS asked
        FROM sayings WHERE one <> other GROUP BY one, other
    ),
    held AS (
        SELECT id, cluster, verdict, until, asked, count(*) AS records, count(DISTINCT side) AS sides FROM groups
        GROUP BY id, cluster, verdict, until, asked
    )
"""
_NO_GROUPS, _GROUPS_OF_RECORDS = "", "AND m.record_id = ANY(CAST(:records AS bigint[]))"
_AMONG_RECORDS = "AND " + both_among("d.left_id", "d.right_id", "records")
_PROPOSED_AMONG = "AND " + both_among("p.left_id", "p.right_id", "records")

#: The number in a register's field of value, 0 where there is none.
_VALUE = "CASE WHEN {0}.tidy->>g.value_field ~ '^-?[0-9]{{1,15}}([.][0-9]+)?$' THEN ({0}.tidy->>g.value_field)::float8 ELSE 0 END"
_SINCE = """coalesce((
    SELECT e.since FROM earlier_doubts e WHERE e.what = '{what}' AND e.left_id = {0}.left_id AND e.right_id = {0}.right_id), now())"""
#: What somebody decided, and what waits for a second yes, is nobody else's to decide meanwhile.
_STATE = (
    "CASE WHEN {0}.settled THEN 'decided' WHEN {0}.proposed THEN 'proposed' WHEN {0}.waits THEN 'later' ELSE 'open' END"
)

#: What stands between /* and */ is where ``remake_doubts`` narrows the query.
#: One doubtful pair, the strongest, for every two clusters: one decision says whether the two clusters are one, so asking
#: for every pair of their records would be asking the same thing again.
_MAKE = f"""
    WITH {_DECIDED.format(more="", of_groups=_NO_GROUPS, of_proposed="")},
    doubtful AS (
        SELECT DISTINCT ON (least(l.cluster, r.cluster), greatest(l.cluster, r.cluster))
               p.left_id, p.right_id, p.score, p.kind, least(l.cluster, r.cluster) AS one, greatest(l.cluster, r.cluster) AS other,
               CASE WHEN ls.source_id = rs.source_id THEN ARRAY[ls.source_id] ELSE ARRAY[ls.source_id, rs.source_id] END AS sources,
               greatest({_VALUE.format("ls")}, {_VALUE.format("rs")}) AS value
        FROM run_pairs p
        JOIN registers g ON g.id = :register_id
        JOIN run_clusters l ON l.run_id = p.run_id AND l.record_id = p.left_id
        JOIN run_clusters r ON r.run_id = p.run_id AND r.record_id = p.right_id
        JOIN source_records ls ON ls.id = p.left_id AND ls.state <> 'withdrawn'
        JOIN source_records rs ON rs.id = p.right_id AND rs.state <> 'withdrawn'
        WHERE p.run_id = :run_id AND NOT p.same /* of_pairs */
        ORDER BY 5, 6, p.score DESC, p.left_id, p.right_id
    ),
    sizes AS (SELECT cluster, count(*) AS size FROM run_clusters WHERE run_id = :run_id /* of_sizes */ GROUP BY cluster)
    INSERT INTO doubts (register_id, run_id, left_id, right_id, one, other, kind, score, distance, records, sources, value, since,
                        state, until, asked)
    SELECT :register_id, :run_id, d.left_id, d.right_id, d.one, d.other, d.kind, d.score, abs(d.score), a.size + b.size, d.sources,
           d.value, {_SINCE.format("d", what="pair")}, {_STATE.format("c")}, c.until, coalesce(c.asked, '')
    FROM doubtful d JOIN sizes a ON a.cluster = d.one JOIN sizes b ON b.cluster = d.other
    LEFT JOIN decided c ON c.one = d.one AND c.other = d.other
    ORDER BY d.one, d.other
"""
_CLUSTER_STATE = f"""
    SELECT w.cluster, coalesce(bool_or(h.verdict = 'different' AND h.sides > 1 OR h.verdict = 'same' AND h.records >= w.size), false)
               OR EXISTS (
                   SELECT FROM in_force f WHERE f.left_id = w.left_id AND f.right_id = w.right_id AND f.verdict <> 'later') AS settled,
           bool_or({_STILL_LATER.format("h")}) AS waits,
           EXISTS (SELECT FROM proposed p WHERE p.one = w.cluster AND p.other = w.cluster) AS proposed,
           max(h.until) AS until, max(h.asked) AS asked
    FROM awkward w LEFT JOIN held h ON h.cluster = w.cluster GROUP BY w.cluster, w.left_id, w.right_id
"""
#: Clusters that a person should look at as wholes.
_MAKE_CLUSTERS = f"""
    WITH {_DECIDED.format(more="", of_groups=_NO_GROUPS, of_proposed="")},
    awkward AS (
        SELECT a.*, n.size, n.sources, n.value FROM awkward_clusters a JOIN LATERAL (
            SELECT count(*) AS size, array_agg(DISTINCT s.source_id) AS sources, max({_VALUE.format("s")}) AS value
            FROM run_clusters c JOIN source_records s ON s.id = c.record_id AND s.state <> 'withdrawn'
            JOIN registers g ON g.id = :register_id WHERE c.run_id = a.run_id AND c.cluster = a.cluster
        ) n ON n.size > 2 WHERE a.run_id = :run_id /* of_clusters */
    )
    INSERT INTO doubts (register_id, run_id, what, left_id, right_id, one, other, kind, score, distance, records, sources, value, since,
                        state, until, asked)
    SELECT :register_id, :run_id, 'cluster', w.left_id, w.right_id, w.cluster, w.cluster, w.kind, w.score, abs(w.score), w.size,
           w.sources, w.value, {_SINCE.format("w", what="cluster")}, {_STATE.format("x")}, x.until,
           coalesce(x.asked, '')
    FROM awkward w JOIN ({_CLUSTER_STATE}) x ON x.cluster = w.cluster
    ORDER BY w.cluster
"""
#: Decided pairs whose records are others now in what the decision rested on: they stay decided, and are asked again.
_MAKE_CHANGED = f"""
    INSERT INTO doubts (register_id, run_id, left_id, right_id, one, other, kind, score, distance, records, sources, state, until, asked,
                        decision_id)
    SELECT :register_id, :run_id, f.left_id, f.right_id, least(f.left_id, f.right_id), greatest(f.left_id, f.right_id), 'changed',
           coalesce(p.score, 0), 0, 2,
           ARRAY(SELECT DISTINCT s.source_id FROM source_records s WHERE s.id IN (f.left_id, f.right_id) ORDER BY 1),
           CASE WHEN EXISTS (SELECT FROM proposal_pairs p WHERE p.left_id = f.left_id AND p.right_id = f.right_id) THEN 'proposed'
                WHEN {_STILL_LATER.format("f")} THEN 'later' ELSE 'open' END, f.until, f.asked, f.id
    FROM ({{in_force}}) f LEFT JOIN run_pairs p ON p.run_id = :run_id AND p.left_id = f.left_id AND p.right_id = f.right_id
    WHERE f.changed IS NOT NULL
"""
#: The same of group decisions: the cluster of the first of their records is asked again.
_MAKE_GROUPS_CHANGED = """
    INSERT INTO doubts (register_id, run_id, what, left_id, right_id, one, other, kind, score, distance, records, sources, state, until,
                        asked, group_id)
    SELECT :register_id, :run_id, 'cluster', n.first, n.last, c.cluster, c.cluster, 'changed', 0, 0, n.records, n.sources,
           CASE WHEN EXISTS (SELECT FROM proposal_pairs p WHERE p.left_id = n.first AND p.right_id IN (
                                 SELECT m.record_id FROM group_members m WHERE m.group_id = g.id)) THEN 'proposed'
                WHEN g.verdict = 'later' AND (g.until IS NULL OR g.until > current_date) THEN 'later' ELSE 'open' END, g.until, g.asked,
           g.id
    FROM group_decisions g JOIN LATERAL (
        SELECT min(m.record_id) AS first, max(m.record_id) AS last, count(*) AS records, array_agg(DISTINCT s.source_id) AS sources
        FROM group_members m JOIN source_records s ON s.id = m.record_id AND s.state <> 'withdrawn' WHERE m.group_id = g.id
    ) n ON n.records > 1
    JOIN run_clusters c ON c.run_id = :run_id AND c.record_id = n.first
    WHERE g.register_id = :register_id AND g.withdrawn_at IS NULL AND g.changed IS NOT NULL {more}
"""


def make_doubts(session: Session, register_id: int, run_id: int) -> None:
    """Make the doubts of a run anew, from its pairs and clusters and the decisions in force; how long one waits already is kept."""
    values = {"register_id": register_id, "run_id": run_id}
    session.flush()
    session.execute(text("SET LOCAL work_mem = '128MB'"))
    _keep_since(session, "register_id = :register_id", values)
    session.execute(text("DELETE FROM doubts WHERE run_id = :run_id"), values)
    session.execute(text(_MAKE), values)
    session.execute(text(_MAKE_CLUSTERS), values)
    session.execute(text(_MAKE_CHANGED.format(in_force=DECISIONS_IN_FORCE.format(more=""))), values)
    session.execute(text(_MAKE_GROUPS_CHANGED.format(more="")), values)


def _keep_since(session: Session, which: str, values: dict[str, Any]) -> None:
    """Keep since when some doubts have been waiting, for those that are made in their place."""
    session.execute(text("DROP TABLE IF EXISTS pg_temp.earlier_doubts"))
    session.execute(
        text(f"""
            CREATE TEMPORARY TABLE earlier_doubts ON COMMIT DROP AS
            SELECT what, left_id, right_id, min(since) AS since FROM doubts WHERE {which} GROUP BY 1, 2, 3
        """),
        values,
    )
    session.execute(text("CREATE INDEX ON earlier_doubts (left_id, right_id)"))


#: Doubts that clusters and pairs alone make, not changed decisions, about clusters that are no longer what they were.
_OF_GONE = "run_id = :run_id AND decision_id IS NULL AND group_id IS NULL AND {0} IN (SELECT id FROM gone_clusters)"
_OF_FORMED = {
    "of_pairs": "AND (p.left_id IN (SELECT id FROM formed) OR p.right_id IN (SELECT id FROM formed))",
    "of_sizes": "AND cluster IN (SELECT one FROM doubtful UNION SELECT other FROM doubtful)",
    "of_clusters": """AND a.cluster IN (
        SELECT c.cluster FROM run_clusters c JOIN formed f ON f.id = c.record_id WHERE c.run_id = :run_id)""",
}


def remake_doubts(session: Session, register_id: int, run_id: int) -> None:
    """Make the doubts about clusters that were formed anew: of the records in the temporary table ``formed``, in place of the
    ``gone_clusters``, which are no longer what they were."""
    values = {"register_id": register_id, "run_id": run_id}
    session.flush()
    session.execute(text("SET LOCAL work_mem = '128MB'"))
    _keep_since(session, f"({_OF_GONE.format('one')}) OR ({_OF_GONE.format('other')})", values)
    for end in ("one", "other"):
        session.execute(text(f"DELETE FROM doubts WHERE {_OF_GONE.format(end)}"), values)
    for query in (_MAKE, _MAKE_CLUSTERS):
        for place, only in _OF_FORMED.items():
            query = query.replace(f"/* {place} */", only)
        session.execute(text(query), values)


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
    session.execute(
        text("""
            UPDATE group_decisions d SET changed = n.changed FROM (
                SELECT g.id, (
                    SELECT array_agg(DISTINCT f ORDER BY f) FROM group_members m JOIN source_records s ON s.id = m.record_id,
                        unnest(g.fields) f
                    WHERE m.group_id = g.id AND coalesce(m.basis->>f, '') <> coalesce(s.tidy->>f, '')
                ) AS changed
                FROM group_decisions g WHERE g.id IN (
                    SELECT group_id FROM group_members WHERE record_id IN (SELECT id FROM touched)
                )
            ) n
            WHERE n.id = d.id AND d.changed IS DISTINCT FROM n.changed
        """)
    )


def remake_changed(session: Session, register_id: int, run_id: int) -> None:
    """Make the doubts about changed decisions of the records in the temporary table ``touched`` anew."""
    values = {"register_id": register_id, "run_id": run_id}
    of_touched = "left_id IN (SELECT id FROM touched) OR right_id IN (SELECT id FROM touched)"
    of_groups = "SELECT group_id FROM group_members WHERE record_id IN (SELECT id FROM touched)"
    for changed in (f"decision_id IS NOT NULL AND ({of_touched})", f"group_id IN ({of_groups})"):
        session.execute(text(f"DELETE FROM doubts WHERE run_id = :run_id AND {changed}"), values)
    more = f"AND d.id IN (SELECT id FROM decisions WHERE {of_touched})"
    # The latest of a pair counts, so every decision of such pairs is looked at.
    session.execute(text(_MAKE_CHANGED.format(in_force=DECISIONS_IN_FORCE.format(more=more))), values)
    session.execute(text(_MAKE_GROUPS_CHANGED.format(more=f"AND g.id IN ({of_groups})")), values)


_SETTLE = f"""
    WITH {_DECIDED.format(more=_AMONG_RECORDS, of_groups=_GROUPS_OF_RECORDS, of_proposed=_PROPOSED_AMONG)},
    awkward AS (
        SELECT d.one AS cluster, d.left_id, d.right_id, (
            SELECT count(*) FROM run_clusters c JOIN source_records s ON s.id = c.record_id AND s.state <> 'withdrawn'
            WHERE c.run_id = :run_id AND c.cluster = d.one) AS size
        FROM doubts d WHERE d.run_id = :run_id AND d.what = 'cluster' AND d.group_id IS NULL AND d.one = ANY(CAST(:clusters AS bigint[]))
    ),
    states AS (
        SELECT d.id, {_STATE.format("c")} AS state, c.until, coalesce(c.asked, '') AS asked
        FROM doubts d LEFT JOIN decided c ON c.one = d.one AND c.other = d.other
        WHERE d.run_id = :run_id AND d.what = 'pair' AND d.decision_id IS NULL AND {both_among("d.one", "d.other", "clusters")}
        UNION ALL
        SELECT d.id, {_STATE.format("x")}, x.until, coalesce(x.asked, '')
        FROM ({_CLUSTER_STATE}) x JOIN doubts d ON d.run_id = :run_id AND d.what = 'cluster' AND d.group_id IS NULL AND d.one = x.cluster
    )
    UPDATE doubts o SET state = n.state, until = n.until, asked = n.asked FROM states n
    WHERE o.id = n.id AND (o.state, coalesce(o.until, 'infinity'), o.asked) <> (n.state, coalesce(n.until, 'infinity'), n.asked)
"""


def settle_doubts(session: Session, register_id: int, run_id: int, records: Sequence[int]) -> None:
    """Bring the doubts that a decision about records concerns up to date, and the counters with them."""
    session.flush()
    values: dict[str, Any] = {"register_id": register_id, "run_id": run_id, "decided": sorted(set(records))}
    values["clusters"] = session.scalars(
        text(
            "SELECT DISTINCT cluster FROM run_clusters WHERE run_id = :run_id AND record_id = ANY(CAST(:decided AS bigint[]))"
        ),
        values,
    ).all()
    values["records"] = session.scalars(
        text(
            "SELECT record_id FROM run_clusters WHERE run_id = :run_id AND cluster = ANY(CAST(:clusters AS bigint[]))"
        ),
        values,
    ).all()
    before = _states_about(session, values)
    session.execute(text(_SETTLE), values)
    # Apart, so that each goes by its index.
    for changed in (
        "decision_id IS NOT NULL AND " + both_among("left_id", "right_id", "decided"),
        "group_id = ANY(ARRAY(SELECT group_id FROM group_members WHERE record_id = ANY(CAST(:decided AS bigint[]))))",
    ):
        session.execute(text(f"DELETE FROM doubts WHERE run_id = :run_id AND {changed}"), values)
    among = "AND " + both_among("d.left_id", "d.right_id", "decided")
    session.execute(text(_MAKE_CHANGED.format(in_force=DECISIONS_IN_FORCE.format(more=among))), values)
    more = "AND g.id = ANY(ARRAY(SELECT group_id FROM group_members WHERE record_id = ANY(CAST(:decided AS bigint[]))))"
    session.execute(text(_MAKE_GROUPS_CHANGED.format(more=more)), values)
    count_changed(session, register_id, before, _states_about(session, values))


def _states_about(session: Session, values: dict[str, Any]) -> list[tuple[str, str]]:
    """Return (kind, state) of the doubts about decided records and among the clusters that these belong to."""
    rows = session.execute(
        text(f"""
            SELECT d.kind, d.state FROM doubts d
            WHERE d.run_id = :run_id AND d.decision_id IS NOT NULL AND {both_among("d.left_id", "d.right_id", "decided")}
            UNION ALL
            SELECT d.kind, d.state FROM doubts d
            WHERE d.run_id = :run_id
                AND d.group_id = ANY(ARRAY(SELECT group_id FROM group_members WHERE record_id = ANY(CAST(:decided AS bigint[]))))
            UNION ALL
            SELECT d.kind, d.state FROM doubts d
            WHERE d.run_id = :run_id AND {both_among("d.one", "d.other", "clusters")}
                AND d.decision_id IS NULL AND d.group_id IS NULL
        """),
        values,
    )
    return [(row[0], row[1]) for row in rows]


def wake(session: Session) -> int:
    """Bring back what was put off until a day that is there now; return how many doubts that are."""
    rows = session.execute(
        text("""
            UPDATE doubts SET state = 'open' WHERE state = 'later' AND until <= current_date RETURNING register_id, kind
        """)
    ).all()
    for register_id in {row[0] for row in rows}:
        woken = [row[1] for row in rows if row[0] == register_id]
        count_changed(session, register_id, [(kind, "later") for kind in woken], [(kind, "open") for kind in woken])
    return len(rows)
