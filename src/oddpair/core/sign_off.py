"""Which acts need a second person's yes, how many, and who may give it. The policy of a register says so."""

import hmac
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from hashlib import sha256
from typing import Any

from .errors import Refused

#: More levels than anybody would wait for.
MOST_LEVELS = 5
_LARGEST = 1_000_000


class Matter(StrEnum):
    """What an act is about, as far as policies tell it apart."""

    DECISION = "decision"
    MERGE = "merge"
    MEMBERSHIP = "membership"
    VALUE = "value"
    DELETION = "deletion"
    PLAN = "plan"
    POLICY = "policy"
    FORGETTING = "forgetting"


@dataclass(frozen=True, slots=True)
class Facts:
    """What is known of an act: what it is about, which ``field`` it changes, how many ``records`` one golden record would hold by it,
    whether it does ``many`` things in one step, and the ``subject`` by which it is drawn where only a share is looked at."""

    matter: Matter
    subject: str
    field: str = ""
    records: int = 0
    many: bool = False


@dataclass(frozen=True, slots=True)
class Policy:
    """What needs a second yes: ``everything``; golden records of more than ``merges_over`` records; values of ``fields``; ``bulk`` steps;
    ``deletions``; ``plans`` and rules; a ``share`` (0 to 1) of the rest, drawn by ``salt``. ``levels`` has for each yes, in order, the
    people who may give it; an empty level is for everybody who signs off in the register."""

    everything: bool = False
    merges_over: int | None = None
    fields: tuple[str, ...] = ()
    bulk: bool = False
    deletions: bool = False
    plans: bool = False
    share: float = 0.0
    levels: tuple[tuple[str, ...], ...] = field(default=((),))
    salt: str = ""

    @property
    def any(self) -> bool:
        """Whether anything needs a second yes."""
        return bool(
            self.everything or self.merges_over is not None or self.fields or self.bulk or self.deletions or self.plans
            or self.share
        )  # fmt: skip

    def why(self, facts: Facts) -> str:
        """Return for what reason an act needs a second yes, "" where it needs none; to erase what is kept of a person always does."""
        reasons = (
            (facts.matter is Matter.FORGETTING, "what is erased cannot be brought back"),
            (self.everything, "everything needs a second yes"),
            (facts.matter is Matter.POLICY and self.any, "what needs a second yes is not changed without one"),
            (self.merges_over is not None and facts.records > self.merges_over,
             f"a golden record of more than {self.merges_over} records"),
            (bool(facts.field) and facts.field in self.fields, "the field is protected"),
            (self.bulk and facts.many, "many at once"),
            (self.deletions and facts.matter is Matter.DELETION, "something is taken away"),
            (self.plans and facts.matter is Matter.PLAN, "a plan or rules go in force"),
            (facts.matter not in (Matter.MERGE, Matter.POLICY) and self._drawn(facts.subject),
             f"drawn: {self.share:.0%} of the rest are looked at"),
        )  # fmt: skip
        return next((reason for applies, reason in reasons if applies), "")

    def _drawn(self, subject: str) -> bool:
        """Whether a subject is in the share. The same subject is always drawn alike, so trying again does not get round it."""
        if self.share <= 0:
            return False
        drawn = hmac.new(self.salt.encode(), subject.encode(), sha256).digest()
        return int.from_bytes(drawn[:8], "big") < self.share * 2.0**64

    def last_level(self, level: int) -> bool:
        """Whether a yes on this level (from 0) is the last one that is needed."""
        return level + 1 >= len(self.levels)


def may_sign(levels: Sequence[Sequence[str]], level: int, person: str, involved: Sequence[str]) -> str:
    """Return why a person may not sign off on a level (from 0), "" if they may.

    ``involved`` are the one who proposed and those who signed on earlier levels: nobody signs off their own, nor twice.
    """
    if person in involved:
        return "You proposed this yourself." if person == involved[0] else "You signed this off before; another has to."
    named = levels[level] if level < len(levels) else ()
    return f"This yes is for {' or '.join(named)} to give." if named and person not in named else ""


def policy_from(document: Mapping[str, Any], known_fields: Sequence[str]) -> Policy:
    """Return the policy that a document describes; raise Refused naming what is wrong. Fields that the layout lost are left out."""
    share, over = float(document.get("share") or 0), document.get("merges_over")
    if not 0 <= share <= 1:
        raise Refused("The share that is looked at lies between 0 and 1.")
    if over is not None and not 1 <= int(over) <= _LARGEST:
        raise Refused(f"A golden record from which on a second yes is needed has 1 to {_LARGEST} records.")
    levels = tuple(tuple(sorted(set(level))) for level in document.get("levels") or [[]])
    if len(levels) > MOST_LEVELS:
        raise Refused(f"At most {MOST_LEVELS} people sign something off.")
    return Policy(
        bool(document.get("everything")), None if over is None else int(over),
        tuple(name for name in known_fields if name in set(document.get("fields") or ())), bool(document.get("bulk")),
        bool(document.get("deletions")), bool(document.get("plans")), share, levels, str(document.get("salt") or ""),
    )  # fmt: skip


def policy_document(policy: Policy) -> dict[str, Any]:
    """Return a policy as it is kept; ``policy_from`` reads it again."""
    return {
        "everything": policy.everything, "merges_over": policy.merges_over, "fields": list(policy.fields), "bulk": policy.bulk,
        "deletions": policy.deletions, "plans": policy.plans, "share": policy.share, "levels": [list(level) for level in policy.levels],
        "salt": policy.salt,
    }  # fmt: skip
