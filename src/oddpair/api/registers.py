"""Registers, their layout, sources and survivorship rules."""

from collections.abc import Sequence
from dataclasses import asdict
from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ..core.fields import FieldKind, RegisterKind, added_fields
from ..core.survivorship import RULE_SETS, RULES
from ..services.people import personal
from ..services.people.who import registers_known
from ..services.registers import registers as service
from .dependencies import Actor, Asker, Slug, Text, Transaction
from .jobs import JobOut, job_out
from .survivorship import GoldenForm, RuleStep, chain_out

router = APIRouter(tags=["registers"])


class StageCountsOut(BaseModel):
    """What waits at each stage."""

    deliveries: int
    drafts: int
    records: int
    unsure_waiting: int
    put_off: int
    golden: int
    records_without_golden: int


class RegisterOut(BaseModel):
    """A register with what waits in it; ``run_due`` says in words why a new run is due, ``version`` is that of its settings,
    ``value_field`` by which field doubts are worth more or less ("" for none)."""

    slug: str
    name: str
    kind: RegisterKind
    prefix: str
    rules: dict[str, list[RuleStep]]
    form: GoldenForm
    version: int
    counts: StageCountsOut
    run_id: int | None
    run_due: list[str]
    value_field: str


class NewRegister(BaseModel):
    """A register to be made."""

    name: Annotated[Text, Field(min_length=1, max_length=80)]
    kind: RegisterKind
    prefix: Annotated[Text, Field(max_length=8)] = ""


class FieldOut(BaseModel):
    """A field of a layout; ``added`` tells whether it is beyond those of the register's kind."""

    name: str
    label: str
    kind: str
    group: str
    added: bool
    register_slug: str


class RuleOut(BaseModel):
    """A survivorship rule: what it says of the values that win, what it ``takes`` and what of that it ``needs``."""

    name: str
    says: str
    takes: list[str]
    needs: list[str]


class LayoutOut(BaseModel):
    """A register's layout, the kinds of fields there are, the survivorship rules there are, and ready-made sets of them."""

    version: int
    fields: list[FieldOut]
    kinds: list[str]
    rules: list[RuleOut]
    rule_sets: dict[str, list[str]]


class FieldIn(BaseModel):
    """A field of a layout; the kind counts only for fields beyond the usual ones."""

    name: Annotated[Text, Field(max_length=80)]
    label: Annotated[Text, Field(max_length=80)]
    kind: Annotated[Text, Field(max_length=40)] = ""
    register_slug: Annotated[Text, Field(max_length=80)] = ""


class LayoutIn(BaseModel):
    """A layout as a person changed it: all fields beyond the usual ones, and the labels of any."""

    fields: Annotated[list[FieldIn], Field(max_length=300)]
    seen_version: Annotated[int, Field(ge=1, le=2**31 - 1)]


class ValueFieldIn(BaseModel):
    """A field of numbers, "" for none."""

    field: Annotated[Text, Field(max_length=80)]


class SourceQueryOut(BaseModel):
    """The query by which a source is asked; the address holds no secret."""

    address: str
    sql: str


#: Whether golden records are made of what a source alone knows, and of what is there already.
Creates = Literal["always", "never", "unless known"]


class SourceOut(BaseModel):
    """A source; rank 1 is trusted most. It has a query where it is asked rather than delivers files. ``creates`` says whether golden
    records are made of its records, ``supplies`` whether its values may change them."""

    name: str
    trust_rank: int
    own_duplicates: bool
    creates: Creates
    supplies: bool
    query: SourceQueryOut | None


class SourceChange(BaseModel):
    """What to change of a source."""

    trust_rank: Annotated[int, Field(ge=1, le=1000)] | None = None
    own_duplicates: bool | None = None
    creates: Creates | None = None
    supplies: bool | None = None
    seen_version: Annotated[int, Field(ge=1, le=2**31 - 1)]


def register_out(view: service.RegisterView) -> RegisterOut:
    """Return a register as it is sent."""
    rules = {unit: chain_out(chain) for unit, chain in view.rules.items()}
    return RegisterOut.model_validate({**asdict(view), "rules": rules})


