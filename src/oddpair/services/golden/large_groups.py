"""Merges that need a second yes: of everything, and golden records that would be larger than they may be without one."""

from collections.abc import Sequence

from sqlalchemy.orm import Session

from ...core.golden_keys import Change
from ...core.sign_off import Facts, Matter
from ...store import golden as store
from ...store import proposals
from ...store.tables import Register
from ..proposals.gate import Intent, Line, end_proposal, policy_of, propose
from ..state.words import counted, name_of
from .steps import merge_in_words

MERGE_GROUP = "merge group"
_MOST_NAMED = 40


def merge_intent(seen: str) -> Intent:
    """Return what merging all is, as one may have to sign it off."""
    facts = Facts(Matter.MERGE, "merge", many=True)
    return Intent(
        "merge", {"seen": seen}, facts, "Merge what is sure and decided into golden records", leads_to="golden/merge"
    )


def growing_over(change: Change, limit: int) -> list[tuple[int, ...]]:
    """Return the groups of more than ``limit`` records that a change would make, or add records to."""
    return [
        records for golden, records in change.after.items()
        if len(records) > limit and not set(records) <= set(change.before.get(golden, ()))
    ]  # fmt: skip


def without_large(session: Session, register: Register, changes: Sequence[Change], *, actor: str) -> list[Change]:
    """Return the changes that need no second yes; those that make golden records of more records than the policy allows are proposed."""
    limit = policy_of(register).merges_over if register.sign_off else None
    if limit is None:
        return list(changes)
    passing = []
    for change in changes:
        large = growing_over(change, limit)
        for records in large:
            _propose(session, register, change, records, actor)
        if not large:
            passing.append(change)
    return passing


def _propose(session: Session, register: Register, change: Change, records: tuple[int, ...], actor: str) -> None:
    subject = f"merge {records[0]}"
    known = proposals.about(session, register.id, subject, proposals.WAITING, proposals.SENT_BACK)
    if any(earlier.arguments["records"] == list(records) for earlier in known):
        return
    for earlier in known:
        end_proposal(session, earlier, "overtaken", actor=actor, reason="Other records belong together now")
    intent = group_intent(session, change, records)
    propose(session, register.id, intent, policy_of(register).why(intent.facts), actor=actor)


def group_intent(session: Session, change: Change, records: tuple[int, ...]) -> Intent:
    """Return what making a golden record of these records is, as one may have to sign it off."""
    keys = store.keys_of(session, [golden for golden in change.before if golden > 0])
    named = store.records_with_sources(session, records[:_MOST_NAMED])
    shows: list[Line] = [
        (keys[golden], counted(len(change.before[golden]), "record"), "") for golden in sorted(change.before)
    ]
    shows += [(f"{source.name} {record.source_key}", "", name_of(record.fields)) for record, source in named.values()]
    told = (
        f"{merge_in_words(change.before, change.after, keys)}: {counted(len(records), 'record')} in one golden record"
    )
    facts = Facts(Matter.MERGE, f"merge {records[0]}", records=len(records))
    return Intent(
        MERGE_GROUP, {"records": list(records)}, facts, told, shows, touches=[("golden", golden) for golden in sorted(change.before)],
        leads_to=f"review/cluster/{records[0]}",
    )  # fmt: skip
