"""Given names that may be one person's: which groups of forms a word belongs to, slips allowed, and their initials."""

from collections.abc import Mapping, Sequence
from functools import cache

import numpy as np

from ..people import GivenNameForms, given_name_forms
from ..records import IntArray

_ALPHABET = "abcdefghijklmnopqrstuvwxyz"
#: Shorter words are too near to each other for one to be told as a slip of the other.
_LEAST_LETTERS = 5
_NONE: frozenset[int] = frozenset()


def _with_a_letter_lost(word: str) -> set[str]:
    return {word, *(word[:place] + word[place + 1 :] for place in range(len(word)))}


@cache
def _known_names_by_rest() -> dict[str, list[str]]:
    """Return what is left of the known names with a letter lost → the names.

    Two words that are one slip apart share such a rest (S. Mihov and K. U. Schulz, "Fast approximate search in large
    dictionaries", 2004).
    """
    rests: dict[str, list[str]] = {}
    for name in given_name_forms():
        if len(name) >= _LEAST_LETTERS:
            for rest in _with_a_letter_lost(name):
                rests.setdefault(rest, []).append(name)
    return rests


def _one_slip_apart(one: str, other: str) -> bool:
    """Whether one letter is lost, added or changed, or two neighbours are swapped."""
    shorter = min(len(one), len(other))
    start = next((place for place in range(shorter) if one[place] != other[place]), shorter)
    left, right = one[start:], other[start:]
    return left[1:] == right[1:] or left[1:] == right or left == right[1:] or (left[1::-1] + left[2:] == right)


def _forms_of(word: str) -> GivenNameForms | None:
    known = given_name_forms()
    if word in known:
        return known[word]
    rests = _known_names_by_rest()
    names = {name for rest in _with_a_letter_lost(word) for name in rests.get(rest, ())}
    near = [known[name] for name in names if _one_slip_apart(word, name)]
    if not near:
        return None
    return GivenNameForms(_NONE.union(*(forms.full for forms in near)), _NONE.union(*(forms.short for forms in near)))


def forms_of_given_names(vocabulary: Sequence[str]) -> dict[str, GivenNameForms]:
    """Return word → what it may stand for; a word one slip from known names stands for what they do.

    So "Josph" is a form of Joe, though only Joseph is in the tables.
    """
    found = {word: _forms_of(word) for word in vocabulary}
    return {word: forms for word, forms in found.items() if forms}


def group_codes(forms: Mapping[str, GivenNameForms]) -> dict[str, tuple[int, ...]]:
    """Return word → its groups of forms as numbers: twice the group's, and one more where the word is short for the others."""
    return {
        word: (*(2 * group + 1 for group in sorted(found.short)), *(2 * group for group in sorted(found.full)))
        for word, found in forms.items()
    }


def initials_of_forms(vocabulary: Sequence[str], forms: Mapping[str, GivenNameForms]) -> IntArray:
    """Return, per word, the first letters of all that it is short for or that is short for it, as bits (bit 0 is "a")."""
    full: dict[int, int] = {}
    short: dict[int, int] = {}
    for name, known in given_name_forms().items():
        for letters, groups in ((full, known.full), (short, known.short)):
            for group in groups:
                letters[group] = letters.get(group, 0) | _letter_bit(name)
    sets = np.zeros(len(vocabulary), dtype=np.int32)
    for place, word in enumerate(vocabulary):
        sets[place] = _letter_bit(word)
        if len(word) > 1 and word in forms:
            for group in forms[word].full:
                sets[place] |= short.get(group, 0)
            for group in forms[word].short:
                sets[place] |= full.get(group, 0)
    return sets


def _letter_bit(word: str) -> int:
    place = ord(word[0]) - ord("a")
    # Digits and what else may start a word share the bit after the letters.
    return 1 << (place if 0 <= place < len(_ALPHABET) else len(_ALPHABET))
