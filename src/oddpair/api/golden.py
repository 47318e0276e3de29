"""Golden records: list, page, merge, split, pin, undo."""

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated, Any

from fastapi import APIRouter, Path, Query
from pydantic import AwareDatetime, BaseModel, Field

from ..core.rights import Permission
from ..services.golden import edits, golden_list, golden_page, merge, merge_preview
from ..services.golden.golden_page import Relation
from ..services.golden.steps import HistoryStep
from ..services.people.who import Who
from ..services.registers import registers
from .asked import GoldenListAsked
from .dependencies import (
    Actor,
    Asker,
    RecordId,
    Slug,
    Text,
    Transaction,
)
from .jobs import JobOut, job_out

router = APIRouter(tags=["golden"])
Key = Annotated[str, Path(max_length=40, pattern=r"^[A-Za-z0-9\-]+$", description="Golden key")]
Version = Annotated[int, Field(ge=1, le=2**31 - 1)]


class GoldenLine(BaseModel):
    """A golden record in a list; ``contradictions`` names fields of which its records say what cannot all be true."""

    key: str
    values: dict[str, str]
    records: int
    pinned: list[str]
    contradictions: list[str]
    filled: int
    updated_at: datetime


class GoldenList(BaseModel):
    """A page of golden records; ``before`` and ``behind`` are the cursors of the pages beside it, "" where there is none.

    There may be more than ``total``, where ``at_least`` tells so; ``by_sound`` tells that nothing is spelled as searched and these sound
    like it; ``contradictory`` counts those of the register with a contradiction
    that nobody settled.
    """

    total: int
    at_least: bool
    by_sound: bool
    contradictory: int
    before: str
    behind: str
    golden: list[GoldenLine]


class MemberOut(BaseModel):
    """A source record that belongs to a golden record."""

    id: int
    source: str
    source_key: str
    fields: dict[str, str]
    tidy: dict[str, str]


class LoserOut(BaseModel):
    """A value that did not win, and why."""

    source: str
    source_key: str
    values: dict[str, str]
    why: str


class OriginOut(BaseModel):
    """Where the values of a field or group come from: by which chain of rules, and what decided."""

    unit: str
    rule: str
    says: str
    source: str
    source_key: str
    losers: list[LoserOut]


class RecordName(BaseModel):
    """A source record by its source and the source's id."""

    source: str
    source_key: str


class HolderOut(RecordName):
    """A record that holds a value, and the label under which it was delivered, if any."""

    label: str


class HeldValueOut(BaseModel):
    """A distinct value that records hold of a field or group, and which do."""

    unit: str
    values: dict[str, str]
    holders: list[HolderOut]


class RelationOut(BaseModel):
    """A golden record of a register at the other end of references by a field, by how many records; without a key it is a record that has
    no golden record yet."""

    field: str
    register_slug: str
    key: str
    name: str
    records: int


class PinOut(BaseModel):
    """A value set by hand."""

    id: int
    field: str
    value: str
    reason: str
    actor: str
    at: datetime
    instead_of: str


class BondOut(BaseModel):
    """A link that holds two records together; ``score`` is null where only a person said so."""

    left_id: int
    right_id: int
    score: float | None
    reason: str


class GoldenOut(BaseModel):
    """A golden record with all that explains it; ``asked_for`` differs from ``key`` where an old key led here, ``bonds`` are
    the links that hold its records together, the weakest last. ``held`` are all distinct values where there are several, the golden
    one first; ``contradictions`` field → values that cannot all be true, ``unsettled`` those fields that nobody pinned."""

    key: str
    asked_for: str
    version: int
    values: dict[str, str]
    origins: list[OriginOut]
    held: list[HeldValueOut]
    contradictions: dict[str, list[str]]
    unsettled: list[str]
    pins: list[PinOut]
    members: list[MemberOut]
    history: list[HistoryStep]
    bonds: list[BondOut]
    leads_to: list[RelationOut]
    led_from: list[RelationOut]
    former_keys: list[str]
    updated_at: datetime


class GoldenThenOut(BaseModel):
    """A golden record as it was: without values it was not in force."""

    key: str
    values: dict[str, str] | None
    members: list[RecordName]


class SplitIn(BaseModel):
    """Records to take out into a golden record of their own."""

    record_ids: Annotated[list[Annotated[int, Field(ge=1, le=2**63 - 1)]], Field(min_length=1, max_length=10_000)]
    seen_version: Version
    reason: Text = ""


class PinIn(BaseModel):
    """A value to set by hand; an empty value leaves the field empty."""

    field: Text
    value: Text
    reason: Annotated[Text, Field(min_length=1)]
    seen_version: Version


class KeyOut(BaseModel):
    """The golden key that came of an action."""

    key: str


@router.get("/registers/{slug}/golden")
def list_golden(session: Transaction, slug: Slug, query: Annotated[GoldenListAsked, Query()]) -> GoldenList:
    """Golden records in force, page by page."""
    found = golden_list.golden_list(
        session, slug, query.asked(), order=query.by, cursor=query.cursor, limit=query.limit
    )
    lines = [
        GoldenLine(
            key=row.key, values=row.values, records=row.size, updated_at=row.updated_at, pinned=row.pinned,
            contradictions=row.contradictions, filled=row.filled,
        )
        for row in found.page.rows
    ]  # fmt: skip
    return GoldenList(
        total=found.total, at_least=found.at_least, by_sound=found.by_sound, contradictory=found.contradictory, before=found.page.before,
        behind=found.page.behind, golden=lines,
    )  # fmt: skip


