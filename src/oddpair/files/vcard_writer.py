"""vCard 4.0 (RFC 6350): a card for every golden record, from the fields that cards have a place for."""

from collections.abc import Iterable, Iterator, Mapping

_LINE_OCTETS = 75
_TEXT = str.maketrans({"\\": "\\\\", ",": "\\,", ";": "\\;", "\n": "\\n", "\r": None})


def vcard_lines(rows: Iterable[Mapping[str, str]]) -> Iterator[str]:
    """Yield one card a row; a row has the names of fields as keys, and the key of its golden record at "golden_key".

    A person has a given or family name; everyone else is an organisation.
    """
    for row in rows:
        yield "".join(_folded(line) for line in _card(row))


def _card(row: Mapping[str, str]) -> Iterator[str]:
    is_person = bool(row.get("name.given") or row.get("name.family"))
    yield "BEGIN:VCARD"
    yield "VERSION:4.0"
    yield f"KIND:{'individual' if is_person else 'org'}"
    if key := row.get("golden_key"):
        yield f"UID;VALUE=text:{_escaped(key)}"
    name = row.get("name") or " ".join(filter(None, (row.get("name.given"), row.get("name.family"))))
    yield f"FN:{_escaped(name or row.get('golden_key', ''))}"
    if is_person:
        parts = ("name.family", "name.given", "name.middle", "", "name.suffix")
        yield "N:" + ";".join(_escaped(row.get(part, "")) for part in parts)
    elif name:
        yield f"ORG:{_escaped(name)}"
    yield from _contacts(row)
    yield "END:VCARD"


def _contacts(row: Mapping[str, str]) -> Iterator[str]:
    street = " ".join(filter(None, (row.get("address.line"), row.get("address.number"))))
    # Post-office box and extended address are kept empty, as RFC 6350, section 6.3.1, recommends.
    address = ["", "", ", ".join(filter(None, (street, row.get("address.line2"))))]
    address += [row.get(f"address.{part}", "") for part in ("city", "region", "postcode", "country")]
    if any(address):
        yield "ADR:" + ";".join(map(_escaped, address))
    if phone := row.get("phone"):
        yield f"TEL;VALUE=uri:tel:{phone}" if phone.startswith("+") and " " not in phone else f"TEL:{_escaped(phone)}"
    if mail := row.get("email"):
        yield f"EMAIL:{_escaped(mail)}"
    if site := row.get("web_site"):
        yield f"URL:{site if '://' in site else 'https://' + site}"
    birth = row.get("birth_date", "")
    if birth.replace("-", "").isdigit():
        yield f"BDAY:{birth.replace('-', '')}"


def _escaped(text: str) -> str:
    return text.translate(_TEXT)


def _folded(line: str) -> str:
    """Return a content line folded so that none has more than 75 octets, never within a letter (RFC 6350, section 3.2)."""
    if len(line.encode("utf-8", "replace")) <= _LINE_OCTETS:
        return line + "\r\n"
    pieces: list[str] = []
    piece, size = "", 0
    for letter in line:
        octets = len(letter.encode("utf-8", "replace"))
        if size + octets > _LINE_OCTETS:
            pieces.append(piece)
            piece, size = " ", 1
        piece, size = piece + letter, size + octets
    return "\r\n".join([*pieces, piece]) + "\r\n"
