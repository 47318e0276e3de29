"""What a person begins the day with, over all registers."""

from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import text
from sqlalchemy.orm import Session

_STANDING = "JOIN runs r ON r.id = d.run_id AND r.state = 'standing' JOIN registers g ON g.id = r.register_id"


@dataclass(frozen=True, slots=True)
class CameBack:
    """Doubts that came back: because a day came (``kind`` is "day"), or because records changed ("changed")."""

    slug: str
    register_name: str
    kind: str
    count: int


def came_back(session: Session) -> list[CameBack]:
    """Return what came back to the desks, by register."""
    rows = session.execute(
        text(f"""
            SELECT g.slug, g.name, CASE WHEN d.decision_id IS NULL AND d.group_id IS NULL THEN 'day' ELSE 'changed' END AS why, count(*)
            FROM doubts d {_STANDING}
            WHERE d.state = 'open' AND (d.until IS NOT NULL OR d.kind = 'changed') GROUP BY 1, 2, 3 ORDER BY 2, 3
        """)
    )
    return [CameBack(*row) for row in rows]


@dataclass(frozen=True, slots=True)
class AskedOf:
    """A doubt that somebody asks a person about."""

    slug: str
    register_name: str
    what: str
    left_id: int
    right_id: int
    asked_by: str
    remark: str
    until: date | None
    at: datetime


def asked_of(session: Session, person: str, limit: int) -> list[AskedOf]:
    """Return what others ask a person, the latest first."""
    rows = session.execute(
        text(f"""
            SELECT g.slug, g.name, d.what, d.left_id, d.right_id, s.actor, s.remark, d.until, s.at FROM doubts d {_STANDING}
            JOIN LATERAL (
                SELECT o.actor, o.remark, o.at FROM decisions o WHERE d.what = 'pair' AND o.left_id = d.left_id AND o.right_id = d.right_id
                    AND o.asked = d.asked AND o.withdrawn_at IS NULL
                UNION ALL
                SELECT o.actor, o.remark, o.at FROM group_decisions o JOIN group_members m ON m.group_id = o.id AND m.record_id = d.left_id
                WHERE d.what = 'cluster' AND o.asked = d.asked AND o.withdrawn_at IS NULL
                ORDER BY 3 DESC LIMIT 1
            ) s ON true
            WHERE d.state = 'later' AND d.asked = :person ORDER BY s.at DESC LIMIT :limit
        """),
        {"person": person, "limit": limit},
    )
    return [AskedOf(*row) for row in rows]


@dataclass(frozen=True, slots=True)
class OddDelivery:
    """A loaded delivery with far fewer or more rows than its source usually sends."""

    slug: str
    register_name: str
    source: str
    delivery_id: int
    rows: int
    usual: int
    at: datetime


def odd_deliveries(session: Session, since: datetime) -> list[OddDelivery]:
    """Return full deliveries since a moment that hold less than half, or more than twice, the rows of the median of those before."""
    rows = session.execute(
        text("""
            WITH loaded AS (
                SELECT d.*, (SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY e.rows) FROM (
                    SELECT (e.counts->>'rows')::float8 AS rows FROM deliveries e
                    WHERE e.source_id = d.source_id AND e.status = 'loaded' AND e.delivers = 'full' AND e.id < d.id
                    ORDER BY e.id DESC LIMIT 10
                ) e) AS usual
                FROM deliveries d WHERE d.status = 'loaded' AND d.loaded_at >= :since AND d.delivers = 'full'
            )
            SELECT g.slug, g.name, s.name, l.id, (l.counts->>'rows')::int, round(l.usual)::int, l.loaded_at
            FROM loaded l JOIN sources s ON s.id = l.source_id JOIN registers g ON g.id = s.register_id
            WHERE l.usual >= 10 AND ((l.counts->>'rows')::float8 < l.usual / 2 OR (l.counts->>'rows')::float8 > l.usual * 2)
            ORDER BY l.loaded_at DESC LIMIT 20
        """),
        {"since": since},
    )
    return [OddDelivery(*row) for row in rows]


@dataclass(frozen=True, slots=True)
class FallenRule:
    """A quality rule of whose records far more fail in a source than before its last delivery."""

    slug: str
    register_name: str
    rule: str
    source: str
    before: float
    now: float


def fallen_rules(session: Session, least_fall: float) -> list[FallenRule]:
    """Return rules whose share of records that hold fell by ``least_fall`` and more with the latest result."""
    rows = session.execute(
        text("""
            WITH ranked AS (
                SELECT r.*, 1.0 - r.failing::float8 / greatest(r.records, 1) AS holds,
                       row_number() OVER (PARTITION BY r.register_id, r.rule, r.source_id ORDER BY r.id DESC) AS back
                FROM rule_results r
            )
            SELECT g.slug, g.name, n.rule, s.name, b.holds, n.holds FROM ranked n
            JOIN ranked b ON b.register_id = n.register_id AND b.rule = n.rule AND b.source_id = n.source_id AND b.back = 2
            JOIN registers g ON g.id = n.register_id JOIN sources s ON s.id = n.source_id
            WHERE n.back = 1 AND b.holds - n.holds >= :least ORDER BY b.holds - n.holds DESC LIMIT 20
        """),
        {"least": least_fall},
    )
    return [FallenRule(*row) for row in rows]
