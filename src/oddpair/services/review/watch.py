"""Watching over the work in a register: what is decided, how long it takes, how people agree, what is overdue. No ranking of people."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from sqlalchemy.orm import Session

from ...core.errors import Refused
from ...core.evaluation import Agreement, agreement
from ...store import watch as store
from ...store.counters import counters_of
from ...store.registers import register_by_slug

#: Who was asked longer ago has let it lie.
LATE_AFTER = timedelta(days=7)


@dataclass(frozen=True, slots=True)
class Watch:
    """What was decided in so many days, by person and day; how long decisions took; how people agree about pairs that two of them judged;
    what waits for everybody, what is put off, what waits for whom, and what became of proposals."""

    days: list[store.Day]
    paces: list[store.Pace]
    agreement: Agreement
    waiting: int
    put_off: int
    asked: list[store.AskedPerson]
    proposals: list[store.ProposalCount]


def watch(session: Session, slug: str, *, days: int, zone: str, now: datetime) -> Watch:
    """Return how the work in a register goes, over the last so many days of a time zone; raise Refused where there is no such zone."""
    try:
        here = ZoneInfo(zone)
    except (ZoneInfoNotFoundError, ValueError, OSError) as error:
        raise Refused(f"'{zone}' is no time zone.") from error
    register = register_by_slug(session, slug)
    today = now.astimezone(here).replace(hour=0, minute=0, second=0, microsecond=0)
    since = today - timedelta(days=days - 1)
    counts = counters_of(session, register.id)
    return Watch(
        store.days(session, register.id, since, zone), store.paces(session, register.id, since),
        agreement(store.looked_again(session, register.id, since)), counts.waiting, counts.put_off,
        store.asked_people(session, register.id, now - LATE_AFTER), store.proposal_counts(session, register.id, since),
    )  # fmt: skip
