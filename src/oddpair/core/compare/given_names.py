"""Given names that may be one person's: which groups of forms a word belongs to, slips allowed, and their initials."""

from collections.abc import Mapping, Sequence
from functools import cache

import numpy as np

from ..people import short_form_groups
from ..records import IntArray

_ALPHABET = "abcdefghijklmnopqrstuvwxyz"
#: Shorter words are too near to each other for one to be told as a slip of the other.
_LEAST_LETTERS = 5


def _one_slip_away(word: str) -> set[str]:
    """Return all words with one letter lost, added, changed or two neighbours swapped."""
    cuts = [(word[:place], word[place:]) for place in range(len(word) + 1)]
    lost = {start + end[1:] for start, end in cuts if end}
    swapped = {start + end[1] + end[0] + end[2:] for start, end in cuts if len(end) > 1}
    changed = {start + letter + end[1:] for start, end in cuts if end for letter in _ALPHABET}
    added = {start + letter + end for start, end in cuts for letter in _ALPHABET}
    return lost | swapped | changed | added


@cache
def _near_known_names() -> dict[str, set[int]]:
    """Return word → groups of the known names that are one slip away from it."""
    near: dict[str, set[int]] = {}
    for name, groups in short_form_groups().items():
        if len(name) >= _LEAST_LETTERS:
            for word in _one_slip_away(name):
                near.setdefault(word, set()).update(groups)
    return near


def forms_of_given_names(vocabulary: Sequence[str]) -> dict[str, tuple[int, ...]]:
    """Return word → groups of given names it belongs to; a word one slip from known names belongs to theirs.

    So "Josph" is a form of Joe, though only Joseph is in the tables.
    """
    known, near = short_form_groups(), _near_known_names()
    forms = {}
    for word in vocabulary:
        if word in known:
            forms[word] = known[word]
        elif word in near:
            forms[word] = tuple(sorted(near[word]))
    return forms


def initials_of_forms(vocabulary: Sequence[str], forms: Mapping[str, tuple[int, ...]]) -> IntArray:
    """Return, per word, the set of first letters of all its forms as bits (bit 0 is "a"); an initial stands for itself only."""
    of_group: dict[int, int] = {}
    for name, groups in short_form_groups().items():
        for group in groups:
            of_group[group] = of_group.get(group, 0) | _letter_bit(name)
    sets = np.zeros(len(vocabulary), dtype=np.int32)
    for place, word in enumerate(vocabulary):
        sets[place] = _letter_bit(word)
        if len(word) > 1:
            for group in forms.get(word, ()):
                sets[place] |= of_group[group]
    return sets


def _letter_bit(word: str) -> int:
    place = ord(word[0]) - ord("a")
    # Digits and what else may start a word share the bit after the letters.
    return 1 << (place if 0 <= place < len(_ALPHABET) else len(_ALPHABET))
