"""Words of street names in one form, and the house number beside them."""

import re
from functools import cache, lru_cache

from ..text.folding import collapse, split_words
from ..text.tables import read_lines, read_word_list, read_word_map

_PACKAGE = __package__
HOUSE_NUMBER = re.compile(r"\d{1,6}[a-z]?(?:[-/]\d{1,4}[a-z]?){0,2}")
_LETTER = re.compile(r"[a-z]")
_BETWEEN_NUMBERS = re.compile(r"(?<=\d)([a-z]?)\s*[-/]\s*(?=\d)")
_UNIT_SIGN = re.compile(r"#\s*(?=[0-9a-z])")
_NUMBER_SIGNS = frozenset({"no", "nr", "num", "number"})
#: An ending that marks one word as a street name stands after at least this many letters.
_LEAST_RUN_TOGETHER = 6
#: Shorter words for kinds of streets ("way") are written out always.
_LEAST_ABBREVIATED = 4


@cache
def _types() -> tuple[dict[str, str], dict[str, str]]:
    """Return word for a kind of street → its standard word: those that tell, and those that are parts of towns' names too."""
    return read_word_map(_PACKAGE, "street_types.txt"), read_word_map(_PACKAGE, "loose_street_types.txt")


@cache
def _standard_words() -> dict[str, str]:
    telling, loose = _types()
    return {**read_word_map(_PACKAGE, "street_words.txt"), **loose, **telling}


@cache
def _directions() -> dict[str, str]:
    return read_word_map(_PACKAGE, "directions.txt")


@cache
def _street_endings() -> tuple[tuple[str, str], ...]:
    """Return (short ending, standard ending) pairs."""
    lines = (line.partition(":") for line in read_lines(_PACKAGE, "street_endings.txt"))
    return tuple((ending.strip(), standard) for standard, _, endings in lines for ending in endings.split(","))


@cache
def _run_together_endings() -> tuple[str, ...]:
    """Return the endings that mark a single word as a street name ("hafenstrasse")."""
    return (
        *sorted({standard for _, standard in _street_endings()}),
        *sorted(read_word_list(_PACKAGE, "joined_types.txt")),
    )


def names_a_street(word: str) -> bool:
    """Whether a word is a kind of street or ends in one ("road", "hafenstrasse")."""
    return word in _types()[0] or (len(word) >= _LEAST_RUN_TOGETHER and word.endswith(_run_together_endings()))


def street_type_spelled_out(word: str) -> str:
    """Return the kind of street that a folded word is or is short for ("st", "street" → "street"), or ""."""
    return _types()[0].get(word, "")


@cache
def _abbreviations() -> dict[str, str]:
    short_forms: dict[str, str] = {}
    for short, standard in _types()[0].items():
        if len(short) < len(standard) and len(standard) >= _LEAST_ABBREVIATED:
            short_forms.setdefault(standard, short)
    return short_forms


def street_type_abbreviated(word: str) -> str:
    """Return the usual short form of a folded word for a kind of street ("street" → "st"), or "" where it has none."""
    return _abbreviations().get(word, "")


def is_loose_type(word: str) -> bool:
    """Whether a word is a kind of street that is a part of towns' names as well ("park")."""
    return word in _types()[1]


@lru_cache(maxsize=200_000)
def _standard_word(word: str) -> str:
    word = collapse(word)
    standard = _standard_words().get(word)
    if standard:
        return standard
    for ending, standard_ending in _street_endings():
        stem = word.removesuffix(ending)
        # "hafenstr" is a short form; Dutch "kerkstr" cannot be told apart from it: German wins, both sides alike.
        if stem != word and len(stem) > 2:
            return stem + standard_ending
    return word


def standard_street(words: list[str]) -> str:
    """Return the words of a street in one form: kinds of streets, compass directions, ordinals and saints spelled alike.

    >>> standard_street(["n", "st", "johns", "ave"])
    'north saint johns avenue'
    """
    standard = [_standard_word(word) for word in words]
    directions = _directions()
    for place in {0, len(words) - 1}:
        if len(words) > 1 and words[place] in directions:
            standard[place] = directions[words[place]]
    first = 1 if len(words) > 2 and words[0] in directions else 0
    if len(words) > first + 1 and words[first] == "st":
        # A street's kind does not stand before its name in English, a saint does.
        standard[first] = "saint"
    return " ".join(standard)


def street_words(text: str) -> list[str]:
    """Return the words of folded text; ranges and fractions of numbers stay one word: "12-14", "7/2"."""
    if "#" in text:
        text = _UNIT_SIGN.sub(" unit ", text)
    if "-" not in text and "/" not in text:
        return split_words(text)
    parts = _BETWEEN_NUMBERS.sub(r"\1_", text)
    words = [word for part in parts.split() for word in ([part] if "_" in part else split_words(part))]
    return [plain for word in words if (plain := word.strip("._()").replace("_", "-"))]


def take_number(words: list[str]) -> tuple[list[str], str]:
    """Return (words left, house number) with the number taken from the front or the end of a street's words."""
    if len(words) > 1 and words[0] in _NUMBER_SIGNS and words[1][0].isdigit():
        words = words[1:]
    if not words:
        return words, ""
    if HOUSE_NUMBER.fullmatch(words[0]):
        # "12 b" and "12b" are the same number.
        if len(words) > 3 and _LETTER.fullmatch(words[1]) and words[0].isdigit() and words[1] not in _directions():
            return words[2:], words[0] + words[1]
        return words[1:], words[0]
    if HOUSE_NUMBER.fullmatch(words[-1]):
        return words[:-1], words[-1]
    if len(words) > 2 and _LETTER.fullmatch(words[-1]) and words[-2].isdigit():
        return words[:-2], words[-2] + words[-1]
    return words, ""
