"""Entering a record: what is there already is told first; then it is used, added to, or one is created all the same.

A new record is one of the source *entered here*, brought in like any other, so that it can be taken back; it is recognised at once. What a
person said about those it is like (the same, another) is a decision, which holds.
"""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import Conflict, NotFound, Refused, did_you_mean
from ...core.fields import Layout
from ...store import journal
from ...store.golden import follow, golden_by_key
from ...store.membership import members_of
from ...store.records import golden_key_of
from ...store.registers import register_by_slug, source_by_name
from ...store.tables import Entry, Register, SourceRecord
from ..bring_in.made_rows import bring_in_rows
from ..review.decide import decide
from ..standing.look_up import Candidate
from ..state.layouts import layout_of
from ..transactions import KeptInstead
from .checks import Told, look_into

Act = Literal["use", "add", "create"]
#: The source of what people enter here.
ENTERED_HERE = "entered here"
#: So many records of a golden record are told apart from a new one; the others follow these.
_MOST_APART = 50
_NO_REASON = "Say why it is created all the same; what is there already was told."


@dataclass(frozen=True, slots=True)
class Wished:
    """What a person wants to enter: ``values`` by field; to ``use`` a golden record as it is, ``add`` to it, or ``create`` one, and the
    ``key`` of the one that is there; why one is created all the same; and from which trusted reference values were taken."""

    values: Mapping[str, str]
    act: Act
    key: str = ""
    reason: str = ""
    taken: Mapping[str, str] | None = None


@dataclass(frozen=True, slots=True)
class Entered:
    """What came of it: the golden key where it is known already, and the id of the new record in the source *entered here*, "" for none."""

    entry: Entry
    source_key: str


def cleaned(layout: Layout, values: Mapping[str, str]) -> dict[str, str]:
    """Return what was typed, without what is empty; raise Refused for a field that there is not, or where nothing is typed."""
    for name in values:
        if name not in layout.names:
            raise Refused(f"There is no field '{name}'.{did_you_mean(name, layout.names)}")
    kept = {name: value.strip() for name, value in values.items() if value.strip()}
    if not kept:
        raise Refused("Nothing was typed yet.")
    return kept


def enter(
    session: Session, slug: str, wished: Wished, candidates: Sequence[Candidate], folder: Path, *, actor: str
) -> Entered:
    """Enter a record in the open transaction.

    Raises Refused where a check forbids it, or where somebody may be there already and no reason is given; Conflict where the golden record
    that is named is not there any more.
    """
    register = register_by_slug(session, slug)
    values = cleaned(layout_of(register), wished.values)
    told = look_into(session, register, values, candidates)
    if wished.act == "create":
        _check_creating(register, wished, candidates, told)
    golden_id = _golden(session, register, wished)
    entry = Entry(
        register_id=register.id, act=wished.act, golden_key=wished.key, values=values, reason=wished.reason, taken=dict(wished.taken or {}),
        told={"checks": [asdict(one) for one in told], "candidates": [[one.golden_key, one.verdict, one.score] for one in candidates]},
        actor=actor,
    )  # fmt: skip
    session.add(entry)
    session.flush()
    source_key = ""
    if wished.act != "use":
        source_key = _source_key(entry)
        record = _bring_in(session, slug, entry, source_key, folder, actor)
        _decide(session, register, record, wished, golden_id, candidates, actor)
    journal.append(
        session, register.id, "enter", actor=actor, data={"entry": entry.id, "act": wished.act, "delivery": entry.delivery_id},
        personal={"summary": _summary(wished, source_key), "reason": wished.reason, "taken": dict(entry.taken)},
    )  # fmt: skip
    return Entered(entry, source_key)


def _source_key(entry: Entry) -> str:
    return f"E{entry.id:05d}"


def entered(session: Session, slug: str, entry_id: int) -> tuple[Entered, str]:
    """Return what was entered, and the golden key that it has now: "" as long as a new record is not recognised; raise NotFound."""
    register = register_by_slug(session, slug)
    entry = session.get(Entry, entry_id)
    if entry is None or entry.register_id != register.id:
        raise NotFound("entry", entry_id)
    if entry.delivery_id is None:
        return Entered(entry, ""), entry.golden_key
    source = source_by_name(session, register.id, ENTERED_HERE)
    own = _source_key(entry)
    return Entered(entry, own), (source and golden_key_of(session, source.id, own)) or ""


def _summary(wished: Wished, source_key: str) -> str:
    if wished.act == "use":
        return f"Used {wished.key} instead of entering it again"
    return f"Entered {source_key}, which is {wished.key}" if wished.act == "add" else f"Entered {source_key}"


def _check_creating(register: Register, wished: Wished, candidates: Sequence[Candidate], told: Sequence[Told]) -> None:
    if not register.recognises:
        raise Refused("Records are entered where they are recognised as they come in. Switch that on under Bring in.")
    forbidding = next((one for one in told if one.forbids), None)
    if forbidding:
        keys = ", ".join(forbidding.golden_keys)
        raise Refused(f"{keys} is there with {forbidding.says}. Use it, or add to it; a check forbids another one.")
    if (told or any(one.verdict == "same" for one in candidates)) and not wished.reason.strip():
        raise Refused(_NO_REASON)


def _golden(session: Session, register: Register, wished: Wished) -> int:
    """Return the golden record that is used or added to; 0 for none."""
    if wished.act == "create":
        return 0
    if not register.recognises and wished.act == "add":
        raise Refused("Records are entered where they are recognised as they come in. Switch that on under Bring in.")
    try:
        golden = golden_by_key(session, register.id, wished.key)
    except NotFound as error:
        raise Refused("Say which golden record it is.") from error
    if follow(session, golden) is not golden or golden.withdrawn_at is not None:
        raise Conflict(f"{wished.key} is not in force any more. Look again.")
    return golden.id


def _bring_in(session: Session, slug: str, entry: Entry, source_key: str, folder: Path, actor: str) -> int:
    """Bring a record in as a delivery of one row; return its number."""
    rows = {source_key: dict(entry.values)}
    entry.delivery_id = bring_in_rows(session, slug, ENTERED_HERE, source_key, rows, folder, actor=actor).id
    source = source_by_name(session, entry.register_id, ENTERED_HERE)
    assert source is not None
    chosen = select(SourceRecord.id).where(SourceRecord.source_id == source.id, SourceRecord.source_key == source_key)
    return session.scalars(chosen).one()


def _decide(
    session: Session, register: Register, record: int, wished: Wished, golden_id: int, candidates: Sequence[Candidate], actor: str
) -> None:  # fmt: skip
    """Decide that a new record is the one that it is added to, or none of those that were told; where that needs a second yes, it is
    proposed beside the record, which is there all the same."""
    if golden_id:
        verdict, others = "same", members_of(session, [golden_id])[golden_id][:1]
    else:
        golden = [golden_by_key(session, register.id, one.golden_key).id for one in candidates]
        verdict, members = "different", members_of(session, golden)
        others = [other for one in golden for other in members[one][:_MOST_APART]]
    for other in others:
        try:
            decide(
                session,
                register.slug,
                record,
                other,
                verdict=verdict,
                remark=wished.reason,
                actor=actor,
                seen_decision=None,
            )
        except KeptInstead as waiting:
            waiting.keep(session)
