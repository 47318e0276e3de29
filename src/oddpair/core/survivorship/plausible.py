"""How plausible the letters of a word are: what decides between a word and a slip of it where nobody else can be asked.

How much likelier its letters are than any letters: the logarithm of the chance of every letter after the two before it, as the words of
the tables (towns, given names, words of businesses and streets) have them, smoothed (C. E. Shannon, "Prediction and entropy of printed
English", 1951). Every letter counts against any letter, so that a longer word is no less plausible for its length.
"""

from collections import Counter
from functools import cache, lru_cache
from itertools import chain
from math import log2

from ..addresses import words_of_addresses
from ..organisations import common_words
from ..people import given_name_forms
from ..text.tables import read_word_list

_SMOOTH = 0.3
_LETTERS = 27


@cache
def _known_words() -> frozenset[str]:
    listed = read_word_list(__package__, "known_words.txt")
    texts = chain(listed, words_of_addresses(), given_name_forms(), common_words())
    return frozenset(word for text in texts for word in text.split())


@cache
def _counts() -> tuple[Counter[str], Counter[str]]:
    """Return how often three letters, and the first two of three, stand in the known words; a space stands before and behind."""
    triples: Counter[str] = Counter()
    pairs: Counter[str] = Counter()
    for word in _known_words():
        padded = f" {word} "
        for place in range(len(padded) - 2):
            triples[padded[place : place + 3]] += 1
            pairs[padded[place : place + 2]] += 1
    return triples, pairs


@lru_cache(maxsize=100_000)
def plausibility(text: str) -> float:
    """Return how many bits likelier the letters of folded text are than any letters; the higher, the likelier it is no slip.

    >>> plausibility("avenue") > plausibility("avennue")
    True
    """
    triples, pairs = _counts()
    bits = 0.0
    for word in text.split():
        padded = f" {word} "
        bits += log2(_LETTERS) * (len(word) + 1)
        if word not in _known_words():
            bits += sum(
                log2((triples[padded[at : at + 3]] + _SMOOTH) / (pairs[padded[at : at + 2]] + _SMOOTH * _LETTERS))
                for at in range(len(padded) - 2)
            )
    return bits
