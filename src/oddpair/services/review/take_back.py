"""Taking back one's latest act at the desk, whatever it was about: a pair, a group of records, or many pairs in one step."""

from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.errors import Refused
from ...store.decisions import latest_standing, sides_of
from ...store.proposals import latest_waiting
from ...store.registers import register_by_slug
from ...store.tables import Decision, Proposal
from ..proposals.gate import end_proposal
from .bulk import is_many, take_back_many
from .decide import withdraw
from .groups import withdraw_group


@dataclass(frozen=True, slots=True)
class TakenBack:
    """What was taken back: the verdict, of how many pairs or groups, and two of the records."""

    what: str
    verdict: str
    count: int
    left_id: int
    right_id: int


#: Acts that somebody does at the desk.
_AT_THE_DESK = ("decide", "decide group", "decide many")


def _withdrawn(session: Session, proposal: Proposal, actor: str) -> TakenBack:
    asked = proposal.arguments
    end_proposal(session, proposal, "withdrawn", actor=actor, reason="Taken back at the desk")
    if proposal.act == "decide group":
        records = sorted(record for side in asked["sides"] for record in side)
        return TakenBack("cluster", asked["verdict"], 1, records[0], records[-1])
    what = "pair" if proposal.act == "decide" else "many"
    count = 1 if what == "pair" else int(next(line["will"] for line in proposal.shows if line["what"] == "Pairs"))
    return TakenBack(what, asked["verdict"], count, asked["left_id"], asked["right_id"])


def take_back_latest(session: Session, slug: str, *, actor: str) -> TakenBack:
    """Take back a person's latest decision in a register that stands, or waits for sign-off; raise Refused if there is none."""
    register = register_by_slug(session, slug)
    latest = latest_standing(session, register.id, actor)
    proposed = latest_waiting(session, register.id, actor, _AT_THE_DESK)
    if proposed and (latest is None or latest.at < proposed.proposed_at):
        return _withdrawn(session, proposed, actor)
    if latest is None:
        raise Refused("There is no decision of yours to take back.")
    if isinstance(latest, Decision):
        entry = latest.journal_id
        if entry is not None and is_many(session, entry):
            count = take_back_many(session, entry, actor=actor)
            return TakenBack("many", latest.verdict, count, latest.left_id, latest.right_id)
        withdraw(session, latest.id, actor=actor)
        return TakenBack("pair", latest.verdict, 1, latest.left_id, latest.right_id)
    withdraw_group(session, latest.id, actor=actor)
    records = sorted(record for side in sides_of(session, latest.id) for record in side)
    return TakenBack("cluster", latest.verdict, 1, records[0], records[-1])
