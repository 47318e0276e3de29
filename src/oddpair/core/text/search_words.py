"""The words by which a person searches: folded, so that "Müller" is found by "muller" and by "MÜL"; names by their sound too."""

from collections.abc import Iterable
from functools import lru_cache
from itertools import islice

from .double_metaphone import double_metaphone
from .folding import fold, split_words

#: More words of one record are not kept: a long text would fill the index.
_MOST_WORDS = 60
_LONGEST_WORD = 40


def search_words(values: Iterable[str]) -> list[str]:
    """Return the distinct words of some values, in alphabetical order; ideographs by their sounds, as ``fold`` writes them."""
    words = {word[:_LONGEST_WORD]: None for value in values if value for word in split_words(fold(value))}
    return sorted(islice(words, _MOST_WORDS))


#: What stands before a sound, so that it is no beginning of a word.
_SOUND = "="
_LEAST_HEARD = 4


def search_sounds(names: Iterable[str]) -> list[str]:
    """Return how the words of names sound, in alphabetical order; short words and numbers have no sound of their own.

    >>> search_sounds(["Schmidt Ropes"]) == search_sounds(["Shmit Roaps"])
    True
    """
    return sorted({sound for word in search_words(names) for sound in sounds_of(word)})


@lru_cache(maxsize=50_000)
def sounds_of(word: str) -> tuple[str, ...]:
    """Return the sounds of a folded word, one or two."""
    if len(word) < _LEAST_HEARD or not word.isalpha():
        return ()
    return tuple(dict.fromkeys(_SOUND + code for code in double_metaphone(word) if code))
