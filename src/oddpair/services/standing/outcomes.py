"""What came of the records of a delivery, each count with its records; and how recognition stands in a register."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from ...core.errors import NotFound
from ...store import outcomes as store
from ...store.counters import counters_of
from ...store.deliveries import delivery_by_id
from ...store.golden import keys_of
from ...store.recognition import changed_since
from ...store.registers import register_by_slug, sources_of, standing_run
from ...store.tables import Source
from ..state.references import reference_fields
from .recognise import why_not


@dataclass(frozen=True, slots=True)
class Recognition:
    """How recognition stands: whether it is ``on``, why everything has to be matched the next time ("" if it need not), how many records
    changed since clusters were formed, and from how many records, when, what it rests on was learned; which golden records may be
    recognised, by the values of a field ("" for all); and what becomes of records without a parent, where there is a ``parent_field``."""

    on: bool
    hindrance: str
    changed: int
    learned_from: int
    learned_at: datetime | None
    only_field: str
    only_values: Sequence[str]
    parents: str
    parent_field: str


@dataclass(frozen=True, slots=True)
class DeliveryOutcomes:
    """What came of a delivery: its source and file, records by outcome, and in how many updated ones each field changed."""

    source: str
    file_name: str
    counts: Mapping[str, int]
    fields: Mapping[str, int]


@dataclass(frozen=True, slots=True)
class OutcomeRecord:
    """A record of a delivery: its values as they are now, the key of its golden record ("" for none), and the fields that changed."""

    id: int
    source_key: str
    fields: Mapping[str, str]
    golden_key: str
    changed: Sequence[str]


def recognition_of(session: Session, slug: str) -> Recognition:
    """Return how recognition stands in a register."""
    register = register_by_slug(session, slug)
    run = standing_run(session, register.id)
    hindrance = why_not(session, register)
    changed = (
        len(changed_since(session, register.id, run.records_version))
        if run
        else counters_of(session, register.id).records
    )
    learned = run if run and run.plan_id and not hindrance else None
    only = register.recognisable or {"field": "", "values": []}
    parent_field = next((field.label for field in reference_fields(register)), "")
    return Recognition(
        register.recognises, hindrance, changed, int(learned.report["learned_from_records"]) if learned else 0,
        learned.at if learned else None, only["field"], only["values"], register.parents, parent_field,
    )  # fmt: skip


def outcomes_of(session: Session, slug: str, delivery_id: int) -> DeliveryOutcomes:
    """Return what came of a delivery of a register; raise NotFound where nobody recognised it."""
    delivery = delivery_by_id(session, delivery_id)
    source = session.get_one(Source, delivery.source_id)
    if source not in sources_of(session, register_by_slug(session, slug).id) or not delivery.outcomes:
        raise NotFound("recognised delivery", delivery_id)
    counts = {name: number for name, number in delivery.outcomes.items() if isinstance(number, int)}
    return DeliveryOutcomes(source.name, delivery.file_name, counts, store.changed_fields(session, delivery_id))


def records_of(
    session: Session, slug: str, delivery_id: int, outcome: str, after: int, limit: int
) -> list[OutcomeRecord]:
    """Return a page of the records of a delivery with an outcome, those beyond the record ``after``."""
    outcomes_of(session, slug, delivery_id)
    rows = store.records_of_outcome(session, delivery_id, outcome, after, limit)
    keys = keys_of(session, [told.golden_id for told, _ in rows if told.golden_id])
    return [
        OutcomeRecord(record.id, record.source_key, record.fields, keys.get(told.golden_id or 0, ""), told.fields)
        for told, record in rows
    ]
