"""Proposals that can no longer be carried out, found without anybody looking: they end by themselves and say why."""

from contextlib import suppress

from sqlalchemy.orm import Session

from ...core.errors import OddPairError
from ...store import journal
from ...store import proposals as store
from ...store.registers import all_registers
from ..proposals.gate import end_proposal
from ..transactions import SessionFactory, transaction
from .acts import ACTS, OF_ALL, SLOW
from .signing import CannotBeDone, carry_out

#: So many of a register are looked at in a round: a fraction of a second.
_AT_ONCE = 40
#: Under which name it stands in the journal.
SWEEPER = "Odd Pair"


class _Tried(Exception):
    """Ends a trial, so that nothing of it is kept."""


def sweep(sessions: SessionFactory) -> int:
    """Try whether what waits could still be carried out, where the register has changed since that was last made sure; return how many
    proposals ended."""
    quick = sorted(set(ACTS) - SLOW)
    with transaction(sessions) as session:
        due = [
            (number, position)
            for register in all_registers(session) if register.sign_off is not None
            for position in [journal.latest_position(session, register.id)]
            for number in store.waiting_to_look_at(session, register.id, position, quick, of_all=OF_ALL, limit=_AT_ONCE)
        ]  # fmt: skip
    return sum(_looked_at(sessions, number, position) for number, position in due)


def _looked_at(sessions: SessionFactory, number: int, position: int) -> bool:
    """Try one proposal; return whether it ended. What is busy is tried in the next round."""
    reason = ""
    try:
        with transaction(sessions, patience_s=0.2) as session:
            _try(session, number)
    except _Tried:
        pass
    except CannotBeDone as error:
        reason = str(error)
    except OddPairError:
        return False
    ended = False
    with suppress(OddPairError), transaction(sessions) as session:
        proposal = store.locked(session, number)
        proposal.looked_at = position
        if reason and proposal.state == store.WAITING:
            end_proposal(session, proposal, "overtaken", actor=SWEEPER, reason=reason)
            ended = True
    return ended


def _try(session: Session, number: int) -> None:
    proposal = store.locked(session, number)
    if proposal.state == store.WAITING:
        carry_out(session, proposal, actor=SWEEPER, signatures=[])
    raise _Tried
