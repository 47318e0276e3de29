"""What becomes of the work of somebody whose account ends: it waits for everybody again."""

from sqlalchemy.orm import Session

from ...store.decisions import asked_of_person
from ...store.leases import leave_all
from ...store.proposals import returned_to
from ..proposals.gate import leave_to_all
from ..review.decide import withdraw
from ..review.groups import withdraw_group
from ..review.work_given import hand_over

#: More than was ever sent back to somebody.
_EVERY = 100_000


def hand_back(session: Session, name: str, *, actor: str) -> int:
    """Let doubts about which a person was asked, what was sent back to them and the work that was theirs alone wait for everybody, and give
    back what lies before them; return how many were asked."""
    leave_all(session, name)
    hand_over(session, name, "", actor=actor)
    for proposal, _, _ in returned_to(session, name, _EVERY):
        leave_to_all(session, proposal)
    pairs, groups = asked_of_person(session, name)
    for decision_id in pairs:
        withdraw(session, decision_id, actor=actor)
    for group_id in groups:
        withdraw_group(session, group_id, actor=actor)
    return len(pairs) + len(groups)
