"""How two forms of one value stand to each other: one a slip of the other, cut off, abbreviated, or with text behind it."""

from enum import IntEnum
from functools import lru_cache

from ..organisations import legal_form_words
from ..people import given_name_forms
from ..text.tables import read_word_list

_LEAST_CUT = 4
#: A slip for every so many letters, two at most; shorter texts are no slips of each other.
_MANY, _LONGEST_CHANGE = 9, 8
_LETTERS_PER_SLIP, _MOST_SLIPS, _LEAST_LETTERS = 7, 2, 3


class Relation(IntEnum):
    """How one form stands to another, seen from the first."""

    NONE = 0
    #: A slip apart: which of the two is right, only others can tell.
    SLIP = 1
    #: The same letters with spaces in other places.
    SPACES = 2
    #: The first is cut off or abbreviated: it says no more than the second, and stands for it.
    SHORT_FOR = 3
    LONG_FORM_OF = 4
    #: The first lacks words, or the last letter, of the second: they were dropped, or are no part of the value.
    FEWER_WORDS = 5
    MORE_WORDS = 6
    #: The second has text behind it that is no part of a value ("account closed").
    WITHOUT_ADDED = 7
    WITH_ADDED = 8


_MIRRORED = {
    Relation.SHORT_FOR: Relation.LONG_FORM_OF,
    Relation.FEWER_WORDS: Relation.MORE_WORDS,
    Relation.WITHOUT_ADDED: Relation.WITH_ADDED,
}


def relation(one: str, other: str) -> Relation:
    """Return how one tidy text (folded words) stands to another, different one.

    >>> relation("tern rope wor", "tern rope works").name, relation("tern works", "tern rope works").name
    ('SHORT_FOR', 'FEWER_WORDS')
    """
    if len(one) > len(other) or (len(one) == len(other) and one > other):
        found = _of_shorter(other, one)
        return _MIRRORED.get(found, found)
    return _of_shorter(one, other)


@lru_cache(maxsize=100_000)
def _of_shorter(short: str, long: str) -> Relation:
    if short.replace(" ", "") == long.replace(" ", ""):
        return Relation.SPACES
    words, more = short.split(), long.split()
    if words == more[: len(words)] and _is_added(more[len(words) :]):
        return Relation.WITHOUT_ADDED
    is_cut = len(short) >= _LEAST_CUT and long.startswith(short) and long[len(short)] != " "
    if (is_cut and len(long) - len(short) > 1) or _abbreviates(words, more) or _is_acronym(words, more):
        return Relation.SHORT_FOR
    if is_cut:
        # The last letter alone was lost here or added there: that, only others can tell.
        return Relation.FEWER_WORDS
    if len(words) < len(more) and _within(words, more):
        return Relation.FEWER_WORDS
    most = min(_MOST_SLIPS, len(long) // _LETTERS_PER_SLIP + 1)
    if len(short) >= _LEAST_LETTERS and len(long) - len(short) <= most and 0 < slips_apart(short, long) <= most:
        return Relation.SLIP
    return Relation.NONE


@lru_cache(maxsize=100_000)
def slips_apart(one: str, other: str) -> int:
    """Return how many slips (letters lost, added, changed, or neighbours swapped) two texts are apart, 9 where it is more than a few.

    >>> slips_apart("tern", "tren"), slips_apart("tern", "terns"), slips_apart("tern", "skua")
    (1, 1, 9)
    """
    start = 0
    while start < min(len(one), len(other)) and one[start] == other[start]:
        start += 1
    end = 0
    while end < min(len(one), len(other)) - start and one[-1 - end] == other[-1 - end]:
        end += 1
    left, right = one[start : len(one) - end], other[start : len(other) - end]
    if max(len(left), len(right)) > _LONGEST_CHANGE:
        return _MANY
    rows = [list(range(len(right) + 1))]
    for row, letter in enumerate(left, 1):
        current = [row]
        for place, other_letter in enumerate(right, 1):
            costs = [rows[-1][place] + 1, current[-1] + 1, rows[-1][place - 1] + (letter != other_letter)]
            if row > 1 and place > 1 and letter == right[place - 2] and left[row - 2] == other_letter:
                costs.append(rows[-2][place - 2] + 1)
            current.append(min(costs))
        rows.append(current)
    return min(rows[-1][-1], _MANY) if rows[-1][-1] <= _MOST_SLIPS else _MANY


def _abbreviates(words: list[str], more: list[str]) -> bool:
    """Whether words stand for others one by one: equal, their beginning, their first letter, or a short form of a given name."""
    return len(words) == len(more) and all(map(_stands_for, words, more))


def _is_acronym(words: list[str], more: list[str]) -> bool:
    """Whether the first letters of three words or more are one word."""
    return len(more) > 2 and words == ["".join(word[0] for word in more)]


def _stands_for(word: str, full: str) -> bool:
    if word == full:
        return True
    if full.startswith(word) and (len(word) == 1 or len(full) - len(word) > 1):
        return word.isalpha()
    if len(word) > 1 and len(full) - len(word) > 1 and word[0] == full[0] and _within(list(word), list(full)):
        # "svcs", "strandgt"
        return True
    forms = given_name_forms()
    return word in forms and full in forms and bool(forms[word].short & forms[full].full)


def _within(words: list[str], more: list[str]) -> bool:
    """Whether words stand in a longer list in the same order."""
    rest = iter(more)
    return all(word in rest for word in words)


def _is_added(words: list[str]) -> bool:
    """Whether words behind a name are a remark or what a column's end left of a legal form."""
    if not _added_words().isdisjoint(words):
        return True
    return len(words) == 1 and any(form.startswith(words[0]) for form in legal_form_words())


def _added_words() -> frozenset[str]:
    return read_word_list(__package__, "added_words.txt")
