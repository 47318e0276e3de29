"""Erasing what is kept of a person: asked for, signed off, done in the background."""

from collections.abc import Sequence
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from ...core.errors import Refused
from ...core.sign_off import Facts, Matter
from ...store import forgetting as store
from ...store import journal
from ...store import proposals as proposal_store
from ...store.golden import pin_by_id
from ...store.locks import lock_membership
from ...store.registers import register_by_slug
from ...store.sealing import digest_of
from ...store.settling import touch
from ...store.tables import Job, Register
from .. import work
from ..proposals.gate import Intent, Line, ask_second_yes, end_proposal
from ..state.bring_up_to_date import Progress, RecordChange, bring_up_to_date
from ..state.words import counted
from .find import Everywhere, everywhere, find, records_of

FORGET = "forget"


def ask_to_forget(
    session: Session, slug: str, *, record_ids: Sequence[int], reason: str, actor: str, key: str = ""
) -> Job:
    """Ask for all that is kept of a person to be erased; it always needs a second yes (raises WaitsForSignOff until it was given).

    The reason is kept for ever, so it must not name the person.
    """
    register = register_by_slug(session, slug)
    if not reason.strip():
        raise Refused(
            "Erasing needs a reason, such as the number of the request. It is kept, so it must not name the person."
        )
    chosen = records_of(session, slug, key=key, record_ids=record_ids)
    told = f"Erase what is kept of a person: {counted(len(chosen), 'record')} ({reason.strip()})"
    intent = Intent(
        FORGET, {"record_ids": chosen, "reason": reason.strip()}, Facts(Matter.FORGETTING, f"forget {digest_of(chosen)[:24]}"), told,
        touches=[("record", record) for record in chosen], leads_to=f"forget?records={','.join(map(str, chosen))}",
    )  # fmt: skip
    ask_second_yes(session, register, intent, actor=actor, shown=lambda: _lines(session, slug, chosen))
    arguments = {"register": slug, "record_ids": chosen, "reason": reason.strip(), "actor": actor}
    return work.ask_for(session, slug, FORGET, "Erase what is kept of a person", arguments)


def _lines(session: Session, slug: str, chosen: Sequence[int]) -> list[Line]:
    found = find(session, slug, record_ids=chosen)
    lines: list[Line] = [
        (f"{one.source} {one.source_key}", ", ".join(one.fields.values()), "erased") for one in found.records
    ]
    lines += [(key, "golden record", "erased, as far as it comes of these records") for key in found.golden_keys]
    lines += [(what, str(count), "erased") for what, count in found.places]
    lines += [(file.name, file.what, "stays: it is still needed" if file.needed else "deleted") for file in found.files]
    return lines + [(who, f"was told {how}", "is to be asked by you") for who, how in found.told]


def forget(
    session: Session,
    slug: str,
    record_ids: Sequence[int],
    *,
    reason: str,
    actor: str,
    folder: Path,
    kept: Path,
    progress: Progress,
) -> dict[str, Any]:
    """Erase all that is kept of records in the open transaction, and the files that hold them; return counts.

    Done once more, it finds nothing left to do.
    """
    register = lock_membership(session, register_by_slug(session, slug).id)
    progress("find", 0, 0)
    found = everywhere(session, register, record_ids)
    _end_proposals(session, found, actor)
    _lift_pins(session, register, found, actor)
    entry_id = journal.reserve(session)
    progress("erase", 0, 0)
    store.erase_records(session)
    touch(session, record_ids)
    outcome = bring_up_to_date(session, register, RecordChange(deliveries=True, entry_id=entry_id), progress)
    store.choose(session, record_ids)
    store.erase_golden(session)
    # What ending proposals and lifting pins said is erased with the rest.
    again = everywhere(session, register, record_ids)
    for what, ids in found.texts.items():
        store.erase_texts(session, what, {*ids, *again.texts[what]})
    store.erase_summaries(session, register.id)
    files = [file for file in found.files if not file.needed]
    for file in files:
        (folder / file.stored_as).unlink(missing_ok=True)
    for left in kept.glob(f"*-{register.id}-*"):
        with suppress(OSError):
            left.unlink()
    counts = {"records": len(record_ids), "files": len(files), "journal": len(found.texts["entries of the journal"])}
    data: dict[str, Any] = {"records": sorted(record_ids), **counts} | (
        {"moves": outcome.moves} if outcome.moves else {}
    )
    journal.append(
        session, register.id, FORGET, actor=actor, data=data, entry_id=entry_id, personal={
            "summary": f"Erased what was kept of a person: {counted(len(record_ids), 'record')}", "reason": reason,
        }, touches=[("record", record) for record in record_ids],
    )  # fmt: skip
    return counts


def _end_proposals(session: Session, found: Everywhere, actor: str) -> None:
    for number in found.texts["proposals"]:
        proposal = proposal_store.locked(session, number)
        if proposal.state in (proposal_store.WAITING, proposal_store.SENT_BACK):
            end_proposal(session, proposal, "overtaken", actor=actor, reason="What it was about was erased")


def _lift_pins(session: Session, register: Register, found: Everywhere, actor: str) -> None:
    """Erase the pins that hold the person's values, and lift those that stand: others may belong to the golden record, too."""
    for held in store.pins_held(session):
        if not (found.traces.held_in(held.value) or found.traces.mentioned_in(held.reason)):
            continue
        pin = pin_by_id(session, held.id)
        pin.value = pin.reason = ""
        if held.stands:
            pin.lifted_at = datetime.now(UTC)
            journal.append(
                session, register.id, "lift", actor=actor, data={"golden": held.golden_id, "field": held.field, "pin": held.id},
                personal={"summary": "Lifted a pin whose value was erased"}, touches=[("golden", held.golden_id)],
            )  # fmt: skip
