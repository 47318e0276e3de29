"""What is computed again and compared: every projection as a query, snapshots of them, and what the journal alone says."""

from collections.abc import Iterator
from dataclasses import dataclass

from sqlalchemy import text
from sqlalchemy.orm import Session

from .bulk import copy_ids
from .membership import project_sizes

_ACTIVE = "g.leads_to IS NULL AND g.withdrawn_at IS NULL"
#: Every projection of a register: what it is called, and its rows. A row is there once.
PROJECTIONS = {
    "records": "SELECT id, state, version_id, delivered, fields, tidy FROM source_records WHERE register_id = :register_id",
    "words of records": """
        SELECT w.record_id, w.words FROM record_words w JOIN source_records s ON s.id = w.record_id WHERE s.register_id = :register_id
    """,
    "membership": """
        SELECT m.record_id, m.golden_id FROM golden_members m JOIN golden_records g ON g.id = m.golden_id WHERE g.register_id = :register_id
    """,
    "golden keys": "SELECT id, leads_to, withdrawn_at IS NULL, size FROM golden_records WHERE register_id = :register_id",
    "golden values": f"""
        SELECT id, values, sort_name, sources, contradictions FROM golden_records g WHERE register_id = :register_id AND {_ACTIVE}
    """,
    "words of golden records": f"""
        SELECT w.golden_id, w.words FROM golden_words w JOIN golden_records g ON g.id = w.golden_id
        WHERE g.register_id = :register_id AND {_ACTIVE}
    """,
    "decisions": "SELECT id, changed FROM decisions WHERE register_id = :register_id",
    "doubts": """
        SELECT d.left_id, d.right_id, d.one, d.other, d.kind, d.score, d.records, d.state, d.decision_id
        FROM doubts d JOIN runs r ON r.id = d.run_id AND r.state = 'standing' WHERE r.register_id = :register_id
    """,
    "counters": "SELECT records, golden, without_golden, waiting, put_off, kinds FROM counters WHERE register_id = :register_id",
    "references": """
        SELECT f.record_id, f.field, f.value, f.target_id, f.how FROM record_references f JOIN source_records s ON s.id = f.record_id
        WHERE s.register_id = :register_id AND s.state <> 'withdrawn'
    """,
}


@dataclass(frozen=True, slots=True)
class Difference:
    """How many rows of a projection are there that should not be, or are missing, when it is computed again."""

    projection: str
    rows: int
    example: str


def take_snapshots(session: Session, register_id: int) -> None:
    """Keep every projection as it is now."""
    for number, query in enumerate(PROJECTIONS.values()):
        session.execute(text(f"DROP TABLE IF EXISTS pg_temp.snapshot_{number}"))
        statement = f"CREATE TEMPORARY TABLE snapshot_{number} ON COMMIT DROP AS {query}"
        session.execute(text(statement), {"register_id": register_id})


def differences(session: Session, register_id: int) -> Iterator[Difference]:
    """Compare every projection with its snapshot."""
    for number, (name, query) in enumerate(PROJECTIONS.items()):
        compared = text(f"""
            WITH now AS ({query}), extra AS (SELECT * FROM now EXCEPT SELECT * FROM snapshot_{number}),
            missing AS (SELECT * FROM snapshot_{number} EXCEPT SELECT * FROM now),
            apart AS (SELECT 'should be ' || extra::text AS told FROM extra UNION ALL SELECT 'is ' || missing::text FROM missing)
            SELECT count(*), coalesce(left(min(told), 500), '') FROM apart
        """)
        rows, example = session.execute(compared, {"register_id": register_id}).one()
        if rows:
            yield Difference(name, rows, example)


def replay_membership(session: Session, register_id: int) -> None:
    """Make membership, sizes and where keys lead what all moves in the journal say, from nothing."""
    values = {"register_id": register_id}
    session.execute(
        text("DELETE FROM golden_members m USING golden_records g WHERE g.id = m.golden_id AND g.register_id = :register_id"), values
    )  # fmt: skip
    session.execute(
        text("""
            INSERT INTO golden_members (record_id, golden_id)
            SELECT record_id, to_golden FROM (
                SELECT DISTINCT ON (m.record_id) m.record_id, m.to_golden FROM moves m JOIN journal j ON j.id = m.journal_id
                WHERE j.chain = :register_id ORDER BY m.record_id, m.id DESC
            ) latest WHERE to_golden IS NOT NULL
        """),
        values,
    )
    every = session.scalars(text("SELECT id FROM golden_records WHERE register_id = :register_id"), values)
    copy_ids(session, "moved_golden", every)
    project_sizes(session, "moved_golden")


