"""The golden record page: values with their origin, members, history; splitting and pinning."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from math import inf

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...core.clustering import holding_links
from ...core.errors import Conflict, NotFound, Refused
from ...store import golden as store
from ...store.matching import decisions_in_force, pairs_among
from ...store.registers import latest_run, lock_register, register_by_slug
from ...store.tables import (
    GoldenRecord,
    JournalEntry,
    JournalGolden,
    Pin,
    Register,
    Source,
    SourceRecord,
)
from ..state.golden_values import refresh
from ..state.layouts import layout_of
from .journal_steps import Step, keep_apart, make_steps, new_golden


@dataclass(frozen=True, slots=True)
class Bond:
    """A link that holds records together: their ids, the score in the latest run (none where only a person said so), why."""

    left_id: int
    right_id: int
    score: float | None
    reason: str


@dataclass(frozen=True, slots=True)
class GoldenView:
    """A golden record with all that explains it. ``asked_for`` is the key in the request, which may be a retired one;
    ``bonds`` are the links that hold its records together, the weakest last."""

    golden: GoldenRecord
    asked_for: str
    members: list[tuple[SourceRecord, Source]]
    pins: list[Pin]
    history: Sequence[JournalEntry]
    former_keys: list[str]
    undoable: set[int]
    bonds: list[Bond]


def golden_view(session: Session, slug: str, key: str) -> GoldenView:
    """Return the golden record of a key; a retired key leads to the record it went into."""
    register = register_by_slug(session, slug)
    golden = store.follow(session, store.golden_by_key(session, register.id, key))
    members = store.members_of(session, [golden.id])[golden.id]
    records = store.records_with_sources(session, members)
    ordered = sorted(records.values(), key=lambda item: (item[1].trust_rank, item[1].name, item[0].source_key))
    former = select(GoldenRecord.key).where(GoldenRecord.leads_to == golden.id).order_by(GoldenRecord.number)
    history = store.history_of(session, golden.id)
    return GoldenView(
        golden, key, ordered, store.pins_of(session, [golden.id]).get(golden.id, []), history, list(session.scalars(former)),
        {entry.id for entry in history if _is_undoable(session, entry)}, _bonds(session, register.id, members),
    )  # fmt: skip


def _bonds(session: Session, register_id: int, members: Sequence[int]) -> list[Bond]:
    """Return the links that hold the members together: what people decided first, then pairs of the latest run."""
    run = latest_run(session, register_id)
    pairs = pairs_among(session, run.id, members) if run else []
    known = {(left, right): Bond(left, right, score, reason) for left, right, score, reason in pairs}
    links = {pair: bond.score or 0.0 for pair, bond in known.items()}
    for decision in decisions_in_force(session, register_id):
        pair = decision.left_id, decision.right_id
        if decision.verdict == "same" and set(pair) <= set(members):
            score = known[pair].score if pair in known else None
            known[pair] = Bond(*pair, score, "A person decided that they are the same.")
            links[pair] = inf
    order = holding_links([(*pair, strength) for pair, strength in links.items()])
    bonds = list(known.values())
    return [bonds[number] for number in order]


def _is_undoable(session: Session, entry: JournalEntry) -> bool:
    """Whether the entry's golden records still stand as the entry left them."""
    if entry.undone_by is not None or entry.kind in ("pinned", "lifted"):
        return False
    after = {int(golden): sorted(records) for golden, records in entry.after.items()}
    before = {int(golden): sorted(records) for golden, records in entry.before.items()}
    single = not before and all(len(records) == 1 for records in after.values())
    return not single and store.members_of(session, after) == after


def _locked(session: Session, slug: str, key: str, seen_version: int) -> tuple[Register, GoldenRecord]:
    register = lock_register(session, register_by_slug(session, slug).id)
    golden = store.golden_by_key(session, register.id, key)
    if golden.leads_to is not None:
        raise Conflict(f"{key} has become part of {store.follow(session, golden).key} meanwhile.")
    if golden.version != seen_version:
        raise Conflict(f"{key} was changed meanwhile (version {golden.version}). Reload to see it.")
    return register, golden


def split(
    session: Session, slug: str, key: str, record_ids: Sequence[int], *, seen_version: int, reason: str, actor: str
) -> str:
    """Take records out of a golden record into a new one; return the new key. Later runs keep them apart."""
    register, golden = _locked(session, slug, key, seen_version)
    members = store.members_of(session, [golden.id])[golden.id]
    taken = sorted(set(record_ids))
    if not taken or not set(taken) <= set(members):
        raise Refused(f"Choose records that belong to {key} to take out.")
    rest = [record for record in members if record not in taken]
    if not rest:
        raise Refused(f"At least one record must stay in {key}.")
    [fresh] = new_golden(session, register, 1)
    noun = "record" if len(taken) == 1 else "records"
    summary = f"Took {len(taken)} {noun} out of {key} into {fresh.key}" + (f": {reason}" if reason else "")
    step = Step("split", summary, {golden.id: members}, {golden.id: rest, fresh.id: taken}, {})
    [entry_id] = make_steps(session, register, [step], actor)
    keep_apart(session, register, [rest, taken], actor=actor, remark=summary, journal_id=entry_id)
    return fresh.key


def _note(session: Session, register: Register, golden: GoldenRecord, kind: str, summary: str, actor: str) -> None:
    members = {str(golden.id): store.members_of(session, [golden.id])[golden.id]}
    entry = JournalEntry(
        register_id=register.id,
        golden_id=golden.id,
        kind=kind,
        summary=summary,
        before=members,
        after=members,
        actor=actor,
    )
    session.add(entry)
    session.flush()
    session.add(JournalGolden(journal_id=entry.id, golden_id=golden.id))


def pin(
    session: Session, slug: str, key: str, *, field: str, value: str, reason: str, seen_version: int, actor: str
) -> GoldenRecord:
    """Set a value by hand; an earlier pin of the field is lifted. An empty value pins the field as empty."""
    register, golden = _locked(session, slug, key, seen_version)
    label = layout_of(register).field(field).label
    if not reason.strip():
        raise Refused("A pin needs a reason, so that others can understand it in a year.")
    for earlier in store.pins_of(session, [golden.id]).get(golden.id, []):
        if earlier.field == field:
            earlier.lifted_at = datetime.now(UTC)
    session.add(
        Pin(golden_id=golden.id, field=field, value=value.strip(), reason=reason.strip(), actor=actor, at=func.now())
    )
    session.flush()
    _note(session, register, golden, "pinned", f"Pinned {label} to '{value.strip()}': {reason.strip()}", actor)
    refresh(session, register, [golden.id])
    return golden


def lift_pin(session: Session, slug: str, key: str, pin_id: int, *, seen_version: int, actor: str) -> GoldenRecord:
    """Lift a pin, so that the survivorship rule decides again."""
    register, golden = _locked(session, slug, key, seen_version)
    found = session.get(Pin, pin_id)
    if found is None or found.golden_id != golden.id or found.lifted_at is not None:
        raise NotFound("pin", pin_id)
    found.lifted_at = datetime.now(UTC)
    session.flush()
    label = layout_of(register).field(found.field).label
    _note(session, register, golden, "lifted", f"Lifted the pin of {label}", actor)
    refresh(session, register, [golden.id])
    return golden
