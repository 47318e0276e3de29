"""Reads column headers: which field a header names, by its words in any order, by its parts, or by the beginnings of its words."""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cache, lru_cache

from ..fields import RegisterKind
from ..text.tables import phrase, read_lines
from .mapping import ID_TARGET

#: What a header that names no field leads to, and further names of an organisation.
NOTHING, FURTHER_NAME = "-", "name+"
#: How much a header says: known as a whole, known but for a number behind it, known in its last words, in other words, by the
#: beginnings of its words.
_WHOLE, _NUMBERED, _LAST_WORDS, _INNER_WORDS, _BEGINNINGS = 1.0, 0.95, 0.75, 0.55, 0.7
_NUMBER_BEHIND = re.compile(r"^(.*?)[ ]?(\d{1,2})$")
_LONGEST_KNOWN = 5
#: Beginnings of words with fewer letters in all could be those of anything.
_LEAST_LETTERS_OF_BEGINNINGS, _LEAST_LETTERS_OF_CONSONANTS = 4, 3


@dataclass(frozen=True, slots=True)
class HeaderSays:
    """That a header names ``target``, how surely in [0, 1], and the number behind it (0 if none)."""

    target: str
    score: float
    number: int = 0


Table = dict[str, tuple[str, ...]]


@cache
def header_table(kind: RegisterKind) -> Table:
    """Return phrase → targets for registers of a kind; a phrase that means nothing there leads to nothing only."""
    table: dict[str, tuple[str, ...]] = {}
    for line in read_lines(__package__, "headers.txt"):
        target, _, headers = line.partition(":")
        name, _, of_kind = target.strip().partition("/")
        if of_kind and of_kind != kind.value:
            continue
        for header in headers.split(","):
            key = phrase(header)
            # Later lines are more special: what is nobody's name in one kind of register overrules what it is in general.
            table[key] = (name,) if name == NOTHING else (*table.get(key, ()), name)
    return table


@cache
def _by_sorted_words(kind: RegisterKind) -> Table:
    table: Table = {}
    for known, targets in header_table(kind).items():
        key = " ".join(sorted(known.split()))
        table[key] = (*table.get(key, ()), *(target for target in targets if target not in table.get(key, ())))
    return table


@cache
def _number_words() -> tuple[frozenset[str], frozenset[str]]:
    lists = {
        line.partition(":")[0].strip(): line.partition(":")[2] for line in read_lines(__package__, "number_words.txt")
    }
    parties, numbers = (frozenset(phrase(word) for word in lists[name].split(",")) for name in ("parties", "numbers"))
    return parties, numbers


def spaced(header: str) -> str:
    """Return a header as words: "customerName", "CUSTOMER_NAME" and "customer[name]" all read "customer name"."""
    apart = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", re.sub(r"(?i)\bn[°º]", "no ", header))
    return phrase(re.sub(r"(?<=[A-Za-z])(?=\d)", " ", re.sub(r"[_.\[\]/():#-]+", " ", apart)))


def _names_a_number(words: Sequence[str]) -> bool:
    """Whether a header is made of a party and a word for its number, in either order, in one word or two."""
    parties, numbers = _number_words()
    joined = "".join(words)
    if len(words) == 2 and (
        (words[0] in parties and words[1] in numbers) or (words[1] in parties and words[0] in numbers)
    ):
        return True
    return any(joined == party + number for number in numbers if joined.endswith(number) for party in parties)


def _begins(words: Sequence[str], known: Sequence[str]) -> bool:
    return all(other.startswith(word) for word, other in zip(words, known, strict=True))


@lru_cache(maxsize=2000)
def _by_beginnings(words: tuple[str, ...], kind: RegisterKind) -> tuple[str, ...]:
    """Return the targets of phrases whose words begin with these, or whose consonants these are; several are ambiguous."""
    letters = sum(map(len, words))
    if letters < _LEAST_LETTERS_OF_CONSONANTS or min(map(len, words)) < 2:
        return ()
    text = " ".join(words)
    found: dict[str, None] = {}
    for known, targets in header_table(kind).items():
        parts = known.split()
        begins = letters >= _LEAST_LETTERS_OF_BEGINNINGS and len(parts) == len(words) and _begins(words, parts)
        if begins or _without_vowels(known) == text:
            found.update(dict.fromkeys(targets))
    return tuple(found)


@lru_cache(maxsize=5000)
def _without_vowels(known: str) -> str:
    """Return a phrase as abbreviating systems write it: "postcode" is "pstcd"."""
    return " ".join(word[:1] + re.sub("[aeiouy]", "", word[1:]) for word in known.split())


def _windows(words: Sequence[str]) -> Iterator[tuple[int, int]]:
    """Yield (start, end) of runs of words, longer and later ones first."""
    for size in range(min(len(words), _LONGEST_KNOWN), 0, -1):
        for start in range(len(words) - size, -1, -1):
            yield start, start + size


def _known(text: str, kind: RegisterKind) -> tuple[str, ...]:
    exact = header_table(kind).get(text)
    return exact or _by_sorted_words(kind).get(" ".join(sorted(text.split())), ())


def _in_part(words: Sequence[str], number: int, kind: RegisterKind) -> dict[str, HeaderSays]:
    """Return what the longest known run of words says: at the end of the header, or else anywhere in it."""
    for start, end in _windows(words):
        if end == len(words) and (known := _known_in_part(words[start:end], kind)):
            return {target: HeaderSays(target, _LAST_WORDS, number) for target in known}
    for start, end in _windows(words):
        if known := _known_in_part(words[start:end], kind):
            return {target: HeaderSays(target, _INNER_WORDS, number) for target in known}
    return {}


def _known_in_part(words: Sequence[str], kind: RegisterKind) -> tuple[str, ...]:
    """Return what some words of a header say; a bare *no* behind others ("route no") is no house number."""
    known = _known(" ".join(words), kind)
    if len(words) == 1 and words[0] in _number_words()[1]:
        return tuple(target for target in known if target != "address.number")
    return known


@lru_cache(maxsize=5000)
def read_header(header: str, kind: RegisterKind) -> tuple[HeaderSays, ...]:
    """Return what a header says, surest first; nothing if it is not known."""
    text = spaced(header)
    if known := _known(text, kind):
        return tuple(HeaderSays(target, _WHOLE) for target in known)
    number = 0
    if match := _NUMBER_BEHIND.match(text):
        text, number = match[1].strip(), int(match[2])
        if known := _known(text, kind):
            return tuple(HeaderSays(target, _NUMBERED, number) for target in known)
    words = text.split()
    if not words:
        return ()
    if _names_a_number(words):
        return (HeaderSays(ID_TARGET, _WHOLE),)
    says = _in_part(spaced(header).split(), 0, kind) or _in_part(words, number, kind)
    if not says:
        says = {target: HeaderSays(target, _BEGINNINGS, number) for target in _by_beginnings(tuple(words), kind)}
    return tuple(sorted(says.values(), key=lambda item: -item.score))


@cache
def _labels() -> dict[str, str]:
    return {
        phrase(word): line.partition(":")[0].strip()
        for line in read_lines(__package__, "value_labels.txt")
        for word in line.partition(":")[2].split(",")
    }


def label_of(header: str) -> str:
    """Return the label that words of a header say ("billing", "delivery"), or ""."""
    tokens = spaced(header).split()
    for size in (2, 1):
        for start in range(len(tokens) - size + 1):
            if found := _labels().get(" ".join(tokens[start : start + size])):
                return found
    return ""
