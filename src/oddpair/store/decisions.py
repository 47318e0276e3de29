"""Decisions about pairs and about groups of records, as what they say of pairs."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import combinations, pairwise
from typing import Any

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from .bulk import both_among, copy_rows
from .doubts import DECISIONS_IN_FORCE
from .tables import Decision, GroupDecision, GroupMember


@dataclass(frozen=True, slots=True)
class DecisionInForce:
    """What counts for a pair: the latest decision of it or of a group that holds both, not withdrawn; ``id`` is 0 for one of a group;
    ``changed`` if its records are others now."""

    id: int
    left_id: int
    right_id: int
    verdict: str
    changed: list[str] | None
    at: datetime


def decisions_in_force(session: Session, register_id: int) -> list[DecisionInForce]:
    """Return the decisions that a run must follow, in the order in which they were made."""
    return _in_force(session, {"register_id": register_id}, "", "")


def decided_among(session: Session, register_id: int, records: Sequence[int]) -> list[DecisionInForce]:
    """Return the decisions in force whose two records are among ``records``."""
    more = "AND " + both_among("d.left_id", "d.right_id", "records")
    values = {"register_id": register_id, "records": list(records)}
    return _in_force(session, values, more, "AND m.record_id = ANY(CAST(:records AS bigint[]))")


def decided_around(session: Session, register_id: int, records: Sequence[int]) -> list[DecisionInForce]:
    """Return the decisions in force of which at least one record is among ``records``."""
    more = "AND (d.left_id = ANY(:records) OR d.right_id = ANY(:records))"
    of_groups = "AND g.id IN (SELECT group_id FROM group_members WHERE record_id = ANY(:records))"
    return _in_force(session, {"register_id": register_id, "records": list(records)}, more, of_groups)


def _in_force(session: Session, values: dict[str, Any], of_pairs: str, of_groups: str) -> list[DecisionInForce]:
    rows = session.execute(text(DECISIONS_IN_FORCE.format(more=of_pairs)), values)
    found = {(row[1], row[2]): DecisionInForce(*row[:6]) for row in rows}
    members = session.execute(
        text(f"""
            SELECT g.id, g.verdict, g.changed, g.at, m.record_id, m.side FROM group_decisions g JOIN group_members m ON m.group_id = g.id
            JOIN source_records s ON s.id = m.record_id AND s.state <> 'withdrawn'
            WHERE g.register_id = :register_id AND g.withdrawn_at IS NULL AND g.verdict <> 'later' {of_groups}
            ORDER BY g.id, m.record_id
        """),
        values,
    ).all()
    groups: dict[int, list[Any]] = {}
    for row in members:
        groups.setdefault(row[0], []).append(row)
    for rows_of_group in groups.values():
        _, verdict, changed, at, _, _ = rows_of_group[0]
        for pair in pairs_said(verdict, [(row[4], row[5]) for row in rows_of_group]):
            if pair not in found or found[pair].at < at:
                found[pair] = DecisionInForce(0, *pair, verdict, changed, at)
    return sorted(found.values(), key=lambda decision: (decision.at, decision.left_id, decision.right_id))


def pairs_said(verdict: str, members: Sequence[tuple[int, int]]) -> Iterable[tuple[int, int]]:
    """Return the pairs of records of which a decision about (record, side), by record, says something.

    *Same* is said of each record and the next one, which holds all of them together; *different* of any two of different sides.
    """
    if verdict == "same":
        return [(one[0], other[0]) for one, other in pairwise(members)]
    return [(one[0], other[0]) for one, other in combinations(members, 2) if one[1] != other[1]]


def decision_of_pair(session: Session, left_id: int, right_id: int) -> Decision | None:
    """Return the latest decision of a pair that was not withdrawn, or None."""
    query = select(Decision).where(
        Decision.left_id == left_id, Decision.right_id == right_id, Decision.withdrawn_at.is_(None)
    )
    return session.scalars(query.order_by(Decision.id.desc()).limit(1)).first()


def decisions_about(session: Session, records: Sequence[int], limit: int) -> Sequence[Decision]:
    """Return the latest decisions about any of some records, withdrawn ones too, newest first."""
    either = Decision.left_id.in_(records) | Decision.right_id.in_(records)
    return session.scalars(select(Decision).where(either).order_by(Decision.id.desc()).limit(limit)).all()


def groups_about(session: Session, records: Sequence[int], limit: int) -> Sequence[GroupDecision]:
    """Return the latest decisions about groups that hold any of some records, withdrawn ones too, newest first."""
    held = select(GroupMember.group_id).where(GroupMember.record_id.in_(records))
    query = select(GroupDecision).where(GroupDecision.id.in_(held)).order_by(GroupDecision.id.desc())
    return session.scalars(query.limit(limit)).all()


def standing_of_entry(session: Session, entry_id: int) -> list[Decision | GroupDecision]:
    """Return the decisions that an entry of the journal made and that were not withdrawn."""
    pairs = select(Decision).where(Decision.journal_id == entry_id, Decision.withdrawn_at.is_(None))
    groups = select(GroupDecision).where(GroupDecision.journal_id == entry_id, GroupDecision.withdrawn_at.is_(None))
    return [*session.scalars(pairs), *session.scalars(groups)]


def write_group(
    session: Session, group: GroupDecision, sides: Sequence[Sequence[int]], basis: dict[int, dict[str, str]]
) -> GroupDecision:
    """Write a group decision with its records by side, each with what it rests on."""
    session.add(group)
    session.flush()
    columns = ("group_id", "record_id", "side", "basis")
    rows = ((group.id, record, side, basis[record]) for side, records in enumerate(sides) for record in records)
    copy_rows(session, "group_members", columns, rows)
    return group


def sides_of(session: Session, group_id: int) -> list[list[int]]:
    """Return the records of a group decision by side."""
    query = select(GroupMember.side, GroupMember.record_id).where(GroupMember.group_id == group_id)
    sides: dict[int, list[int]] = {}
    for side, record in session.execute(query.order_by(GroupMember.side, GroupMember.record_id)):
        sides.setdefault(side, []).append(record)
    return list(sides.values())


def sides_among(session: Session, records: Sequence[int]) -> list[list[int]]:
    """Return the sides, with two records and more, of group decisions in force that tell some of ``records`` apart."""
    query = text("""
        SELECT array_agg(m.record_id ORDER BY m.record_id) FROM group_decisions g JOIN group_members m ON m.group_id = g.id
        WHERE g.withdrawn_at IS NULL AND g.verdict = 'different' AND m.record_id = ANY(CAST(:records AS bigint[]))
        GROUP BY g.id, m.side HAVING count(*) > 1 ORDER BY g.id, m.side
    """)
    return [list(row) for row in session.scalars(query, {"records": list(records)})]


def latest_decided(session: Session, register_id: int, limit: int) -> list[int]:
    """Return the records of the latest decisions about pairs of a register."""
    query = select(Decision.left_id, Decision.right_id).where(Decision.register_id == register_id)
    return sorted({end for row in session.execute(query.order_by(Decision.id.desc()).limit(limit)) for end in row})


def people_of(session: Session, register_id: int) -> list[str]:
    """Return the names under which somebody decided in a register, walking from one to the next over the index."""
    rows = session.scalars(
        text("""
            WITH RECURSIVE named AS (
                (SELECT actor FROM decisions WHERE register_id = :register_id ORDER BY actor LIMIT 1)
                UNION ALL
                SELECT (SELECT d.actor FROM decisions d WHERE d.register_id = :register_id AND d.actor > n.actor ORDER BY d.actor LIMIT 1)
                FROM named n WHERE n.actor IS NOT NULL
            )
            SELECT actor FROM named WHERE actor IS NOT NULL
        """),
        {"register_id": register_id},
    )
    return list(rows)


def decided_since(session: Session, register_id: int, actor: str, since: datetime) -> dict[str, int]:
    """Return how many pairs and groups a person decided since a moment and did not take back, by verdict."""
    rows = session.execute(
        text("""
            SELECT verdict, sum(number) FROM (
                SELECT verdict, count(*) AS number FROM decisions
                WHERE register_id = :register_id AND actor = :actor AND at >= :since AND withdrawn_at IS NULL GROUP BY verdict
                UNION ALL
                SELECT verdict, count(*) FROM group_decisions
                WHERE register_id = :register_id AND actor = :actor AND at >= :since AND withdrawn_at IS NULL GROUP BY verdict
            ) said GROUP BY verdict
        """),
        {"register_id": register_id, "actor": actor, "since": since},
    )
    return {row[0]: int(row[1]) for row in rows}


def latest_standing(session: Session, register_id: int, actor: str) -> Decision | GroupDecision | None:
    """Return the latest decision of a person in a register, about a pair or a group, that was not withdrawn."""
    pairs = select(Decision).where(
        Decision.register_id == register_id, Decision.actor == actor, Decision.withdrawn_at.is_(None)
    )
    groups = select(GroupDecision).where(
        GroupDecision.register_id == register_id, GroupDecision.actor == actor, GroupDecision.withdrawn_at.is_(None)
    )
    pair = session.scalars(pairs.order_by(Decision.id.desc()).limit(1)).first()
    group = session.scalars(groups.order_by(GroupDecision.id.desc()).limit(1)).first()
    if pair is None or group is None:
        return pair or group
    return pair if pair.at >= group.at else group


def asked_of_person(session: Session, name: str) -> tuple[list[int], list[int]]:
    """Return the decisions about pairs, and about groups, that put something off until a person says something, in all registers."""
    pairs = select(Decision.id).where(
        Decision.asked == name, Decision.verdict == "later", Decision.withdrawn_at.is_(None)
    )
    groups = select(GroupDecision.id).where(
        GroupDecision.asked == name, GroupDecision.verdict == "later", GroupDecision.withdrawn_at.is_(None)
    )
    return list(session.scalars(pairs.order_by(Decision.id))), list(session.scalars(groups.order_by(GroupDecision.id)))
