"""The words by which a person searches: folded, so that "Müller" is found by "muller" and by "MÜL"."""

from collections.abc import Iterable
from itertools import islice

from .folding import fold, split_words

#: More words of one record are not kept: a long text would fill the index.
_MOST_WORDS = 60
_LONGEST_WORD = 40


def search_words(values: Iterable[str]) -> list[str]:
    """Return the distinct words of some values, in alphabetical order; ideographs by their sounds, as ``fold`` writes them."""
    words = {word[:_LONGEST_WORD]: None for value in values if value for word in split_words(fold(value))}
    return sorted(islice(words, _MOST_WORDS))
