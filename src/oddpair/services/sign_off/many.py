"""Many proposals signed in one step: shown, counted and sampled first."""

from dataclasses import dataclass
from random import Random

from sqlalchemy.orm import Session

from ...core.errors import Conflict, NotAllowed, Refused
from ...store import proposals as store
from ...store.proposals import ProposalFilter
from ...store.registers import register_by_slug
from ...store.sealing import digest_of
from ..transactions import SessionFactory, transaction
from .listing import Shown, shown_to
from .signing import sign

#: So many are signed in one step at most: more than a person can answer for.
MOST = 1_000
_SAMPLE = 12


@dataclass(frozen=True, slots=True)
class Many:
    """The proposals of a filter that this person may sign: how many, how many of the others they may not, some drawn at random, and the
    name of the set."""

    count: int
    not_yours: int
    sample: list[Shown]
    seen: str


@dataclass(frozen=True, slots=True)
class SignedMany:
    """What came of signing many: how many were carried out, wait for a further yes, or were overtaken, with the reasons."""

    carried_out: int
    waiting: int
    overtaken: list[str]


def many(session: Session, slug: str, only: ProposalFilter, *, actor: str, seed: int = 0) -> Many:
    """Return the set of proposals that a person would sign in one step."""
    found, not_yours = _set(session, slug, only, actor)
    return Many(len(found), not_yours, Random(seed).sample(found, min(_SAMPLE, len(found))), _name_of(found))


def _set(session: Session, slug: str, only: ProposalFilter, actor: str) -> tuple[list[Shown], int]:
    register = register_by_slug(session, slug)
    found = store.proposals(session, register.id, only, limit=MOST + 1)
    if len(found) > MOST:
        raise Refused(f"More than {MOST} proposals: too many to answer for in one step.")
    shown = shown_to(session, found, actor)
    yours = [one for one in shown if not one.why_not_you]
    return yours, len(shown) - len(yours)


def _name_of(found: list[Shown]) -> str:
    return digest_of([(one.id, len(one.signatures)) for one in found])[:16]


def sign_many(
    sessions: SessionFactory, slug: str, only: ProposalFilter, *, seen: str, remark: str, actor: str, patience_s: float
) -> SignedMany:
    """Sign all proposals of a filter; raise Conflict if the set is another than was ``seen``. Each is a transaction of its own, so one that
    was overtaken holds up no other."""
    with transaction(sessions) as session:
        found, _ = _set(session, slug, only, actor)
    if not found:
        raise NotAllowed("None of these is yours to sign.")
    if _name_of(found) != seen:
        raise Conflict(f"There are {len(found)} such proposals now, others than you saw. Look again.")
    states, overtaken = {"carried out": 0, "waiting": 0}, []
    for proposal in found:
        try:
            signed = sign(sessions, proposal.id, actor=actor, remark=remark, patience_s=patience_s)
        except (Refused, NotAllowed) as error:
            overtaken.append(f"{proposal.summary}: {error}")
            continue
        if signed.state in states:
            states[signed.state] += 1
        else:
            overtaken.append(f"{proposal.summary}: {signed.reason}")
    return SignedMany(states["carried out"], states["waiting"], overtaken)
