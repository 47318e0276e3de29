"""What is still in doubt after a run and the decisions made since, as parts of queries."""

#: Decisions in force: the latest of each pair, not withdrawn, both records still there and as they were when decided.
DECISIONS_IN_FORCE = """
    SELECT DISTINCT ON (d.left_id, d.right_id) d.id, d.left_id, d.right_id, d.verdict
    FROM decisions d
    JOIN source_records l ON l.id = d.left_id AND l.content_hash = d.left_hash
    JOIN source_records r ON r.id = d.right_id AND r.content_hash = d.right_hash
    WHERE d.register_id = :register_id AND d.withdrawn_at IS NULL AND l.state <> 'withdrawn' AND r.state <> 'withdrawn'
    ORDER BY d.left_id, d.right_id, d.id DESC
"""

#: One doubtful pair, the strongest, for every two clusters: one decision says whether the two clusters are one, so asking
#: for every pair of their records would be asking the same thing again. Takes :register_id and :run_id.
OPEN_DOUBTS = f"""
    WITH in_force AS ({DECISIONS_IN_FORCE}),
    decided AS (
        SELECT least(l.cluster, r.cluster) AS one, greatest(l.cluster, r.cluster) AS other, bool_or(f.verdict <> 'later') AS settled
        FROM in_force f
        JOIN run_clusters l ON l.run_id = :run_id AND l.record_id = f.left_id
        JOIN run_clusters r ON r.run_id = :run_id AND r.record_id = f.right_id
        GROUP BY 1, 2
    ),
    doubts AS (
        SELECT DISTINCT ON (least(l.cluster, r.cluster), greatest(l.cluster, r.cluster))
               p.left_id, p.right_id, p.score, p.reason,
               least(l.cluster, r.cluster) AS one, greatest(l.cluster, r.cluster) AS other
        FROM run_pairs p
        JOIN run_clusters l ON l.run_id = p.run_id AND l.record_id = p.left_id
        JOIN run_clusters r ON r.run_id = p.run_id AND r.record_id = p.right_id
        WHERE p.run_id = :run_id AND p.verdict = 'unsure'
        ORDER BY 5, 6, p.score DESC, p.left_id, p.right_id
    ),
    open_doubts AS (
        SELECT d.*, c.settled IS NOT NULL AS put_off
        FROM doubts d LEFT JOIN decided c ON c.one = d.one AND c.other = d.other
        WHERE NOT coalesce(c.settled, false)
    )
"""
