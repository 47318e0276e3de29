"""A steward's own pace: how long a decision takes, told from those of the last weeks."""

from dataclasses import dataclass
from itertools import pairwise
from statistics import median

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...store.registers import register_by_slug
from ...store.tables import Decision

#: Who has not decided enough yet is reckoned with this.
_USUAL_S = 20.0
_LATEST, _ENOUGH = 400, 20
#: Whoever does not decide for so long is doing something else; what comes quicker was decided in one step.
_SHORTEST_S, _LONGEST_S = 0.5, 300.0


@dataclass(frozen=True, slots=True)
class Pace:
    """Seconds per decision, the median of so many; of none where it is only what is usual."""

    seconds: float
    decisions: int


def pace_of(session: Session, slug: str, actor: str) -> Pace:
    """Return the pace of a person in a register: the median time between one decision and the next."""
    register = register_by_slug(session, slug)
    query = select(Decision.at).where(Decision.register_id == register.id, Decision.actor == actor)
    moments = sorted(session.scalars(query.order_by(Decision.id.desc()).limit(_LATEST)).all())
    gaps = [(later - earlier).total_seconds() for earlier, later in pairwise(moments)]
    usual = [gap for gap in gaps if _SHORTEST_S < gap < _LONGEST_S]
    return Pace(round(median(usual), 1), len(usual)) if len(usual) >= _ENOUGH else Pace(_USUAL_S, 0)
