"""Decisions about clusters as wholes: accepted, rejected, split into groups, put off."""

from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import Conflict, NotFound, Refused
from ...core.sign_off import Facts, Matter
from ...store import journal
from ...store.decisions import groups_about, sides_of
from ...store.golden import records_with_sources
from ...store.leases import end_lease
from ...store.locks import share_desk
from ...store.registers import register_by_slug
from ...store.sealing import digest_of
from ...store.tables import GroupDecision, Register, SourceRecord
from ..proposals.gate import Intent, ask_second_yes
from ..state.decisions import compared_fields, decide_group, settle, withdraw_decisions
from ..state.words import counted
from .decide import check_later
from .proposed import group_lines

#: More records than one can look through.
_MOST = 5_000


def decide_records(
    session: Session, slug: str, sides: Sequence[Sequence[int]], *, verdict: str, remark: str, actor: str, until: date | None = None,
    asked: str = "", desk: str = "", cluster: int = 0,
) -> GroupDecision:  # fmt: skip
    """Keep a decision about groups of records: all of them are the *same* (one group), those of different groups are *different*, or
    later. An earlier decision about the same records gives way; raise Conflict where one about others as well says otherwise.
    """
    register = register_by_slug(session, slug)
    check_later(verdict, until, asked)
    sides = [sorted(set(side)) for side in sides if side]
    records = _records(session, register, sides)
    if verdict == "different" and len(sides) < 2:
        raise Refused("Records are kept apart from others: name at least two groups.")
    if verdict != "different" and len(sides) != 1:
        raise Refused("What is the same, or put off, is one group of records.")
    share_desk(session, register.id)
    if cluster:
        end_lease(session, cluster, cluster, desk)
    gives_way = _giving_way(session, sides, verdict)
    # To put a cluster off decides nothing, unless it takes the place of what was decided.
    if verdict != "later" or any(one.verdict != "later" for one in gives_way):
        arguments = {
            "sides": sides, "verdict": verdict, "remark": remark, "cluster": cluster,
            "until": until.isoformat() if until else None, "asked": asked,
        }  # fmt: skip
        ask_second_yes(
            session, register, _intent("decide group", arguments, _in_words(verdict, sides), sides, cluster), actor=actor,
            shown=lambda: group_lines(session, register, sides, will=verdict, remark=remark),
        )  # fmt: skip
    withdraw_decisions(session, register.id, gives_way, actor=actor)
    entry_id = journal.reserve(session)
    group = decide_group(
        session, register, sides, verdict, actor=actor, remark=remark, journal_id=entry_id,
        fields=compared_fields(session, register), records=records, until=until, asked=asked,
    )  # fmt: skip
    settle(session, register.id, sorted(records))
    journal.append(
        session, register.id, "decide group", actor=actor, entry_id=entry_id,
        data={"group": group.id, "verdict": verdict, "sides": sides, "gave_way": [one.id for one in gives_way]},
        personal={"summary": _in_words(verdict, sides), "remark": remark},
        touches=[("record", record) for record in sorted(records)],
    )  # fmt: skip
    return group


def _intent(
    act: str, arguments: Mapping[str, Any], told: str, sides: Sequence[Sequence[int]], cluster: int = 0
) -> Intent:
    every = sorted(record for side in sides for record in side)
    facts = Facts(Matter.DECISION, f"records {digest_of(every)[:24]}")
    return Intent(
        act, arguments, facts, told, pairs=[(every[0], other) for other in every[1:]],
        touches=[("record", record) for record in every], leads_to=f"review/cluster/{cluster or every[0]}",
    )  # fmt: skip


def _in_words(verdict: str, sides: Sequence[Sequence[int]]) -> str:
    total = counted(sum(map(len, sides)), "record")
    if verdict == "different":
        return f"Kept {total} apart in {counted(len(sides), 'group')}"
    return f"Said that {total} are the same" if verdict == "same" else f"Put a cluster of {total} off"


def _records(session: Session, register: Register, sides: Sequence[Sequence[int]]) -> dict[int, SourceRecord]:
    wanted = [record for side in sides for record in side]
    if not 2 <= len(wanted) <= _MOST or len(set(wanted)) < len(wanted):
        raise Refused(f"A decision is about 2 to {_MOST} records, each in one group.")
    found = {record: item[0] for record, item in records_with_sources(session, wanted).items()}
    for record in wanted:
        if record not in found or found[record].register_id != register.id:
            raise NotFound("record", record)
    return found


def _giving_way(session: Session, sides: Sequence[Sequence[int]], verdict: str) -> list[GroupDecision]:
    """Return the standing group decisions that one about these records replaces."""
    side_of = {record: number for number, side in enumerate(sides) for record in side}
    found = []
    for group in groups_about(session, list(side_of), _MOST):
        if group.withdrawn_at is not None:
            continue
        theirs = sides_of(session, group.id)
        members = [record for side in theirs for record in side]
        if set(members) <= side_of.keys():
            found.append(group)
            continue
        held = [side_of[record] for record in members if record in side_of]
        split = verdict == "different" and group.verdict == "same" and len(set(held)) > 1
        joined = (
            verdict == "same" and group.verdict == "different" and sum(any(r in side_of for r in s) for s in theirs) > 1
        )
        if split or joined:
            said = "are the same" if group.verdict == "same" else "are not the same"
            raise Conflict(
                f"{group.actor} said on {group.at.date().isoformat()} that {counted(len(members), 'record')}, some of these among them, "
                f"{said}. Take that decision back first (number {group.id})."
            )
    return found


def _standing_again(session: Session, group: GroupDecision) -> list[int]:
    """Let the decisions stand again that gave way to one that is taken back; return which."""
    if group.journal_id is None:
        return []
    gave_way = journal.entry_by_id(session, group.journal_id).data.get("gave_way", [])
    found = session.scalars(
        select(GroupDecision).where(GroupDecision.id.in_(gave_way)).order_by(GroupDecision.id)
    ).all()
    for one in found:
        one.withdrawn_at = one.withdrawn_by = None
    session.flush()
    settle(
        session,
        group.register_id,
        sorted({record for one in found for side in sides_of(session, one.id) for record in side}),
    )
    return [one.id for one in found]


def withdraw_group(session: Session, group_id: int, *, actor: str) -> GroupDecision:
    """Take a decision about groups of records back; it stays in the account as withdrawn, and those that gave way to it stand again."""
    query = select(GroupDecision).where(GroupDecision.id == group_id).with_for_update()
    group = session.scalar(query)
    if group is None:
        raise NotFound("decision about a group", group_id)
    if group.withdrawn_at is not None:
        raise Refused("This decision was withdrawn before.")
    share_desk(session, group.register_id)
    register, sides = session.get_one(Register, group.register_id), sides_of(session, group.id)
    told = f"Took back a decision {group.verdict} about {counted(sum(map(len, sides)), 'record')}"
    if group.verdict != "later":
        ask_second_yes(
            session, register, _intent("withdraw group", {"group_id": group.id}, told, sides), actor=actor,
            shown=lambda: group_lines(session, register, sides, will="not decided"),
        )  # fmt: skip
    withdraw_decisions(session, group.register_id, [group], actor=actor)
    again = _standing_again(session, group)
    journal.append(
        session, group.register_id, "withdraw group", actor=actor, data={"group": group.id, "again": again},
        personal={"summary": told},
        undoes=(group.journal_id, 0) if group.journal_id else None,
    )  # fmt: skip
    return group
