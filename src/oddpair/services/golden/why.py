"""Why two records are one, or are not: from their first deliveries to today."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from ...core.clustering import way_between
from ...core.errors import NotFound
from ...store import journal
from ...store.golden import keys_of, records_with_sources
from ...store.journal_search import Sought, all_sought
from ...store.membership import golden_of, members_of
from ...store.registers import register_by_slug
from ...store.tables import JournalEntry, Register
from ...store.why import decisions_between, deliveries_of
from ..state.words import name_of
from .golden_page import Bond, bonds_among
from .steps import membership_step, step_in_words, summary_of, undone_steps

#: Told by the deliveries and decisions themselves.
_TOLD_OTHERWISE = frozenset({"load", "decide", "decide many", "decide group"})


@dataclass(frozen=True, slots=True)
class Named:
    """A record: its number, source, the source's id, and its name as it was delivered last."""

    id: int
    source: str
    source_key: str
    name: str


@dataclass(frozen=True, slots=True)
class Happened:
    """Something that happened to one of the two, or to both: by whom, what, with which reason; ``undone`` where it was taken back since."""

    at: datetime
    actor: str
    what: str
    says: str
    reason: str
    entry: int | None
    undone: bool


@dataclass(frozen=True, slots=True)
class Why:
    """What is so today, with the links that lead from one record to the other, and all that happened, oldest first."""

    left: Named
    right: Named
    golden_keys: tuple[str, str]
    are_one: bool
    path: list[tuple[Named, Named, float | None, str]]
    happened: list[Happened]


def why(session: Session, slug: str, left_id: int, right_id: int) -> Why:
    """Return why two records of a register are one golden record, or are not; raise NotFound where they are not of it."""
    register = register_by_slug(session, slug)
    if left_id == right_id:
        raise NotFound("pair", f"{left_id} / {right_id}")
    named = _named(session, register, [left_id, right_id])
    belongs = golden_of(session, [left_id, right_id])
    keys = keys_of(session, set(belongs.values()))
    golden = [belongs.get(record) for record in (left_id, right_id)]
    are_one = golden[0] is not None and golden[0] == golden[1]
    path: list[Bond] = []
    if golden[0] is not None and are_one:
        members = members_of(session, [golden[0]])[golden[0]]
        bonds = bonds_among(session, register, members)
        way = way_between([(bond.left_id, bond.right_id) for bond in bonds], left_id, right_id)
        path = [bonds[number] for number in way]
        named |= _named(session, register, [end for bond in path for end in (bond.left_id, bond.right_id)])
    one, other = (keys[key] if key is not None else "" for key in golden)
    return Why(
        named[left_id], named[right_id], (one, other), are_one,
        [(named[bond.left_id], named[bond.right_id], bond.score, bond.reason) for bond in path],
        _happened(session, register, named[left_id], named[right_id]),
    )  # fmt: skip


def _named(session: Session, register: Register, record_ids: Sequence[int]) -> dict[int, Named]:
    found = records_with_sources(session, record_ids)
    for record_id in record_ids:
        if record_id not in found or found[record_id][0].register_id != register.id:
            raise NotFound("record", record_id)
    return {
        record_id: Named(record_id, source.name, record.source_key, name_of(record.fields))
        for record_id, (record, source) in found.items()
    }


def _happened(session: Session, register: Register, left: Named, right: Named) -> list[Happened]:
    found = [
        Happened(
            at, "", "delivered", f"{_whose(record, left, right)} came with {file_name}" if first else
            f"{_whose(record, left, right)} changed with {file_name}", "", None, taken_back,
        )
        for record, at, file_name, first, taken_back in deliveries_of(session, [left.id, right.id])
    ]  # fmt: skip
    told = dict[int, Happened]()
    for record in (left, right):
        for entry in all_sought(session, register.id, Sought(record_id=record.id)):
            if entry.id not in told and entry.kind not in _TOLD_OTHERWISE:
                told[entry.id] = _told(session, entry, (left.id, right.id))
    # What came of a step, to keep apart what it parted, is told by the step.
    found += [
        Happened(
            said.at, said.actor, "decided", f"The two are {said.verdict}" if said.verdict != "later" else "Decided later",
            said.remark, said.journal_id, said.withdrawn_at is not None,
        )
        for said in decisions_between(session, left.id, right.id)
        if said.journal_id not in told
    ]  # fmt: skip
    found += told.values()
    return sorted(found, key=lambda one: (one.at, one.entry or 0))


def _told(session: Session, entry: JournalEntry, records: Sequence[int]) -> Happened:
    """Return what an entry did to some records, in words, and whether all of that was taken back."""
    parts = sorted({part for part, moved, _, _ in journal.moves_of(session, entry.id) if moved in records})
    undone = undone_steps(session, [(entry.id, part) for part in parts])
    says = [step_in_words(session, entry, membership_step(session, entry.id, part)) for part in parts]
    taken_back = bool(parts) and all((entry.id, part) in undone for part in parts)
    personal = entry.personal or {}
    reason = str(personal.get("reason") or personal.get("remark") or "")
    return Happened(
        entry.at, entry.actor, entry.kind, "; ".join(says) or summary_of(entry), reason, entry.id, taken_back
    )


def _whose(record: int, left: Named, right: Named) -> str:
    named = left if record == left.id else right
    return f"{named.source} {named.source_key}"
