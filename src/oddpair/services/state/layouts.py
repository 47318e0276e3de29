"""The layout of a register."""

from ...core.fields import Layout, RegisterKind, layout_from
from ...store.tables import Register


def kind_of(register: Register) -> RegisterKind:
    """Return what a register's records stand for."""
    return RegisterKind(register.kind)


def layout_of(register: Register) -> Layout:
    """Return the fields of a register's records."""
    return layout_from(kind_of(register), register.layout or [])
