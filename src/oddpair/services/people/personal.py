"""Fields that are marked personal: which they are, and from whom they are hidden."""

from collections.abc import Sequence

from sqlalchemy.orm import Session

from ...core.errors import Refused
from ...core.masking import Masks, masks_for
from ...core.rights import Permission
from ...store import journal
from ...store.locks import lock_settings
from ...store.registers import all_registers, any_personal, register_by_slug
from ..state.layouts import layout_of
from ..state.versions import check_version
from ..transactions import DriverConnection
from .who import Who


def personal_fields(session: Session, slug: str) -> tuple[list[str], int]:
    """Return (the personal fields of a register in the order of its layout, the version of its settings)."""
    register = register_by_slug(session, slug)
    return [name for name in layout_of(register).names if name in set(register.personal)], register.version


def set_personal(session: Session, slug: str, fields: Sequence[str], *, seen_version: int, actor: str) -> None:
    """Mark these fields as personal, and no others; raise Refused for one that there is not, Conflict if settings changed meanwhile."""
    register = lock_settings(session, register_by_slug(session, slug).id)
    check_version(register, seen_version)
    unknown = sorted(set(fields) - set(layout_of(register).names))
    if unknown:
        raise Refused(f"There is no field '{unknown[0]}'.")
    before, register.personal = list(register.personal), sorted(set(fields))
    register.version += 1
    journal.append(
        session, register.id, "personal fields", actor=actor, data={"before": before, "after": list(register.personal)},
        personal={"summary": "Set which fields are personal"},
    )  # fmt: skip


def anything_personal(connection: DriverConnection, slug: str) -> bool:
    """Whether anything may be hidden in a register, or in any where none is named."""
    return any_personal(connection, slug)


def hidden_from(session: Session, who: Who, slug: str) -> Masks | None:
    """Return what is hidden from somebody in a register, or, where none is named, in any that they may see; None where nothing is."""
    masks = [
        masks_for(layout_of(register), register.personal)
        for register in all_registers(session)
        if register.personal
        and slug in ("", register.slug)
        and who.roles(register.slug)
        and not who.may(Permission.PERSONAL, register.slug)
    ]
    if not masks:
        return None
    return Masks(
        frozenset().union(*(one.fields for one in masks)), frozenset().union(*(one.labels for one in masks)),
        any(one.names for one in masks), frozenset().union(*(one.known for one in masks)),
    )  # fmt: skip
