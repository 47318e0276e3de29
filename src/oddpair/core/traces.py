"""The traces that a person leaves in texts: whether a text, in whatever form, speaks of them."""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import product

from .fields import FieldKind, Layout
from .text.folding import fold

#: Shorter ones stand in too many texts that are about something else.
_LEAST_LETTERS, _LEAST_DIGITS, _LEAST_NAME = 5, 7, 2
#: A part of a name that tells its bearer where one knows that it is a name.
_LEAST_PART = 3
#: So many of the last digits tell a telephone, with whatever prefix it is written.
_LAST_DIGITS = 8
#: So many signs at an end of something stand together however it is written.
_PIECE = 3
_NOT_A_SIGN, _NOT_A_DIGIT = re.compile(r"[^0-9a-z]+"), re.compile(r"\D+")
_WORD = re.compile(r"[^\W_]+")
_NAMES = (FieldKind.PERSON_NAME, FieldKind.ORGANISATION_NAME)


def _signs(text: str) -> str:
    return _NOT_A_SIGN.sub("", fold(text))


def _words(text: str) -> frozenset[str]:
    return frozenset(_WORD.findall(fold(text)))


@dataclass(frozen=True, slots=True)
class Traces:
    """What tells that a text is about a person: ``names`` as sets of words that all stand in it, ``signs`` (e-mails, identifiers, without
    what is between letters and digits) and ``phones`` (their last digits) one of which stands in it. ``patterns`` are pieces in small
    letters one of which stands in nearly every such text: by them a database finds the texts to look into."""

    names: frozenset[frozenset[str]]
    signs: frozenset[str]
    phones: frozenset[str]
    patterns: frozenset[str]

    def mentioned_in(self, text: str) -> bool:
        """Return whether a text speaks of the person."""
        signs = _signs(text)
        if any(one in signs for one in self.signs):
            return True
        if self.phones:
            digits = _NOT_A_DIGIT.sub("", text)
            if any(one in digits for one in self.phones):
                return True
        words = _words(text) if self.names else frozenset()
        return any(name <= words for name in self.names)

    def held_in(self, value: str) -> bool:
        """Return whether a single value of a field comes of the person: it speaks of them, or holds a part of their name."""
        parts = {word for name in self.names for word in name if len(word) >= _LEAST_PART}
        return self.mentioned_in(value) or not parts.isdisjoint(_words(value))


def traces_of(layout: Layout, records: Iterable[Mapping[str, str]]) -> Traces:
    """Return the traces of records of one person, given as values by field; a second value of a field is called "field#2"."""
    written, signs, phones = set[str](), set[str](), set[str]()
    for record in records:
        by_kind: dict[FieldKind, list[str]] = {}
        for field in layout.fields:
            values = [value for name, value in record.items() if value and name.partition("#")[0] == field.name]
            by_kind.setdefault(field.kind, []).extend(values)
        pairs = product(by_kind.get(FieldKind.GIVEN_NAME, []), by_kind.get(FieldKind.FAMILY_NAME, []))
        written |= {f"{given} {family}" for given, family in pairs}
        written |= {name for kind in _NAMES for name in by_kind.get(kind, [])}
        signs |= {_signs(one) for kind in (FieldKind.EMAIL, FieldKind.IDENTIFIER) for one in by_kind.get(kind, [])}
        phones |= {_NOT_A_DIGIT.sub("", phone) for phone in by_kind.get(FieldKind.PHONE, [])}
    telling = {name for name in written if len(_words(name)) >= _LEAST_NAME and len(_signs(name)) >= _LEAST_LETTERS}
    signs = {one for one in signs if len(one) >= _LEAST_LETTERS}
    phones = {phone[-_LAST_DIGITS:] for phone in phones if len(phone) >= _LEAST_DIGITS}
    longest = {max(_WORD.findall(form), key=len) for name in telling for form in (name.lower(), fold(name))}
    return Traces(
        frozenset(map(_words, telling)), frozenset(signs), frozenset(phones),
        frozenset(longest | {phone[-_PIECE:] for phone in phones} | {piece for one in signs for piece in (one[:_PIECE], one[-_PIECE:])}),
    )  # fmt: skip