#: What the journal says of things that rows say too: query that gives a sentence per row that disagrees. Entries that were taken
#: over from earlier versions name no pins.
_BY_JOURNAL = (
    """
    SELECT 'delivery ' || d.id || ' is ' || d.status || ', the journal says ' || j.status
    FROM (
        SELECT DISTINCT ON (data->>'delivery') (data->>'delivery')::int AS delivery,
               CASE kind WHEN 'take back' THEN 'taken back' ELSE 'loaded' END AS status
        FROM journal WHERE chain = :register_id AND kind IN ('load', 'take back', 'put back') ORDER BY data->>'delivery', position DESC
    ) j JOIN deliveries d ON d.id = j.delivery WHERE d.status <> j.status
    """,
    """
    SELECT 'decision ' || d.id || ' is not as the journal says' FROM journal j JOIN decisions d ON d.id = (j.data->>'decision')::bigint
    WHERE j.chain = :register_id AND j.kind = 'decide' AND ((d.left_id, d.right_id, d.verdict, d.actor)
        <> ((j.data->>'left')::bigint, (j.data->>'right')::bigint, j.data->>'verdict', j.actor) OR (d.withdrawn_at IS NOT NULL)
        <> EXISTS (SELECT FROM journal w WHERE w.chain = :register_id AND w.kind = 'withdraw' AND w.data->'decision' = j.data->'decision'))
    """,
    """
    SELECT 'decision in entry ' || j.id || ' has no row' FROM journal j
    WHERE j.chain = :register_id AND j.kind = 'decide' AND NOT EXISTS (SELECT FROM decisions d WHERE d.id = (j.data->>'decision')::bigint)
    """,
    """
    SELECT 'decision about group ' || g.id || ' is not as the journal says' FROM journal j
    JOIN group_decisions g ON g.id = (j.data->>'group')::bigint
    WHERE j.chain = :register_id AND j.kind = 'decide group' AND ((g.verdict, g.actor) <> (j.data->>'verdict', j.actor)
        OR (SELECT count(*) FROM group_members m WHERE m.group_id = g.id)
            <> (SELECT sum(jsonb_array_length(side)) FROM jsonb_array_elements(j.data->'sides') side)
        OR (g.withdrawn_at IS NOT NULL) <> EXISTS (SELECT FROM journal w WHERE w.chain = :register_id AND w.position > j.position
            AND (w.kind = 'withdraw group' AND w.data->'group' = j.data->'group'
                OR w.kind = 'decide group' AND w.data->'gave_way' @> jsonb_build_array(j.data->'group') AND NOT EXISTS (
                    SELECT FROM journal b
                    WHERE b.chain = :register_id AND b.kind = 'withdraw group' AND b.data->'group' = w.data->'group'))))
    """,
    """
    SELECT 'decisions in entry ' || j.id || ' are not as the journal says' FROM journal j
    WHERE j.chain = :register_id AND j.kind = 'decide many'
    AND jsonb_array_length(j.data->'pairs') <> (
        SELECT count(*) FROM decisions d WHERE d.journal_id = j.id AND d.verdict = j.data->>'verdict' AND d.actor = j.actor)
    """,
    """
    SELECT 'pin ' || (j.data->>'pin') || ' is not as the journal says' FROM journal j
    LEFT JOIN pins p ON p.id = (j.data->>'pin')::bigint
    WHERE j.chain = :register_id AND j.kind = 'pin' AND j.data ? 'pin' AND (p.id IS NULL OR (p.lifted_at IS NULL) <> (
        NOT EXISTS (SELECT FROM journal l WHERE l.chain = :register_id AND l.kind = 'lift' AND l.data->'pin' = j.data->'pin')
        AND NOT EXISTS (SELECT FROM journal n WHERE n.chain = :register_id AND n.kind = 'pin' AND n.data->'golden' = j.data->'golden'
            AND n.data->'field' = j.data->'field' AND n.position > j.position)))
    """,
    """
    SELECT 'plan version ' || p.version || ' is in force, the journal says ' || (j.data->>'after') FROM (
        SELECT max(version) AS version FROM plans WHERE register_id = :register_id) p
    JOIN LATERAL (SELECT data FROM journal WHERE chain = :register_id AND kind = 'plan' ORDER BY position DESC LIMIT 1) j
        ON (j.data->>'after')::int <> p.version
    """,
    """
    SELECT 'the survivorship rules are not as the journal says' FROM registers r
    JOIN LATERAL (SELECT data FROM journal WHERE chain = :register_id AND kind = 'rules' ORDER BY position DESC LIMIT 1) j ON true
    JOIN LATERAL jsonb_each(j.data->'after') a ON r.rules->a.key IS DISTINCT FROM a.value AND r.rules ? a.key
    WHERE r.id = :register_id LIMIT 1
    """,
    """
    SELECT 'correction ' || (j.data->>'batch') || ' stands, the journal says it was taken back' FROM journal j
    JOIN journal u ON u.chain = j.chain AND u.kind = 'undo correction' AND u.data->'batch' = j.data->'batch'
    WHERE j.chain = :register_id AND j.kind = 'correct'
    AND EXISTS (SELECT FROM corrections c WHERE c.batch = (j.data->>'batch')::bigint AND c.withdrawn_at IS NULL)
    """,
)


def against_journal(session: Session, register_id: int) -> list[str]:
    """Return, in sentences, where rows are not as the journal says."""
    found: list[str] = []
    for query in _BY_JOURNAL:
        found += session.scalars(text(query), {"register_id": register_id}).all()
    return found


def latest_rule_results(session: Session, register_id: int) -> list[tuple[str, int, int]]:
    """Return (rule, source, failing) of the latest result of every rule and source."""
    rows = session.execute(
        text("""
            SELECT DISTINCT ON (rule, source_id) rule, source_id, failing FROM rule_results WHERE register_id = :register_id
            ORDER BY rule, source_id, id DESC
        """),
        {"register_id": register_id},
    )
    return [(row[0], row[1], row[2]) for row in rows]