def _sources(sources: Sequence[object]) -> list[SourceOut]:
    return [SourceOut.model_validate(source, from_attributes=True) for source in sources]


@router.get("/registers")
def list_registers(session: Transaction, asker: Asker) -> list[RegisterOut]:
    """All registers."""
    return [register_out(service.view_of(session, slug)) for slug in registers_known(session, asker)]


@router.post("/registers", status_code=201)
def make_register(session: Transaction, body: NewRegister, actor: Actor) -> RegisterOut:
    """Make a register."""
    fresh = service.make_register(session, body.name, body.kind, body.prefix, actor=actor)
    return register_out(service.view_of(session, fresh.slug))


@router.get("/registers/{slug}")
def get_register(session: Transaction, slug: Slug) -> RegisterOut:
    """One register."""
    return register_out(service.view_of(session, slug))


@router.get("/registers/{slug}/layout")
def get_layout(session: Transaction, slug: Slug) -> LayoutOut:
    """The register's fields."""
    layout, version = service.layout_of_register(session, slug)
    added = {field.name for field in added_fields(layout)}
    fields = [
        FieldOut(
            name=f.name, label=f.label, kind=f.kind.value, group=f.survivor_group, added=f.name in added, register_slug=f.register
        )
        for f in layout.fields
    ]  # fmt: skip
    kinds = [kind.value for kind in FieldKind]
    rules = [
        RuleOut(name=rule.name, says=rule.says, takes=sorted(rule.takes), needs=sorted(rule.needs))
        for rule in RULES.values()
    ]
    sets = {name: list(chain) for name, chain in RULE_SETS.items()}
    return LayoutOut(version=version, fields=fields, kinds=kinds, rules=rules, rule_sets=sets)


@router.put("/registers/{slug}/value-field")
def choose_value_field(session: Transaction, slug: Slug, actor: Actor, body: ValueFieldIn) -> RegisterOut:
    """Choose by which field of numbers doubts are worth more or less to decide."""
    service.choose_value_field(session, slug, body.field, actor=actor)
    return register_out(service.view_of(session, slug))


@router.put("/registers/{slug}/layout", status_code=202)
def change_layout(session: Transaction, slug: Slug, body: LayoutIn, actor: Actor) -> JobOut:
    """Change a layout; all records are tidied again in the background."""
    fields = [{**f.model_dump(exclude={"register_slug"}), "register": f.register_slug} for f in body.fields]
    return job_out(service.change_layout(session, slug, fields, actor=actor, seen_version=body.seen_version), slug)


@router.get("/registers/{slug}/sources")
def list_sources(session: Transaction, slug: Slug) -> list[SourceOut]:
    """The register's sources, most trusted first."""
    return _sources(service.sources(session, slug))


@router.patch("/registers/{slug}/sources/{name}")
def change_source(session: Transaction, slug: Slug, name: Text, body: SourceChange, actor: Actor) -> list[SourceOut]:
    """Change a source's trust rank or its promise to have no duplicates of its own; golden records follow."""
    changed = service.change_source(
        session, slug, name, actor=actor, trust_rank=body.trust_rank, own_duplicates=body.own_duplicates,
        creates=body.creates, supplies=body.supplies, seen_version=body.seen_version,
    )  # fmt: skip
    return _sources(changed)


class PersonalOut(BaseModel):
    """Which fields of a register are marked personal."""

    fields: list[str]
    version: int


class PersonalIn(BaseModel):
    """Which fields are to be personal: hidden from those who do not need them."""

    fields: Annotated[list[Text], Field(max_length=300)]
    seen_version: Annotated[int, Field(ge=1, le=2**31 - 1)]


@router.get("/registers/{slug}/personal-fields")
def get_personal(session: Transaction, slug: Slug) -> PersonalOut:
    """Which fields are personal."""
    fields, version = personal.personal_fields(session, slug)
    return PersonalOut(fields=fields, version=version)


@router.put("/registers/{slug}/personal-fields")
def put_personal(session: Transaction, actor: Actor, slug: Slug, body: PersonalIn) -> PersonalOut:
    """Set which fields are personal."""
    personal.set_personal(session, slug, body.fields, seen_version=body.seen_version, actor=actor)
    return get_personal(session, slug)
