"""vCard 4.0 (RFC 6350), and 3.0 (RFC 2426), which reads alike: one card is one row.

Structured properties become columns of their own ("n.family", "adr.home.street"); further values of a property and
values of another type get columns of their own ("tel.work", "tel.work.2").
"""

import re
from collections.abc import Iterator, Sequence
from pathlib import Path

from .nested import nested_table
from .table import (
    BadRow,
    FileFormat,
    Row,
    Table,
    is_sound,
    shown,
)

_PARTS = {
    "n": ("family", "given", "additional", "prefix", "suffix"),
    "adr": ("po box", "extended", "street", "city", "region", "postcode", "country"),
    "org": ("name", "unit", "unit 2"),
}
_LINE = re.compile(r"^(?:[A-Za-z0-9\-]+\.)?([A-Za-z0-9\-]+)((?:;[^:;\"]*(?:\"[^\"]*\"[^:;\"]*)*)*):(.*)$", re.DOTALL)
_TYPE = re.compile(r";(?:TYPE=)?\"?([A-Za-z][A-Za-z0-9\-,]*)\"?(?=;|$)", re.IGNORECASE)
#: Types that say how a value is reached or weighed rather than what it is for.
_SILENT_TYPES = frozenset({"voice", "text", "pref", "internet", "uri", "postal", "parcel", "msg"})
#: Properties that hold no text a person would map.
_LEFT_OUT = frozenset({"begin", "end", "version", "photo", "logo", "sound", "key", "prodid"})
_VERSIONS = frozenset({"3.0", "4.0"})
_MOST_CARD_LINES = 2000


def _unfolded(lines: Iterator[str]) -> Iterator[tuple[int, str]]:
    """Yield (number of its first line, text) of logical lines: a line that begins with a blank goes on with the last."""
    held, held_number = "", 0
    for number, line in enumerate(lines, start=1):
        text = line.rstrip("\r\n")
        if text[:1] in (" ", "\t") and held_number:
            held += text[1:]
            continue
        if held_number:
            yield held_number, held
        held, held_number = text, number
    if held_number:
        yield held_number, held


def _split(text: str, separator: str) -> list[str]:
    """Split at separators that are not escaped, and take the escapes away."""
    parts = [""]
    for piece in re.findall(r"\\.|[^\\]+|\\$", text) if "\\" in text else [text]:
        if piece[0] == "\\":
            parts[-1] += " " if piece[1:] in ("n", "N") else piece[1:]
        else:
            first, *more = piece.split(separator)
            parts[-1] += first
            parts += more
    return [part.strip() for part in parts]


def _values(name: str, text: str) -> Iterator[tuple[str, str]]:
    """Yield (part or "", value) of a property."""
    if name not in _PARTS:
        yield "", _split(text.removeprefix("tel:").removeprefix("mailto:"), "\0")[0]
    else:
        yield from zip(_PARTS[name], _split(text, ";"), strict=False)


def _column(name: str, parameters: str) -> str:
    types = [kind for found in _TYPE.findall(parameters) for kind in found.lower().split(",")]
    label = next((kind for kind in types if kind not in _SILENT_TYPES and "=" not in kind), "")
    return f"{name}.{label}" if label else name


def _card(number: int, lines: Sequence[tuple[int, str]]) -> Row | BadRow:
    raw = "\n".join(text for _, text in lines)
    if not is_sound(raw):
        return BadRow(number, "", shown(raw), "the card holds bytes that are not valid UTF-8")
    values: dict[str, str] = {}
    seen: dict[str, int] = {}
    version = ""
    for line, text in lines:
        if not text.strip():
            continue
        found = _LINE.match(text)
        if found is None:
            return BadRow(number, "", shown(raw), f"line {line} of the file is no property of a card")
        name = found[1].lower()
        if name == "version":
            version = found[3].strip()
        if name in _LEFT_OUT:
            continue
        column = _column(name, found[2])
        seen[column] = seen.get(column, 0) + 1
        if seen[column] > 1:
            column = f"{column}.{seen[column]}"
        for part, value in _values(name, found[3]):
            if value:
                values[f"{column}.{part}" if part else column] = value
    if version not in _VERSIONS:
        return BadRow(number, "", shown(raw), f"cards of version '{version}' cannot be read, only 3.0 and 4.0")
    return Row(number, values)


def _rows(path: Path) -> Iterator[Row | BadRow]:
    card: list[tuple[int, str]] = []
    begun = 0
    with path.open(encoding="utf-8-sig", errors="surrogateescape") as file:
        for number, text in _unfolded(file):
            mark = text.strip().upper()
            if mark == "BEGIN:VCARD":
                if begun:
                    yield BadRow(begun, "", shown("\n".join(t for _, t in card)), "the card never ends")
                begun, card = number, []
            elif mark == "END:VCARD" and begun:
                yield _card(begun, card)
                begun = 0
            elif begun and len(card) < _MOST_CARD_LINES:
                card.append((number, text))
            elif text.strip():
                yield BadRow(number, "", shown(text), "the line belongs to no card")
    if begun:
        yield BadRow(begun, "", shown("\n".join(text for _, text in card)), "the card never ends")


def open_vcard(path: Path, name: str, columns: tuple[str, ...] = ()) -> Table:
    """Open a file of cards; raise InputError if no card of it can be read. Row numbers are those of BEGIN:VCARD."""
    return nested_table(
        FileFormat("vcard", "utf-8"),
        lambda: _rows(path),
        name=name,
        no_record="no card of the file can be read",
        columns=columns,
    )
