"""Swap lists and value maps that can be taken over as they are: what the parsers know, as tables that people can change."""

from collections.abc import Callable

from ..errors import NotFound
from ..text.tables import read_lines
from .word_tables import TableKind, looked_up

_PEOPLE, _ORGANISATIONS, _ADDRESSES = (f"oddpair.core.{name}" for name in ("people", "organisations", "addresses"))

Entries = list[tuple[str, str]]


def _forms(package: str, file: str, *, standard_first: bool = False) -> Entries:
    """Return (form, standard) of a data file with lines "standard: form, form", or without a colon the first of all."""
    entries: Entries = []
    for line in read_lines(package, file):
        standard, mark, forms = line.partition(":")
        if not mark:
            standard, _, forms = line.partition(",")
        entries += [(form.strip(), standard.strip()) for form in forms.split(",")]
        if standard_first:
            entries.append((standard.strip(), standard.strip()))
    return entries


def _countries() -> Entries:
    return [(name, code.upper()) for name, code in _forms(_ADDRESSES, "countries.txt", standard_first=True)]


def _regions() -> Entries:
    entries: Entries = []
    for line in read_lines(_ADDRESSES, "regions.txt"):
        if not line.startswith("["):
            code, _, names = line.partition(":")
            entries += [(name.strip(), code.strip()) for name in names.split(",")]
    return entries


_MADE: dict[str, tuple[TableKind, Callable[[], Entries]]] = {
    "legal forms": (TableKind.SWAP_LIST, lambda: _forms(_ORGANISATIONS, "legal_forms.txt")),
    "short given names": (TableKind.SWAP_LIST, lambda: _forms(_PEOPLE, "short_forms.txt")),
    "street types": (TableKind.SWAP_LIST, lambda: _forms(_ADDRESSES, "street_types.txt")),
    "regions to codes": (TableKind.VALUE_MAP, _regions),
    "countries to codes": (TableKind.VALUE_MAP, _countries),
}
READY_MADE = tuple(_MADE)


def ready_made(name: str) -> tuple[TableKind, Entries]:
    """Return (kind, entries) of a ready-made table; where two standards claim a form, the first one has it."""
    if name not in _MADE:
        raise NotFound("ready-made table", name)
    kind, make = _MADE[name]
    entries: dict[str, tuple[str, str]] = {}
    for source, target in make():
        if looked_up(source) and target:
            entries.setdefault(looked_up(source), (source, target))
    return kind, list(entries.values())
