"""Deliveries and the rows they set aside."""

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.errors import NotFound
from .tables import Delivery, Register, RejectedRow, Source


def delivery_by_id(session: Session, delivery_id: int) -> Delivery:
    """Return the delivery; raise NotFound."""
    delivery = session.get(Delivery, delivery_id)
    if delivery is None:
        raise NotFound("delivery", delivery_id)
    return delivery


def register_of(session: Session, delivery: Delivery) -> Register:
    """Return the register that a delivery belongs to."""
    return session.get_one(Register, session.get_one(Source, delivery.source_id).register_id)


def delivery_in(session: Session, slug: str, delivery_id: int) -> Delivery:
    """Return the delivery; raise NotFound if there is none in the register."""
    delivery = delivery_by_id(session, delivery_id)
    if register_of(session, delivery).slug != slug:
        raise NotFound("delivery", delivery_id)
    return delivery


def deliveries_of(session: Session, register_id: int) -> Sequence[tuple[Delivery, Source]]:
    """Return the register's deliveries with their sources, newest first."""
    query = select(Delivery, Source).join(Source).where(Source.register_id == register_id).order_by(Delivery.id.desc())
    return [(delivery, source) for delivery, source in session.execute(query)]


def rejected_rows(
    session: Session, delivery_id: int, *, offset: int = 0, limit: int | None = None
) -> Sequence[RejectedRow]:
    """Return the rows set aside, in the order of the file."""
    query = select(RejectedRow).where(RejectedRow.delivery_id == delivery_id)
    return session.scalars(query.order_by(RejectedRow.row_number, RejectedRow.id).offset(offset).limit(limit)).all()


def count_rejected(session: Session, delivery_id: int) -> tuple[int, int]:
    """Return how many rows were set aside, and how many of them were not mended yet."""
    query = select(func.count(), func.count().filter(RejectedRow.mended_at.is_(None)))
    total, waiting = session.execute(query.where(RejectedRow.delivery_id == delivery_id)).one()
    return total, waiting
