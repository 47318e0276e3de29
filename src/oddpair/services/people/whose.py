"""Of which register something is that an address names by its number alone."""

from collections.abc import Mapping

from sqlalchemy import Select, select
from sqlalchemy.orm import Session

from ...core.errors import NotFound
from ...store.tables import (
    Decision,
    Delivery,
    GroupDecision,
    Job,
    JournalEntry,
    Proposal,
    Register,
    RejectedRow,
    Schedule,
    Source,
    Turn,
)

#: What the numbers in addresses are called.
ID_OF: Mapping[str, str] = {
    "delivery_id": "delivery", "row_id": "rejected row", "turn_id": "turn", "decision_id": "decision", "group_id": "group decision",
    "entry_id": "journal entry", "job_id": "job", "proposal_id": "proposal",
}  # fmt: skip


#: PostgreSQL's bigint holds up to so many digits, whatever they are.
_MOST_DIGITS = 18


def slug_of(session: Session, name: str, number: str) -> str:
    """Return the short name of the register of what a part ``name`` of an address numbers; raise NotFound."""
    is_number = number.isascii() and number.isdecimal() and len(number) <= _MOST_DIGITS
    found = session.scalar(_query(name, int(number))) if is_number else None
    if found is None:
        raise NotFound(ID_OF[name], number)
    return found


def _query(name: str, number: int) -> Select[str]:
    query = select(Register.slug)
    match name:
        case "delivery_id":
            return query.join(Source).join(Delivery).where(Delivery.id == number)
        case "row_id":
            return query.join(Source).join(Delivery).join(RejectedRow).where(RejectedRow.id == number)
        case "turn_id":
            return query.join(Source).join(Schedule).join(Turn).where(Turn.id == number)
        case "decision_id":
            return query.join(Decision).where(Decision.id == number)
        case "group_id":
            return query.join(GroupDecision).where(GroupDecision.id == number)
        case "job_id":
            return query.join(Job).where(Job.id == number)
        case "proposal_id":
            return query.join(Proposal).where(Proposal.id == number)
        case "entry_id":
            return query.join(JournalEntry, JournalEntry.chain == Register.id).where(JournalEntry.id == number)
    raise ValueError(f"'{name}' numbers nothing")
