"""vCard 4.0 (RFC 6350), 3.0 (RFC 2426) and 2.1, which read alike: one card is one row.

Lines are unfolded before their bytes are read as letters, for writers fold in the middle of one. Cards of version 2.1 may
write values as quoted-printable (RFC 2045, section 6.7) in an encoding of their own.

Structured properties become columns of their own ("n.family", "adr.home.street"); further values of a property and
values of another type get columns of their own ("tel.work", "tel.work.2").
"""

import quopri
import re
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path

from .encodings import MIXED, Encoding, decode_line, detect, encoding_of, open_as_utf8, wide_encoding
from .nested import nested_table
from .table import (
    BadRow,
    FileFormat,
    Reading,
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
_VERSIONS = frozenset({"2.1", "3.0", "4.0"})
_QUOTED, _CHARSET = re.compile(rb"QUOTED-PRINTABLE", re.IGNORECASE), re.compile(r"CHARSET=\"?([\w.:-]+)", re.IGNORECASE)
_MOST_CARD_LINES = 2000


def _unfolded(lines: Iterable[bytes]) -> Iterator[tuple[int, bytes]]:
    """Yield (number of its first line, bytes) of logical lines: a line that begins with a blank goes on with the last.

    So does the line after one of quoted-printable that ends in "=".
    """
    whole, first_number, goes_on = b"", 0, False
    for number, line in enumerate(lines, start=1):
        text = line.rstrip(b"\r\n")
        if goes_on or (text[:1] in (b" ", b"\t") and first_number):
            whole = whole[:-1] + text if goes_on else whole + text[1:]
        else:
            if first_number:
                yield first_number, whole
            whole, first_number = text, number
        goes_on = whole.endswith(b"=") and _QUOTED.search(whole.partition(b":")[0]) is not None
    if first_number:
        yield first_number, whole


def _decoded(text: str, parameters: str) -> str:
    """Return a value of quoted-printable as text, in the encoding that its parameters name; any other as it is."""
    if not _QUOTED.search(parameters.encode("utf-8", errors="replace")):
        return text
    raw = quopri.decodestring(text.encode("utf-8", errors="surrogateescape"))
    named = _CHARSET.search(parameters)
    try:
        return raw.decode(named[1] if named else "utf-8", errors="surrogateescape").replace("\r\n", "\\n")
    except LookupError:
        return raw.decode("utf-8", errors="surrogateescape")


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
        value_text = _decoded(found[3], found[2])
        if not is_sound(value_text):
            return BadRow(number, name, shown(raw), "the value is not written in the encoding that it names")
        for part, value in _values(name, value_text):
            if value:
                values[f"{column}.{part}" if part else column] = value
    if version not in _VERSIONS:
        return BadRow(number, "", shown(raw), f"cards of version '{version}' cannot be read, only 2.1, 3.0 and 4.0")
    return Row(number, values)


def _logical_lines(path: Path, encoding: str) -> Iterator[tuple[int, str]]:
    with open_as_utf8(path, "utf-8" if encoding == MIXED else encoding) as file:
        for number, line in _unfolded(file):
            text = line.decode("utf-8", errors="surrogateescape")
            yield number, decode_line(text) if encoding == MIXED else text


def _rows(path: Path, encoding: str) -> Iterator[Row | BadRow]:
    card: list[tuple[int, str]] = []
    begun = 0
    for number, text in _logical_lines(path, encoding):
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


def open_vcard(path: Path, name: str, reading: Reading, columns: tuple[str, ...] = ()) -> Table:
    """Open a file of cards; raise InputError if no card of it can be read. Row numbers are those of BEGIN:VCARD."""
    encoding = _encoding(path, name, reading.encoding)
    return nested_table(
        FileFormat("vcard", encoding.name, looks_misread=encoding.doubtful),
        lambda: _rows(path, encoding.name),
        name=name,
        no_record="no card of the file can be read",
        columns=columns,
    )


def _encoding(path: Path, name: str, chosen: str) -> Encoding:
    """Return the encoding, told from unfolded lines: in folded ones letters are torn apart."""
    with path.open("rb") as file:
        if chosen or wide_encoding(file.read(4096)):
            return encoding_of(path, name, chosen)
        file.seek(0)
        return detect(line for _, line in _unfolded(file))
