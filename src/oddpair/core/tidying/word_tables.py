"""Swap lists and value maps: small tables that people keep, as the tidy steps use them."""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from ..errors import InputError
from ..text.folding import fold

_WORD = re.compile(r"[&+]|[^\W_]+(?:[.'’&\-][^\W_]+)*\.?")
_LONGEST_ENTRY = 200
MOST_ENTRIES = 100_000


class TableKind(StrEnum):
    """Swap lists replace whole words within a value, value maps replace whole values."""

    SWAP_LIST = "swap list"
    VALUE_MAP = "value map"


def looked_up(text: str) -> str:
    """Return the form in which entries are looked up: case, accents, double spaces and a final dot do not count."""
    return fold(text).rstrip(".")


def checked_entries(entries: Iterable[tuple[str, str]]) -> tuple[tuple[str, str], ...]:
    """Return entries (from, to) in the order of their first half; raise InputError with the place of what is wrong.

    The same word twice is an error unless both say the same.
    """
    found: dict[str, tuple[str, str]] = {}
    for row, (source, target) in enumerate(entries, start=1):
        source, target = " ".join(source.split()), " ".join(target.split())
        key = looked_up(source)
        if not key:
            raise InputError("the first half is empty, so nothing could ever match it", row=row)
        if max(len(source), len(target)) > _LONGEST_ENTRY:
            raise InputError(f"an entry has at most {_LONGEST_ENTRY} letters", row=row)
        if key in found and found[key][1] != target:
            raise InputError(f"'{source}' stands twice, once for '{found[key][1]}' and once for '{target}'", row=row)
        found.setdefault(key, (source, target))
        if len(found) > MOST_ENTRIES:
            raise InputError(f"a table holds at most {MOST_ENTRIES} entries", row=row)
    return tuple(found[key] for key in sorted(found))


@dataclass(frozen=True)
class WordTable:
    """A swap list or value map with its entries (from, to)."""

    name: str
    kind: TableKind
    entries: tuple[tuple[str, str], ...]

    @cached_property
    def targets(self) -> dict[str, str]:
        """Return looked-up form → what replaces it."""
        return {looked_up(source): target for source, target in self.entries}

    @cached_property
    def standard_values(self) -> frozenset[str]:
        """Return the looked-up forms of all values that something is mapped to."""
        return frozenset(looked_up(target) for _, target in self.entries)

    @cached_property
    def _lengths(self) -> dict[str, tuple[int, ...]]:
        lengths: dict[str, set[int]] = {}
        for key in self.targets:
            words = key.split()
            lengths.setdefault(words[0], set()).add(len(words))
        return {word: tuple(sorted(found, reverse=True)) for word, found in lengths.items()}

    def apply(self, text: str) -> str:
        """Return the text with what the table knows replaced."""
        if self.kind is TableKind.VALUE_MAP:
            return self.targets.get(looked_up(text), text)
        pieces, end = [], 0
        for start, stop, key in self._found(text):
            pieces += [text[end:start], self.targets[key]]
            end = stop
        return " ".join("".join([*pieces, text[end:]]).split()) if pieces else text

    def touched_by(self, text: str) -> list[str]:
        """Return the looked-up forms of the entries that a value is touched by."""
        if self.kind is TableKind.VALUE_MAP:
            key = looked_up(text)
            return [key] if key in self.targets else []
        return [key for _, _, key in self._found(text)]

    def _found(self, text: str) -> Iterator[tuple[int, int, str]]:
        """Yield (start, end, looked-up form) of the entries in a text, from the left, the longest first."""
        words = [(found.start(), found.end(), looked_up(found.group())) for found in _WORD.finditer(text)]
        place = 0
        while place < len(words):
            for length in self._lengths.get(words[place][2], ()):
                key = " ".join(word for _, _, word in words[place : place + length])
                if key in self.targets:
                    yield words[place][0], words[min(place + length, len(words)) - 1][1], key
                    place += length
                    break
            else:
                place += 1
