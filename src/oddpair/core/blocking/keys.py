"""Blocking keys: values computed from a record; only records that share one are compared.

A key is written as an expression: tidy fields joined by ``+``, each with an optional way of taking a part of it after
``|``. ``name.family|sound + name.given|first 1`` reads: the sound of the family name together with the first letter of
the given name.
"""

import re
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..errors import PlanInvalid, did_you_mean
from ..records import Column, RecordSet
from ..text.phonetic import soundex

#: Takes (value, how often each word occurs, number given in the expression), gives the key's values.
_Taker = Callable[[str, Counter[str], int], Sequence[str]]


def _rarest(value: str, counts: Counter[str], number: int) -> Sequence[str]:
    return sorted(set(value.split()), key=lambda word: (counts[word], word))[:number]


_TAKERS: dict[str, tuple[_Taker, str]] = {
    "whole": (lambda value, counts, number: [value], "the whole value"),
    "first": (lambda value, counts, number: [value.replace(" ", "")[:number]], "its first {} letters"),
    "last": (lambda value, counts, number: [value.replace(" ", "")[-number:]], "its last {} letters"),
    "rarest": (_rarest, "each of its {} rarest words"),
    "sound": (lambda value, counts, number: [soundex(value.split()[-1])], "the sound of its last word"),
    "sounds": (
        lambda value, counts, number: [soundex(word) for word in _rarest(value, counts, number)],
        "the sound of each of its {} rarest words",
    ),
    "joined": (lambda value, counts, number: ["".join(value.split())], "the value without spaces"),
    "sorted": (lambda value, counts, number: [" ".join(sorted(value.split()))], "its words in alphabetical order"),
}
_PART = re.compile(r"^(?P<field>[a-z_.]+)\s*(?:\|\s*(?P<take>[a-z]+)(?:\s+(?P<number>\d+))?)?$")


@dataclass(frozen=True, slots=True)
class KeyPart:
    """One field of a key and which part of it is taken."""

    field: str
    take: str
    number: int


@dataclass(frozen=True, slots=True)
class BlockingKey:
    """A blocking key: its expression and the parts it consists of."""

    expression: str
    parts: tuple[KeyPart, ...]

    def describe(self) -> str:
        """Return the key in words."""
        return " together with ".join(
            f"{part.field} ({_TAKERS[part.take][1].format(part.number)})" for part in self.parts
        )


def parse_key(expression: str) -> BlockingKey:
    """Return the key that an expression describes; raise PlanInvalid naming what is wrong in it."""
    parts = []
    for text in expression.split("+"):
        match = _PART.match(text.strip())
        if not match:
            raise PlanInvalid(
                [f"blocking key '{expression}': cannot read '{text.strip()}'; expected 'field' or 'field|take'"]
            )
        take = match["take"] or "whole"
        if take not in _TAKERS:
            raise PlanInvalid([f"blocking key '{expression}': no way of taking '{take}'.{did_you_mean(take, _TAKERS)}"])
        parts.append(KeyPart(match["field"], take, int(match["number"] or 1)))
    return BlockingKey(expression, tuple(parts))


Codes = npt.NDArray[np.int64]


def _part_codes(column: Column, part: KeyPart) -> tuple[Codes, Codes, list[str]]:
    """Return (record numbers, value numbers, values): one row per record and key value of this part."""
    taker = _TAKERS[part.take][0]
    per_value = column.counts()
    counts: Counter[str] = Counter()
    if part.take in ("rarest", "sounds"):
        for value, count in zip(column.values, per_value.tolist(), strict=True):
            for word in set(value.split()):
                counts[word] += count
    taken = [sorted({text for text in taker(value, counts, part.number) if text}) for value in column.values]
    texts = sorted({text for values in taken for text in values})
    position = {text: number for number, text in enumerate(texts)}
    starts = np.zeros(len(taken) + 1, dtype=np.int64)
    np.cumsum([len(values) for values in taken], out=starts[1:])
    flat = np.array([position[text] for values in taken for text in values], dtype=np.int64)
    present = np.flatnonzero(column.codes >= 0)
    codes = column.codes[present]
    sizes = starts[codes + 1] - starts[codes]
    records = np.repeat(present, sizes)
    within = np.arange(len(records)) - np.repeat(np.cumsum(sizes) - sizes, sizes)
    return records, flat[np.repeat(starts[codes], sizes) + within] if len(flat) else flat[:0], texts


def _join(left: tuple[Codes, Codes], right: tuple[Codes, Codes], base: int) -> tuple[Codes, Codes]:
    """Combine the values of two parts per record: every value of one with every value of the other."""
    counts = np.bincount(right[0], minlength=int(left[0].max(initial=-1)) + 1)
    starts = np.concatenate(([0], np.cumsum(counts)))
    sizes = counts[left[0]]
    records = np.repeat(left[0], sizes)
    within = np.arange(len(records)) - np.repeat(np.cumsum(sizes) - sizes, sizes)
    partner = right[1][np.repeat(starts[left[0]], sizes) + within] if len(records) else right[1][:0]
    return records, np.repeat(left[1], sizes) * base + partner


def key_codes(records: RecordSet, key: BlockingKey) -> tuple[Codes, Codes, Callable[[int], str]]:
    """Return (record numbers, key values as numbers, a function that spells a value out), sorted by value and record."""
    owners, values, texts = _part_codes(records.column(key.parts[0].field), key.parts[0])
    vocabularies = [texts]
    for part in key.parts[1:]:
        more_owners, more_values, texts = _part_codes(records.column(part.field), part)
        vocabularies.append(texts)
        owners, values = _join((owners, values), (more_owners, more_values), max(len(texts), 1))
    order = np.lexsort((owners, values))

    def spell(value: int) -> str:
        parts: list[str] = []
        for vocabulary in reversed(vocabularies[1:]):
            value, place = divmod(value, max(len(vocabulary), 1))
            parts.append(vocabulary[place])
        return " + ".join(reversed([*parts, vocabularies[0][value]]))

    return owners[order], values[order], spell