@router.get("/registers/{slug}/golden/{key}")
def get_golden(session: Transaction, asker: Asker, slug: Slug, key: Key) -> GoldenOut:
    """A golden record; an old key leads to the record it went into."""
    view = golden_page.golden_view(session, slug, key)
    return GoldenOut(
        key=view.golden.key, asked_for=view.asked_for, version=view.golden.version, values=view.golden.values,
        origins=[_origin(unit, origin) for unit, origin in view.explained.origins.items() if not unit.startswith("pin:")],
        held=[
            HeldValueOut(
                unit=value.unit, values=dict(value.values),
                holders=[HolderOut(source=one.source, source_key=one.record, label=one.label) for one in value.holders],
            )
            for value in view.explained.held
        ],
        contradictions={name: list(values) for name, values in view.explained.contradictions.items()},
        unsettled=[name for name in view.explained.contradictions if name not in {pin.field for pin in view.pins}],
        pins=[
            PinOut(id=p.id, field=p.field, value=p.value, reason=p.reason, actor=p.actor, at=p.at,
                   instead_of=view.explained.origins.get(f"pin:{p.field}", {}).get("instead_of", ""))
            for p in view.pins
        ],
        members=[MemberOut(id=r.id, source=s.name, source_key=r.source_key, fields=r.fields, tidy=r.tidy) for r, s in view.members],
        history=view.history,
        bonds=[BondOut.model_validate(bond, from_attributes=True) for bond in view.bonds],
        leads_to=_relations(view.leads_to, asker), led_from=_relations(view.led_from, asker),
        former_keys=list(view.former_keys), updated_at=view.golden.updated_at,
    )  # fmt: skip


def _relations(relations: Sequence[Relation], asker: Who) -> list[RelationOut]:
    """Return those golden records of other registers that one may look up there."""
    return [
        RelationOut(field=one.field, register_slug=one.register, key=one.key, name=one.name, records=one.records)
        for one in relations
        if asker.may(Permission.LOOK_UP, one.register)
    ]


@router.get("/registers/{slug}/golden/{key}/then")
def golden_then(session: Transaction, slug: Slug, key: Key, at: AwareDatetime) -> GoldenThenOut:
    """A golden record as it was at a moment."""
    then = golden_page.golden_then(session, slug, key, at)
    return GoldenThenOut(key=then.key, values=then.values, members=_named(then.members))


def _named(records: Sequence[tuple[str, str]]) -> list[RecordName]:
    return [RecordName(source=source, source_key=key) for source, key in records]


def _origin(unit: str, origin: dict[str, Any]) -> OriginOut:
    return OriginOut(unit=unit, **origin)


@router.get("/registers/{slug}/merge")
def preview_merge(session: Transaction, slug: Slug) -> merge_preview.MergePreview:
    """What merging now would do."""
    waiting = registers.view_of(session, slug).counts.unsure_waiting
    return merge_preview.preview_merge(session, slug, waiting)


class MergeIn(BaseModel):
    """The state that the preview was made of: a merge of anything else is refused."""

    seen: Annotated[Text, Field(min_length=1, max_length=60)]


@router.post("/registers/{slug}/merge", status_code=202)
def start_merge(session: Transaction, actor: Actor, slug: Slug, body: MergeIn) -> JobOut:
    """Merge the clusters of the standing run into golden records, in the background, as the preview said."""
    return job_out(merge.ask_to_merge(session, slug, seen=body.seen, actor=actor), slug)


@router.post("/registers/{slug}/golden/{key}/split", status_code=201)
def split(session: Transaction, actor: Actor, slug: Slug, key: Key, body: SplitIn) -> KeyOut:
    """Take records out into a new golden record; later runs keep them apart."""
    fresh = edits.split(
        session, slug, key, body.record_ids, seen_version=body.seen_version, reason=body.reason, actor=actor
    )
    return KeyOut(key=fresh)


@router.post("/registers/{slug}/golden/{key}/pins", status_code=201)
def pin(session: Transaction, actor: Actor, slug: Slug, key: Key, body: PinIn) -> KeyOut:
    """Pin a value with a reason."""
    golden = edits.pin(
        session,
        slug,
        key,
        field=body.field,
        value=body.value,
        reason=body.reason,
        seen_version=body.seen_version,
        actor=actor,
    )
    return KeyOut(key=golden.key)


@router.delete("/registers/{slug}/golden/{key}/pins/{pin_id}")
def lift_pin(
    session: Transaction,
    actor: Actor,
    slug: Slug,
    key: Key,
    pin_id: RecordId,
    seen_version: Annotated[int, Query(ge=1, le=2**31 - 1)],
) -> KeyOut:
    """Lift a pin."""
    return KeyOut(key=edits.lift_pin(session, slug, key, pin_id, seen_version=seen_version, actor=actor).key)
