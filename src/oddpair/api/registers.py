"""Registers, their layout, sources and survivorship rules."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ..core.fields import FieldKind, RegisterKind, added_fields
from ..core.survivorship import RULES
from ..services import work
from ..services.registers import registers as service
from ..services.state.layouts import layout_of
from ..store import registers as store
from ..store.tables import Register, Source
from .dependencies import Actor, AppState, Slug, Text, Transaction
from .jobs import JobOut, job_out

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
    """A register with what waits in it; ``run_due`` says in words why a new run is due."""

    slug: str
    name: str
    kind: RegisterKind
    prefix: str
    rules: dict[str, str]
    counts: StageCountsOut
    run_id: int | None
    run_due: list[str]


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


class LayoutOut(BaseModel):
    """A register's layout, the kinds of fields there are, and the survivorship rules there are, with what each says."""

    fields: list[FieldOut]
    kinds: list[str]
    rules: dict[str, str]


class FieldIn(BaseModel):
    """A field of a layout; the kind counts only for fields beyond the usual ones."""

    name: Annotated[Text, Field(max_length=80)]
    label: Annotated[Text, Field(max_length=80)]
    kind: Annotated[Text, Field(max_length=40)] = ""
    register_slug: Annotated[Text, Field(max_length=80)] = ""


class LayoutIn(BaseModel):
    """A layout as a person changed it: all fields beyond the usual ones, and the labels of any."""

    fields: Annotated[list[FieldIn], Field(max_length=300)]


class SourceQueryOut(BaseModel):
    """The query by which a source is asked; the address holds no secret."""

    address: str
    sql: str


class SourceOut(BaseModel):
    """A source; rank 1 is trusted most. It has a query where it is asked rather than delivers files."""

    name: str
    trust_rank: int
    own_duplicates: bool
    query: SourceQueryOut | None


class SourceChange(BaseModel):
    """What to change of a source."""

    trust_rank: Annotated[int, Field(ge=1, le=1000)] | None = None
    own_duplicates: bool | None = None


class RulesChange(BaseModel):
    """Survivorship rules by field or group."""

    rules: dict[Text, Text]


def _out(session: Transaction, register: Register) -> RegisterOut:
    return RegisterOut.model_validate(service.view(session, register), from_attributes=True)


def _sources(sources: list[Source]) -> list[SourceOut]:
    return [SourceOut.model_validate(source, from_attributes=True) for source in sources]


@router.get("/registers")
def list_registers(session: Transaction) -> list[RegisterOut]:
    """All registers."""
    return [_out(session, register) for register in store.all_registers(session)]


@router.post("/registers", status_code=201)
def make_register(session: Transaction, body: NewRegister) -> RegisterOut:
    """Make a register."""
    return _out(session, service.make_register(session, body.name, body.kind, body.prefix))


@router.get("/registers/{slug}")
def get_register(session: Transaction, slug: Slug) -> RegisterOut:
    """One register."""
    return _out(session, store.register_by_slug(session, slug))


@router.get("/registers/{slug}/layout")
def get_layout(session: Transaction, slug: Slug) -> LayoutOut:
    """The register's fields."""
    layout = layout_of(store.register_by_slug(session, slug))
    added = {field.name for field in added_fields(layout)}
    fields = [
        FieldOut(
            name=f.name,
            label=f.label,
            kind=f.kind.value,
            group=f.survivor_group,
            added=f.name in added,
            register_slug=f.register,
        )
        for f in layout.fields
    ]
    kinds = [kind.value for kind in FieldKind]
    return LayoutOut(fields=fields, kinds=kinds, rules={rule.name: rule.says for rule in RULES.values()})


@router.put("/registers/{slug}/layout", status_code=202)
def change_layout(state: AppState, slug: Slug, body: LayoutIn, actor: Actor) -> JobOut:
    """Change a layout; all records are tidied again in the background."""
    with state.sessions.begin() as session:
        service.change_layout(
            session,
            slug,
            [{**f.model_dump(exclude={"register_slug"}), "register": f.register_slug} for f in body.fields],
            actor=actor,
        )
        answer = job_out(work.ask_again(session, slug, "tidy", "Tidy again", {"register": slug}))
    state.enqueue(answer.id)
    return answer


@router.put("/registers/{slug}/rules")
def change_rules(session: Transaction, slug: Slug, body: RulesChange) -> RegisterOut:
    """Change survivorship rules; golden records follow at once."""
    return _out(session, service.change_rules(session, slug, body.rules))


@router.get("/registers/{slug}/sources")
def list_sources(session: Transaction, slug: Slug) -> list[SourceOut]:
    """The register's sources, most trusted first."""
    return _sources(list(store.sources_of(session, store.register_by_slug(session, slug).id)))


@router.patch("/registers/{slug}/sources/{name}")
def change_source(session: Transaction, slug: Slug, name: Text, body: SourceChange) -> list[SourceOut]:
    """Change a source's trust rank or its promise to have no duplicates of its own."""
    changed = service.change_source(session, slug, name, trust_rank=body.trust_rank, own_duplicates=body.own_duplicates)
    return _sources(list(changed))
