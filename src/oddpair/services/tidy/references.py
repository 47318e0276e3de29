"""What is known of references to other registers: listed, resolved anew, linked by hand."""

from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...core.sign_off import Facts, Matter
from ...store import journal
from ...store import references as store
from ...store.registers import register_by_slug
from ...store.tables import RecordReference, SourceRecord
from ..proposals.gate import Intent, ask_second_yes
from ..state.layouts import layout_of
from ..state.references import Directory, LikelyTarget, reference_fields, resolve
from ..state.words import name_of

_LISTED = 300


@dataclass(frozen=True, slots=True)
class Unresolved:
    """A reference that leads nowhere yet, and what it might lead to."""

    record_id: int
    source: str
    source_key: str
    value: str
    likely: list[LikelyTarget]


@dataclass(frozen=True, slots=True)
class ReferenceField:
    """A field that refers to another register: how many references are known and how, and those that are not."""

    field: str
    label: str
    register: str
    by_id: int
    by_name: int
    by_hand: int
    unresolved: int
    listed: list[Unresolved]


def references(session: Session, slug: str) -> list[ReferenceField]:
    """Return what is known of every reference field of a register."""
    register = register_by_slug(session, slug)
    known = []
    for field in reference_fields(register):
        counts = store.counts(session, register.id, field.name)
        open_ = store.unresolved(session, register.id, field.name, _LISTED)
        directory = Directory(session, register_by_slug(session, field.register)) if open_ else None
        listed = [
            Unresolved(record, source, key, value, directory.likely_targets(value) if directory else [])
            for record, source, key, value in open_
        ]
        known.append(
            ReferenceField(
                field.name, field.label, field.register, counts.get("id", 0), counts.get("name", 0), counts.get("hand", 0),
                counts.get("none", 0), listed,
            )
        )  # fmt: skip
    return known


def link(session: Session, slug: str, field: str, record_id: int, target_id: int, *, actor: str) -> None:
    """Link a reference by hand; raise NotFound or Refused if one of the records is not of its register."""
    register = register_by_slug(session, slug)
    target_register = register_by_slug(session, layout_of(register).field(field).register)
    record, target = session.get(SourceRecord, record_id), session.get(SourceRecord, target_id)
    if record is None or record.register_id != register.id or not record.fields.get(field):
        raise NotFound("reference of record", record_id)
    if target is None or target.register_id != target_register.id or target.state == "withdrawn":
        raise Refused(f"Record {target_id} is none of {target_register.name}.")
    label = layout_of(register).field(field).label
    link = session.get(RecordReference, (record_id, field))
    summary = f"Linked {label} '{record.fields[field]}'"
    arguments = {"field": field, "record_id": record_id, "target_id": target_id}
    step = Intent(
        "link", arguments, Facts(Matter.VALUE, f"link {record_id} {field}", field=field), summary,
        [(label, record.fields[field], name_of(target.fields))], touches=[("record", record_id)], leads_to="tidy/references",
    )  # fmt: skip
    ask_second_yes(session, register, step, actor=actor)
    if link is None:
        link = RecordReference(record_id=record_id, field=field, value="", how="", actor="")
        session.add(link)
    link.value, link.target_id, link.how, link.actor = record.fields[field], target_id, "hand", actor
    data = {"field": field, "record": record_id, "target": target_id}
    journal.append(
        session, register.id, "link", actor=actor, data=data, personal={"summary": summary, "value": link.value},
        touches=[("record", record_id)],
    )  # fmt: skip


def resolve_anew(session: Session, slug: str) -> list[ReferenceField]:
    """Resolve all references of a register anew, as after a delivery to the other register; return what is known then."""
    resolve(session, register_by_slug(session, slug))
    return references(session, slug)
