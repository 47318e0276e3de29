"""The review desk: what waits, two records face to face, and decisions."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import Conflict, NotFound, Refused
from ...core.explain import Evidence
from ...store import doubts, journal, matching
from ...store.counters import counters_of
from ...store.golden import records_with_sources
from ...store.locks import lock_pair, share_desk
from ...store.registers import register_by_slug, standing_run
from ...store.tables import Decision, Register, Run, Source, SourceRecord
from ...store.word_search import expected_holders, find_by_words
from ..state.decisions import basis_of, compared_fields, settle, withdraw_decisions
from ..state.evidence import EvidenceReader
from ..state.layouts import layout_of
from ..state.search import word_query

VERDICTS = ("same", "different", "later")


#: Doubts about few records are looked up by the records; about more than this share of all, enough of them are found on the
#: way through the queue.
_FEW, _FEW_OF_ALL = 1_000, 0.005
#: The planner is believed where it expects so many times more than what is few.
_SURELY_MANY = 4


@dataclass(frozen=True, slots=True)
class FacedRecord:
    """One side of the desk."""

    id: int
    source: str
    source_key: str
    fields: dict[str, str]
    tidy: dict[str, str]


@dataclass(frozen=True, slots=True)
class Changed:
    """A field that is another now than when a pair was decided: what it was and is, on the left or right side."""

    field: str
    side: str
    was: str
    now: str


@dataclass(frozen=True, slots=True)
class FacedPair:
    """Two records face to face with the evidence between them; ``changed`` tells what is other than when it was decided.

    A pair that the standing run did not keep has no evidence and no probability.
    """

    left: FacedRecord
    right: FacedRecord
    score: float
    probability: float | None
    verdict: str
    reason: str
    evidence: tuple[Evidence, ...]
    same_from: float
    unsure_from: float
    labels: list[tuple[str, str]]
    decision: Decision | None
    changed: list[Changed]


@dataclass(frozen=True, slots=True)
class QueuePair:
    """A pair that waits, with the kind of its doubt in words."""

    pair: doubts.QueuedPair
    kind: str


@dataclass(frozen=True, slots=True)
class QueuePage:
    """A page of the queue: how many wait in all and are put off, and where the next page begins ("" at the end)."""

    waiting: int
    put_off: int
    pairs: list[QueuePair]
    behind: str


def queue(
    session: Session,
    slug: str,
    *,
    order: str = "doubt",
    search: str = "",
    kind: str = "",
    after: str = "",
    limit: int = 100,
) -> QueuePage:
    """Return a page of what waits; nothing before the first run. The counts are of the whole queue, whatever is searched."""
    register = register_by_slug(session, slug)
    run = standing_run(session, register.id)
    words = word_query(register.id, search)
    counters = counters_of(session, register.id)
    if run is None or (search.strip() and not words):
        return QueuePage(counters.waiting if run else 0, counters.put_off if run else 0, [], "")
    among = _few_with(session, words, counters.records) if words else None
    found = doubts.queue_page(
        session, run.id, order=order, after=after, limit=limit, words=words, among=among, kind=kind
    )
    reader = EvidenceReader(session, register, run)
    pairs = [QueuePair(pair, reader.kind_in_words(pair.kind)) for pair in found]
    return QueuePage(counters.waiting, counters.put_off, pairs, found[-1].cursor if len(found) == limit else "")


def _few_with(session: Session, words: str, records: int) -> tuple[int, ...] | None:
    """Return the records that hold words, None if these are not few."""
    most = max(_FEW, int(records * _FEW_OF_ALL))
    if expected_holders(session, "record_words", words) > _SURELY_MANY * most:
        return None
    found = find_by_words(session, "record_words", words, most)
    return found if len(found) < most else None


def kinds(session: Session, slug: str) -> list[tuple[str, str, int]]:
    """Return (kind, kind in words, how many wait) of what waits, the most frequent first."""
    register = register_by_slug(session, slug)
    run = standing_run(session, register.id)
    if run is None:
        return []
    reader = EvidenceReader(session, register, run)
    counted = counters_of(session, register.id).kinds
    return [
        (kind, reader.kind_in_words(kind), counted[kind])
        for kind in sorted(counted, key=lambda kind: (-counted[kind], kind))
    ]


def pair(session: Session, slug: str, left_id: int, right_id: int) -> FacedPair:
    """Return two records face to face: a pair of the standing run, or one that was decided; raise NotFound."""
    register = register_by_slug(session, slug)
    run = standing_run(session, register.id)
    left_id, right_id = min(left_id, right_id), max(left_id, right_id)
    row = matching.pair_of_run(session, run.id, left_id, right_id) if run else None
    decision = matching.decision_of_pair(session, left_id, right_id)
    if run is None or (row is None and decision is None):
        raise NotFound("pair", f"{left_id} / {right_id}")
    records = records_with_sources(session, [left_id, right_id])
    if len(records) < 2 or any(record.register_id != register.id for record, _ in records.values()):
        raise NotFound("pair", f"{left_id} / {right_id}")
    reader = EvidenceReader(session, register, run)
    changed = _changed(decision, records[left_id][0], records[right_id][0]) if decision else []
    reason = reader.reason(row) if row else "The latest run sees too little between these two to put them together."
    return FacedPair(
        left=_faced(*records[left_id]), right=_faced(*records[right_id]), score=row.score if row else 0.0,
        probability=reader.probability(row) if row else None,
        verdict=("same" if row.same else "unsure") if row else "different", reason=reason,
        evidence=reader.evidence(row) if row else (), same_from=reader.plan.limits.same,
        unsure_from=reader.plan.limits.unsure, labels=[(field.name, field.label) for field in layout_of(register).fields],
        decision=decision, changed=changed,
    )  # fmt: skip


def _faced(record: SourceRecord, source: Source) -> FacedRecord:
    return FacedRecord(record.id, source.name, record.source_key, dict(record.fields), dict(record.tidy))


def _changed(decision: Decision, left: SourceRecord, right: SourceRecord) -> list[Changed]:
    """Return what is other now than what a decision rested on."""

    def differing(side: str, was: Mapping[str, str], now: Mapping[str, str]) -> list[Changed]:
        return [
            Changed(field, side, was.get(field, ""), now.get(field, ""))
            for field in decision.basis["fields"]
            if was.get(field, "") != now.get(field, "")
        ]

    return [
        *differing("left", decision.basis["left"], left.tidy),
        *differing("right", decision.basis["right"], right.tidy),
    ]


def decide(
    session: Session, slug: str, left_id: int, right_id: int, *, verdict: str, remark: str, actor: str, seen_decision: int | None
) -> Decision:  # fmt: skip
    """Keep a decision about a pair of records; raise Conflict if somebody else decided it meanwhile."""
    if left_id == right_id:
        raise Refused("A record cannot be compared with itself.")
    register = register_by_slug(session, slug)
    left, right = (_record(session, register, record_id) for record_id in sorted((left_id, right_id)))
    share_desk(session, register.id)
    lock_pair(session, left.id, right.id)
    present = matching.decision_of_pair(session, left.id, right.id)
    if (present.id if present else None) != seen_decision:
        state = f"decided as '{present.verdict}' by {present.actor}" if present else "withdrawn"
        raise Conflict(f"This pair was {state} meanwhile. Reload to see it.")
    entry_id = journal.reserve(session)
    decision = Decision(
        register_id=register.id, left_id=left.id, right_id=right.id, verdict=verdict, remark=remark, actor=actor,
        basis=basis_of(compared_fields(session, register), left, right), at=datetime.now(UTC), journal_id=entry_id,
    )  # fmt: skip
    session.add(decision)
    session.flush()
    settle(session, register.id, [(left.id, right.id)])
    data = {
        "decision": decision.id,
        "left": left.id,
        "right": right.id,
        "verdict": verdict,
        "basis": decision.basis["fields"],
    }
    journal.append(
        session, register.id, "decide", actor=actor, entry_id=entry_id, data=data,
        personal={"summary": f"Decided {verdict}", "remark": remark, "basis": decision.basis},
        touches=[("record", left.id), ("record", right.id)],
    )  # fmt: skip
    return decision


def _record(session: Session, register: Register, record_id: int) -> SourceRecord:
    record = session.get(SourceRecord, record_id)
    if record is None or record.register_id != register.id:
        raise NotFound("record", record_id)
    return record


def withdraw(session: Session, decision_id: int, *, actor: str) -> Decision:
    """Take a decision back; it stays in the account as withdrawn, with who did so."""
    decision = session.get(Decision, decision_id)
    if decision is None:
        raise NotFound("decision", decision_id)
    share_desk(session, decision.register_id)
    lock_pair(session, decision.left_id, decision.right_id)
    session.refresh(decision)
    if decision.withdrawn_at is not None:
        raise Refused("This decision was withdrawn before.")
    withdraw_decisions(session, decision.register_id, [decision], actor=actor)
    journal.append(
        session, decision.register_id, "withdraw", actor=actor, data={"decision": decision.id},
        personal={"summary": f"Took back the decision {decision.verdict}"},
        undoes=(decision.journal_id, 0) if decision.journal_id else None,
        touches=[("record", decision.left_id), ("record", decision.right_id)],
    )  # fmt: skip
    return decision


def decisions(session: Session, slug: str, limit: int, *, actor: str = "") -> Sequence[Decision]:
    """Return the latest decisions of a register, or of one person in it, newest first."""
    register = register_by_slug(session, slug)
    query = select(Decision).where(Decision.register_id == register.id)
    if actor:
        query = query.where(Decision.actor == actor)
    return session.scalars(query.order_by(Decision.id.desc()).limit(limit)).all()


def run_of(session: Session, slug: str) -> Run | None:
    """Return the register's standing run, or None."""
    return standing_run(session, register_by_slug(session, slug).id)
