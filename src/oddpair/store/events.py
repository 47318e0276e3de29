"""Events: given their places, read from a place on; and the web addresses that are told them."""

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import func, select, text, update
from sqlalchemy.orm import Session

from .tables import Event, Receiver, Register

_LOCK = text("SELECT pg_advisory_xact_lock(hashtext('odd-pair events'))")
#: What was noted of one golden record in one transaction becomes one event. Of a golden record that was made of records of another
#: one, the first step that moved records into it tells so.
_PLACE = text("""
    WITH taken AS (
        DELETE FROM event_inbox WHERE id IN (SELECT id FROM event_inbox ORDER BY id LIMIT :most) RETURNING *
    ), folded AS (
        SELECT min(id) AS first, register_id, golden_id, min(at) AS at,
            coalesce((array_agg(kind ORDER BY id DESC) FILTER (WHERE kind <> 'golden.changed'))[1], 'golden.changed') AS kind,
            array_agg(data ORDER BY id) AS noted
        FROM taken GROUP BY step, register_id, golden_id, CASE WHEN golden_id IS NULL THEN kind END
    ), whole AS (
        SELECT f.first, f.register_id, f.at, g.key, f.kind, f.noted[cardinality(f.noted)] AS data, t.key AS leads_to,
            coalesce(b.key, o.key) AS came_from,
            (SELECT coalesce(jsonb_agg(DISTINCT field ORDER BY field), '[]')
             FROM unnest(f.noted) n, jsonb_array_elements(coalesce(n->'fields', '[]')) field) AS fields
        FROM folded f LEFT JOIN golden_records g ON g.id = f.golden_id
        LEFT JOIN golden_records t ON t.id = (f.noted[cardinality(f.noted)]->>'leads_to')::bigint
        LEFT JOIN golden_records b ON b.id = (f.noted[cardinality(f.noted)]->>'came_from')::bigint
        LEFT JOIN LATERAL (
            SELECT k.key FROM moves m JOIN golden_records k ON k.id = m.from_golden
            WHERE f.kind = 'golden.added' AND m.to_golden = g.id
            AND m.journal_id = (SELECT min(journal_id) FROM moves WHERE to_golden = g.id) ORDER BY m.id LIMIT 1
        ) o ON true
    ), placed AS (
        INSERT INTO events (register_id, subject, kind, data, at)
        SELECT register_id, coalesce(key, left(data->>'source', 120), ''),
            CASE WHEN kind = 'golden.added' AND came_from IS NOT NULL THEN 'golden.split' ELSE kind END,
            CASE WHEN key IS NULL THEN data ELSE jsonb_strip_nulls(jsonb_build_object(
                'golden_key', key, 'records', data->'records', 'leads_to', leads_to, 'came_from', came_from,
                'fields', CASE WHEN kind = 'golden.changed' THEN fields END)) END, at
        FROM whole ORDER BY first RETURNING 1
    ) SELECT (SELECT count(*) FROM taken), (SELECT count(*) FROM placed)
""")


def place_noted(session: Session, most: int) -> int:
    """Give what was noted, up to so many notes, places among the events; return how many notes that were.

    Whoever places waits for whoever does so before. A note of a golden record is written after the one before it was committed, and has a
    higher number; so whatever is seen here goes by that number, and no later one can come before it.
    """
    session.execute(_LOCK)
    return int(session.execute(_PLACE, {"most": most}).one()[0])


def events_after(session: Session, register_id: int, position: int, limit: int) -> Sequence[Event]:
    """Return events of a register beyond a place, in their order."""
    query = select(Event).where(Event.register_id == register_id, Event.position > position)
    return session.scalars(query.order_by(Event.position).limit(limit)).all()


def last_position(session: Session) -> int:
    """Return the place of the latest event, 0 where there is none."""
    return session.scalar(select(func.coalesce(func.max(Event.position), 0))) or 0


def first_since(session: Session, register_id: int, since: datetime) -> int:
    """Return the place before the first event of a register at or after a moment; the latest place where there is none."""
    first = session.scalar(select(func.min(Event.position)).where(Event.register_id == register_id, Event.at >= since))
    return last_position(session) if first is None else first - 1


def receivers_of(session: Session, register_id: int) -> Sequence[Receiver]:
    """Return the addresses that are told what happens in a register."""
    return session.scalars(select(Receiver).where(Receiver.register_id == register_id).order_by(Receiver.id)).all()


def waiting_for(session: Session, receiver: Receiver) -> int:
    """Return how many events wait for a receiver, among the ten thousand that come next."""
    query = text("""
        SELECT count(*) FROM (
            SELECT kind FROM events WHERE register_id = :register_id AND position > :position ORDER BY position LIMIT 10000
        ) coming WHERE :kinds = '{}' OR kind = ANY(CAST(:kinds AS text[]))
    """)
    kinds = "{" + ",".join(receiver.kinds) + "}"
    values = {"register_id": receiver.register_id, "position": receiver.position, "kinds": kinds}
    return int(session.execute(query, values).scalar_one())


_LEASE = text("""
    UPDATE receivers SET leased_until = now() + make_interval(secs => :lease_s) WHERE id = (
        SELECT r.id FROM receivers r WHERE r.on AND r.next_at <= now() AND (r.leased_until IS NULL OR r.leased_until < now())
        AND EXISTS (SELECT FROM events e WHERE e.register_id = r.register_id AND e.position > r.position)
        ORDER BY r.next_at LIMIT 1 FOR UPDATE SKIP LOCKED
    ) RETURNING id
""")


def lease_receiver(session: Session, lease_s: float) -> tuple[Receiver, str] | None:
    """Take a receiver that something waits for, for so many seconds; return it with the short name of its register, or None."""
    found = session.scalar(_LEASE, {"lease_s": lease_s})
    if found is None:
        return None
    receiver = session.get_one(Receiver, found, populate_existing=True)
    return receiver, session.get_one(Register, receiver.register_id).slug


def note_told(session: Session, receiver_id: int, from_position: int, position: int) -> None:
    """Note that a receiver took everything up to a place, unless a person set its place anew meanwhile; and give it back."""
    given = update(Receiver).where(Receiver.id == receiver_id)
    session.execute(
        given.where(Receiver.position == from_position).values(
            position=position, failures=0, why="", failing_since=None, told_at=func.now(), next_at=func.now()
        )
    )
    session.execute(given.values(leased_until=None))


def note_failure(session: Session, receiver_id: int, why: str, pause_s: float) -> None:
    """Note what a try met, when the next one comes, and give the receiver back."""
    session.execute(
        update(Receiver)
        .where(Receiver.id == receiver_id)
        .values(
            failures=Receiver.failures + 1, why=why, failing_since=func.coalesce(Receiver.failing_since, func.now()),
            next_at=func.now() + func.make_interval(0, 0, 0, 0, 0, 0, pause_s), leased_until=None,
        )
    )  # fmt: skip
