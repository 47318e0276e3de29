"""Second looks at decided pairs."""

from sqlalchemy import select, text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from .decisions import decision_of_pair
from .tables import Decision, SecondLook

#: Of so many latest decisions one is drawn; one's own only from behind as many, so that the pair is not remembered.
_RECENT, _OWN_BEHIND = 2_000, 20


def draw(session: Session, register_id: int, actor: str) -> Decision | None:
    """Return a decided pair that a person has not looked at again, drawn at random of the latest, or None."""
    drawn = session.scalar(
        text("""
            WITH latest AS (
                SELECT d.id, d.actor, d.left_id, d.right_id, row_number() OVER (PARTITION BY d.actor ORDER BY d.id DESC) AS back
                FROM (SELECT * FROM decisions WHERE register_id = :register_id ORDER BY id DESC LIMIT :recent) d
                WHERE d.withdrawn_at IS NULL AND d.verdict <> 'later' AND d.changed IS NULL
            )
            SELECT l.id FROM latest l
            JOIN source_records a ON a.id = l.left_id AND a.state <> 'withdrawn'
            JOIN source_records b ON b.id = l.right_id AND b.state <> 'withdrawn'
            WHERE (l.actor <> :actor OR l.back > :behind)
                AND NOT EXISTS (SELECT FROM second_looks s WHERE s.decision_id = l.id AND s.actor = :actor)
            ORDER BY random() LIMIT 1
        """),
        {"register_id": register_id, "recent": _RECENT, "behind": _OWN_BEHIND, "actor": actor},
    )
    return session.get(Decision, drawn) if drawn is not None else None


def standing(session: Session, register_id: int, left_id: int, right_id: int) -> Decision | None:
    """Return the decision of a pair that stands and is no *later*, or None."""
    found = decision_of_pair(session, left_id, right_id)
    return found if found is not None and found.register_id == register_id and found.verdict != "later" else None


def write(session: Session, register_id: int, decision_id: int, verdict: str, actor: str) -> SecondLook:
    """Keep a second look; one of the same person at the same decision is replaced."""
    statement = insert(SecondLook).values(
        register_id=register_id, decision_id=decision_id, verdict=verdict, actor=actor
    )
    again = statement.on_conflict_do_update(
        index_elements=["decision_id", "actor"], set_={"verdict": verdict, "at": text("now()")}
    )
    return session.execute(again.returning(SecondLook)).scalar_one()


def judged(session: Session, register_id: int, actor: str) -> list[tuple[str, str, bool]]:
    """Return (first verdict, verdict of the second look, whether both are one person's) of what a person judged first or again."""
    rows = session.execute(
        select(Decision.verdict, SecondLook.verdict, Decision.actor == SecondLook.actor)
        .join(SecondLook, SecondLook.decision_id == Decision.id)
        .where(SecondLook.register_id == register_id, (SecondLook.actor == actor) | (Decision.actor == actor))
    )
    return [(row[0], row[1], row[2]) for row in rows]


def disagreeing(session: Session, register_id: int, limit: int) -> list[tuple[Decision, SecondLook]]:
    """Return standing decisions that a second look disagrees with, newest look first."""
    query = (
        select(Decision, SecondLook)
        .join(SecondLook, SecondLook.decision_id == Decision.id)
        .where(
            SecondLook.register_id == register_id,
            Decision.withdrawn_at.is_(None),
            Decision.verdict != SecondLook.verdict,
        )
        .order_by(SecondLook.id.desc())
        .limit(limit)
    )
    return [(row[0], row[1]) for row in session.execute(query)]
