"""The start of the day: what waits, what came back and why, what looks wrong, what others ask."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from urllib.parse import quote

from sqlalchemy.orm import Session

from ..core.rights import Permission
from ..store import proposals
from ..store import today as store
from ..store.registers import all_registers
from .findings import plans as finding_plans
from .findings.run_plan import OPEN
from .review import contradictions, queue, second_looks
from .review.work_given import Piece, own_pieces
from .standing.schedules import TurnShown, held_turns
from .state.layouts import layout_of
from .state.rule_results import rules_of

#: Deliveries of so many days are looked at; a rule fell if so much of a source's records hold it no more.
_LOOKED_AT, _FELL = timedelta(days=30), 0.05
_MOST_ASKED, _MOST_KINDS = 20, 4


@dataclass(frozen=True, slots=True)
class Waiting:
    """The most frequent kinds of doubt that wait in a register: (kind, in words, how many)."""

    slug: str
    register_name: str
    kinds: list[tuple[str, str, int]]
    more_kinds: int


@dataclass(frozen=True, slots=True)
class Wrong:
    """Something that looks wrong, in a sentence, and the address below the register that leads to it."""

    slug: str
    register_name: str
    says: str
    leads_to: str


@dataclass(frozen=True, slots=True)
class ToSign:
    """How many proposals of a register wait for a yes of this person."""

    slug: str
    register_name: str
    count: int


@dataclass(frozen=True, slots=True)
class SentBack:
    """What was sent back to this person, by whom and why, and the address below the register that leads to it."""

    id: int
    slug: str
    register_name: str
    summary: str
    sent_by: str
    reason: str


@dataclass(frozen=True, slots=True)
class OwnWork:
    """A piece of work of this person in which something waits: what it is of, how much waits, until when."""

    slug: str
    register_name: str
    piece: Piece


@dataclass(frozen=True, slots=True)
class Today:
    """All that a person begins the day with."""

    waiting: list[Waiting]
    came_back: list[store.CameBack]
    asked: list[store.AskedOf]
    wrong: list[Wrong]
    held: list[TurnShown]
    to_sign: list[ToSign]
    sent_back: list[SentBack]
    work: list[OwnWork]


def _anything(permission: Permission, slug: str) -> bool:
    return True


def today(session: Session, *, actor: str, may: Callable[[Permission, str], bool] = _anything) -> Today:
    """Return what waits for a person, in the registers in which they ``may`` see it, or sign it off."""

    def may_see(slug: str) -> bool:
        return may(Permission.SEE, slug)

    registers = [register for register in all_registers(session) if may_see(register.slug)]
    waiting: list[Waiting] = []
    wrong: list[Wrong] = []
    for register in registers:
        kinds = queue.kinds(session, register.slug)
        if kinds:
            waiting.append(Waiting(register.slug, register.name, kinds[:_MOST_KINDS], max(len(kinds) - _MOST_KINDS, 0)))
        found = len(contradictions.latest_contradictions(session, register.id))
        found += len(second_looks.disagreements(session, register.slug))
        if found:
            says = f"{found} decision{'s' if found > 1 else ''} contradict{'' if found > 1 else 's'} what else was said"
            wrong.append(Wrong(register.slug, register.name, says, "review?contradictions=1"))
        for plan in finding_plans.plans(session, register.slug):
            still_open = (plan.counts or {}).get(OPEN, 0)
            if still_open:
                says = f"{plan.name}: {still_open} finding{'s are' if still_open > 1 else ' is'} open"
                wrong.append(Wrong(register.slug, register.name, says, f"findings/{quote(plan.name)}?state={OPEN}"))
    for delivery in store.odd_deliveries(session, datetime.now(UTC) - _LOOKED_AT):
        if not may_see(delivery.slug):
            continue
        says = f"{delivery.source} sent {delivery.rows} rows, usually about {delivery.usual}"
        wrong.append(Wrong(delivery.slug, delivery.register_name, says, f"bring-in/{delivery.delivery_id}"))
    titles = {
        (register.slug, rule.key): rule.words(layout_of(register))
        for register in registers
        for rule in rules_of(session, register)
    }
    for rule in store.fallen_rules(session, _FELL):
        title = titles.get((rule.slug, rule.rule))
        if title:
            says = f"{title}: holds for {rule.now:.0%} of {rule.source}'s records, before for {rule.before:.0%}"
            wrong.append(Wrong(rule.slug, rule.register_name, says, "tidy/rules"))
    came_back = [one for one in store.came_back(session) if may_see(one.slug)]
    asked = [one for one in store.asked_of(session, actor, _MOST_ASKED) if may_see(one.slug)]
    held = [one for one in held_turns(session) if may_see(one.slug)]
    returned = [
        SentBack(one.id, slug, name, one.summary, one.ended_by or "", one.reason)
        for one, slug, name in proposals.returned_to(session, actor, _MOST_ASKED)
    ]
    signing = {register.id: register for register in registers if may(Permission.SIGN_OFF, register.slug)}
    to_sign = [
        ToSign(signing[number].slug, signing[number].name, count)
        for number, count in sorted(proposals.to_sign(session, signing, actor).items())
    ]
    work = [
        OwnWork(register.slug, register.name, piece)
        for register in registers for piece in own_pieces(session, register, actor, datetime.now(UTC).date()) if piece.waiting
    ]  # fmt: skip
    return Today(waiting, came_back, asked, wrong, held, to_sign, returned, work)
