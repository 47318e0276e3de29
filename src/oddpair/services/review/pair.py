"""Two records face to face, with the evidence between them."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from ...core.errors import NotFound
from ...core.explain import Evidence
from ...core.plan import MatchPlan, parse_plan
from ...core.spot import LostAt
from ...store import matching
from ...store.decisions import decision_of_pair
from ...store.golden import records_with_sources
from ...store.proposals import WAITING, proposal_of_pair
from ...store.references import values_referring_to
from ...store.registers import plan_in_force, register_by_slug, standing_run
from ...store.tables import Decision, Source, SourceRecord
from ..state.evidence import EvidenceReader
from ..state.layouts import layout_of
from .by_hand import compare_by_hand


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
class RelatedValues:
    """Values that records referring to the two bring, by which these are compared as well: "E-mail of Contacts"."""

    label: str
    left: tuple[str, ...]
    right: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class FacedPair:
    """Two records face to face with the evidence between them; ``changed`` tells what is other than when it was decided.

    A pair that the standing run did not keep has no probability; ``lost_at`` says where it was lost, ``keys`` what blocking keys both
    share.
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
    proposed: str
    changed: list[Changed]
    related: tuple[RelatedValues, ...] = ()
    lost_at: str = ""
    keys: tuple[str, ...] = ()


def _related(session: Session, plan: MatchPlan, left_id: int, right_id: int) -> tuple[RelatedValues, ...]:
    """Return what related records bring to the two that a plan compares."""
    told = []
    for related in plan.related:
        other = register_by_slug(session, related.register_slug)
        layout = layout_of(other)
        found = values_referring_to(session, other.id, related.by, [left_id, right_id])
        for name in related.take.values():
            sides = (
                tuple(dict.fromkeys(fields[name] for target, fields in found if target == record and fields.get(name)))
                for record in (left_id, right_id)
            )
            told.append(RelatedValues(f"{layout.field(name).label} of {other.name}", *sides))
    return tuple(one for one in told if one.left or one.right)


def pair(session: Session, slug: str, left_id: int, right_id: int) -> FacedPair:
    """Return any two records of a register face to face; those that no run brought together are compared on the spot; raise NotFound."""
    register = register_by_slug(session, slug)
    run = standing_run(session, register.id)
    left_id, right_id = min(left_id, right_id), max(left_id, right_id)
    records = records_with_sources(session, [left_id, right_id])
    if len(records) < 2 or any(record.register_id != register.id for record, _ in records.values()):
        raise NotFound("pair", f"{left_id} / {right_id}")
    row = matching.pair_of_run(session, run.id, left_id, right_id) if run else None
    decision = decision_of_pair(session, left_id, right_id)
    plan = parse_plan(plan_in_force(session, register.id).yaml, layout_of(register))
    facing = FacedPair(
        left=faced(*records[left_id]), right=faced(*records[right_id]), score=0.0, probability=None, verdict="different", reason="",
        evidence=(), same_from=plan.limits.same, unsure_from=plan.limits.unsure,
        labels=[(field.name, field.label) for field in layout_of(register).fields], decision=decision,
        proposed=_proposed(session, left_id, right_id),
        changed=_changed(decision, records[left_id][0], records[right_id][0]) if decision else [],
        related=_related(session, plan, left_id, right_id),
    )  # fmt: skip
    if run is None or row is None:
        found = compare_by_hand(session, register, records[left_id], records[right_id])
        verdict = "different"
        if found.lost_at == LostAt.NOWHERE:
            verdict = "same" if found.score >= plan.limits.same else "unsure"
        return replace(
            facing,
            score=found.score,
            verdict=verdict,
            reason=found.reason,
            evidence=found.evidence,
            lost_at=found.says,
            keys=found.keys,
        )
    reader = EvidenceReader(session, register, run)
    return replace(
        facing, score=row.score, probability=reader.probability(row), verdict="same" if row.same else "unsure",
        reason=reader.reason(row), evidence=reader.evidence(row), same_from=reader.plan.of_pass(row.passed).limits.same,
        unsure_from=reader.plan.of_pass(row.passed).limits.unsure,
    )  # fmt: skip


def faced(record: SourceRecord, source: Source) -> FacedRecord:
    """Return a record as it is shown."""
    return FacedRecord(record.id, source.name, record.source_key, dict(record.fields), dict(record.tidy))


def _proposed(session: Session, left_id: int, right_id: int) -> str:
    found = proposal_of_pair(session, left_id, right_id)
    if found is None:
        return ""
    what = f"{found.proposed_by} proposed: {found.summary}."
    if found.state == WAITING:
        return f"{what} It waits for sign-off."
    return f"{what} {found.ended_by} sent it back to {found.returned_to}: {found.reason}"


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
