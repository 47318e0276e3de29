"""What people keep under a name: views of the list of golden records and of the queue, and send-outs."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...store import journal
from ...store.locks import lock_settings
from ...store.registers import register_by_slug
from ...store.send_out import settled_until
from ...store.tables import Saved

VIEW, SEND_OUT, QUEUE = "view", "send-out", "queue"
_MOST = 200


def saved_of(session: Session, slug: str, kind: str) -> Sequence[Saved]:
    """Return what is kept of a kind, by name."""
    register = register_by_slug(session, slug)
    query = select(Saved).where(Saved.register_id == register.id, Saved.kind == kind)
    return session.scalars(query.order_by(Saved.name)).all()


def saved_by_name(session: Session, slug: str, kind: str, name: str) -> Saved:
    """Return what is kept under a name; raise NotFound."""
    register = register_by_slug(session, slug)
    query = select(Saved).where(Saved.register_id == register.id, Saved.kind == kind, Saved.name == name)
    found = session.scalar(query)
    if found is None:
        raise NotFound(f"saved {kind}", name)
    return found


def save(session: Session, slug: str, kind: str, name: str, content: Mapping[str, Any], *, actor: str) -> Saved:
    """Keep something under a name; what was kept under it before is replaced."""
    register = lock_settings(session, register_by_slug(session, slug).id)
    name = " ".join(name.split())
    if not name:
        raise Refused("What is saved needs a name.")
    present = {item.name: item for item in saved_of(session, slug, kind)}
    if name not in present and len(present) >= _MOST:
        raise Refused(f"There are {_MOST} of them already; remove one first.")
    item = present.get(name) or Saved(register_id=register.id, kind=kind, name=name, content={}, actor=actor)
    item.content, item.actor = dict(content), actor
    session.add(item)
    session.flush()
    return item


def forget(session: Session, slug: str, kind: str, name: str) -> None:
    """Remove what is kept under a name."""
    session.delete(saved_by_name(session, slug, kind, name))
    session.flush()


def begin_send_out(session: Session, slug: str, name: str, *, actor: str) -> tuple[Saved, datetime | None]:
    """Note that a saved send-out runs now; return it, and up to when its run before this one had seen everything."""
    register = register_by_slug(session, slug)
    item = saved_by_name(session, slug, SEND_OUT, name)
    since, item.last_at = item.last_at, settled_until(session)
    journal.append(
        session, register.id, "send out", actor=actor, data={"saved": item.id, "table": item.content.get("table")},
        personal={"summary": f"Sent out '{item.name}'"},
    )  # fmt: skip
    return item, since
