"""What came of the records of deliveries that were recognised."""

from collections.abc import Sequence

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from .tables import Delivery, DeliveryOutcome, Source, SourceRecord

#: What came of a record, until it is known where it went.
NEW = "new"
#: Records that refer to something that is not there; they count under their outcome as well.
WITHOUT_PARENT = "without a parent"


def deliveries_to_recognise(session: Session, register_id: int) -> list[Delivery]:
    """Return the loaded deliveries of whose records nobody has told yet what came of them, oldest first."""
    query = select(Delivery).join(Source, Source.id == Delivery.source_id).where(
        Source.register_id == register_id, Delivery.status == "loaded", Delivery.outcomes == {},
    )  # fmt: skip
    return list(session.scalars(query.order_by(Delivery.id)))


_BEGIN = """
    INSERT INTO delivery_outcomes (delivery_id, record_id, outcome, golden_id, fields)
    SELECT r.delivery_id, r.record_id, CASE
        WHEN r.version_id IS NULL THEN 'ended'
        WHEN m.golden_id IS NULL THEN 'new'
        WHEN v.delivery_id = r.delivery_id THEN 'updated' ELSE 'unchanged' END,
        m.golden_id, coalesce(CASE WHEN v.delivery_id = r.delivery_id THEN (
            SELECT array_agg(f.key ORDER BY f.key) FROM (
                SELECT key FROM jsonb_each_text(v.fields) UNION SELECT key FROM jsonb_each_text(w.fields)
            ) f WHERE coalesce(v.fields->>f.key, '') <> coalesce(w.fields->>f.key, '')
        ) END, '{}')
    FROM delivery_records r
    JOIN source_records s ON s.id = r.record_id AND s.state <> 'withdrawn'
    LEFT JOIN golden_members m ON m.record_id = r.record_id
    LEFT JOIN record_versions v ON v.id = r.version_id
    LEFT JOIN LATERAL (
        SELECT fields FROM record_versions w WHERE w.record_id = r.record_id AND w.id < v.id ORDER BY w.id DESC LIMIT 1
    ) w ON m.golden_id IS NOT NULL AND v.delivery_id = r.delivery_id
    WHERE r.delivery_id = :delivery_id
    ON CONFLICT DO NOTHING
"""
#: New records are told apart by all at once: joining one by one, the server would look through all doubts for each.
_END = """
    WITH fresh AS MATERIALIZED (
        SELECT o.delivery_id, o.record_id, m.golden_id, c.cluster, d.loaded_at FROM delivery_outcomes o
        JOIN deliveries d ON d.id = o.delivery_id
        JOIN golden_members m ON m.record_id = o.record_id
        LEFT JOIN run_clusters c ON c.run_id = :run_id AND c.record_id = o.record_id
        WHERE o.delivery_id = ANY(:deliveries) AND o.outcome = 'new'
    ),
    in_doubt AS MATERIALIZED (
        SELECT d.one AS cluster FROM doubts d WHERE d.run_id = :run_id AND d.what = 'pair' AND d.state <> 'decided'
        UNION SELECT d.other FROM doubts d WHERE d.run_id = :run_id AND d.what = 'pair' AND d.state <> 'decided'
    )
    UPDATE delivery_outcomes o SET golden_id = f.golden_id, outcome = CASE
        WHEN g.created_at < f.loaded_at THEN 'recognised' WHEN i.cluster IS NOT NULL THEN 'doubtful' ELSE 'added' END
    FROM fresh f
    JOIN golden_records g ON g.id = f.golden_id
    LEFT JOIN in_doubt i ON i.cluster = f.cluster
    WHERE o.delivery_id = f.delivery_id AND o.record_id = f.record_id
"""


def begin_outcomes(session: Session, delivery_id: int) -> None:
    """Write down what is known of the records of a delivery before its new ones find their place."""
    session.flush()
    session.execute(text(_BEGIN), {"delivery_id": delivery_id})


#: What is still new after a merge belongs to no golden record, since its source may not create one; told is where it is known already.
_REFUSED = """
    UPDATE delivery_outcomes o SET outcome = 'refused', golden_id = (
        SELECT m.golden_id FROM run_clusters c JOIN run_clusters k ON k.run_id = c.run_id AND k.cluster = c.cluster
        JOIN golden_members m ON m.record_id = k.record_id
        WHERE c.run_id = :run_id AND c.record_id = o.record_id ORDER BY m.golden_id LIMIT 1
    )
    FROM source_records s JOIN sources u ON u.id = s.source_id JOIN registers r ON r.id = s.register_id
    WHERE o.delivery_id = ANY(:deliveries) AND o.outcome = 'new' AND s.id = o.record_id AND (u.creates <> 'always' OR r.parents = 'aside'
        AND EXISTS (SELECT FROM record_references f WHERE f.record_id = s.id AND f.target_id IS NULL))
"""


def end_outcomes(session: Session, deliveries: Sequence[int], run_id: int) -> None:
    """Write down where the new records of deliveries went."""
    session.execute(text("ANALYZE delivery_outcomes"))
    for query in (_END, _REFUSED):
        session.execute(text(query), {"deliveries": list(deliveries), "run_id": run_id})


def count_outcomes(session: Session, delivery_id: int) -> dict[str, int]:
    """Return how many records of a delivery came out how."""
    query = text(
        "SELECT outcome, count(*) FROM delivery_outcomes WHERE delivery_id = :delivery_id GROUP BY 1 ORDER BY 1"
    )
    return {row[0]: int(row[1]) for row in session.execute(query, {"delivery_id": delivery_id})}


def without_parent(session: Session, delivery_id: int) -> int:
    """Return how many records of a delivery refer to something that is not there."""
    query = text("""
        SELECT count(DISTINCT o.record_id) FROM delivery_outcomes o
        JOIN record_references f ON f.record_id = o.record_id AND f.target_id IS NULL WHERE o.delivery_id = :delivery_id
    """)
    return int(session.execute(query, {"delivery_id": delivery_id}).scalar_one())


def records_of_outcome(
    session: Session, delivery_id: int, outcome: str, after: int, limit: int
) -> Sequence[tuple[DeliveryOutcome, SourceRecord]]:
    """Return a page of the records of a delivery that came out in one way, by record; those beyond the record ``after``."""
    query = select(DeliveryOutcome, SourceRecord).join(SourceRecord, SourceRecord.id == DeliveryOutcome.record_id).where(
        DeliveryOutcome.delivery_id == delivery_id, DeliveryOutcome.outcome == outcome, DeliveryOutcome.record_id > after
    )  # fmt: skip
    return [(row[0], row[1]) for row in session.execute(query.order_by(DeliveryOutcome.record_id).limit(limit))]


def changed_fields(session: Session, delivery_id: int) -> dict[str, int]:
    """Return in how many updated records of a delivery each field changed, most often first."""
    query = text("""
        SELECT f, count(*) FROM delivery_outcomes, unnest(fields) f WHERE delivery_id = :delivery_id AND outcome = 'updated'
        GROUP BY 1 ORDER BY 2 DESC, 1
    """)
    return {row[0]: int(row[1]) for row in session.execute(query, {"delivery_id": delivery_id})}
