"""The ways of taking a key from a value: a part of it, its sound, its rarest words.

Every taker gives, for all distinct values of a column at once, the numbers of their keys and how to spell a key.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..census import Hashes
from ..records import MISSING, Column
from ..text.double_metaphone import double_metaphone
from ..text.hashes import hashes_of
from ..text.minhash import qgram_bands
from ..text.phonetic import nysiis, soundex
from ..text.words import Words, rarest_words

Numbers = npt.NDArray[np.int64]
WordsOf = Callable[[Column], Words]


@dataclass(frozen=True, slots=True)
class Taken:
    """``keys[v]`` are the numbers of the keys of value ``v`` (-1 fills up), ``spell`` tells what a number stands for, and ``texts``
    what all of them do, in their order; without those, the numbers are fingerprints that mean the same wherever they are taken."""

    keys: Numbers
    spell: Callable[[int], str]
    texts: Sequence[str] | None

    def hashes(self) -> Hashes:
        """Return the hash of every key number, or of every fingerprint in ``keys``, row by row."""
        return self.keys.ravel().astype(np.uint64) if self.texts is None else hashes_of(self.texts)


@dataclass(frozen=True, slots=True)
class Taker:
    """A way of taking keys: the function, the words that say it, and its number where the expression gives none.

    The function takes a column, the number, and a function that returns the words of a column and how common each is.
    """

    take: Callable[[Column, int, WordsOf], Taken]
    says: str
    number: int = 1


def _numbered(texts: Sequence[str]) -> Taken:
    """Number one text per value; empty ones give no key."""
    numbers: dict[str, int] = {}
    keys = [numbers.setdefault(text, len(numbers)) if text else MISSING for text in texts]
    return _spelled(np.array(keys, dtype=np.int64).reshape(-1, 1), tuple(numbers))


def _spelled(keys: Numbers, texts: Sequence[str]) -> Taken:
    return Taken(keys, texts.__getitem__, texts)


def _whole(column: Column, number: int, words_of: WordsOf) -> Taken:
    return _spelled(np.arange(len(column.values), dtype=np.int64).reshape(-1, 1), column.values)


def _rarest(column: Column, number: int, words_of: WordsOf) -> Taken:
    words = words_of(column)
    return _spelled(rarest_words(words, number).astype(np.int64), words.vocabulary)


def _sounds(column: Column, number: int, words_of: WordsOf, code: Callable[[str], str] = soundex) -> Taken:
    words = words_of(column)
    coded = _numbered([code(word) for word in words.vocabulary])
    chosen = rarest_words(words, number)
    return Taken(np.append(coded.keys[:, 0], MISSING)[chosen], coded.spell, coded.texts)


def _metaphones(column: Column, number: int, words_of: WordsOf) -> Taken:
    """Both ways in which each of the rarest words may be spoken."""
    words = words_of(column)
    codes = [double_metaphone(word) for word in words.vocabulary]
    coded = _numbered([code for ways in zip(*codes, strict=True) for code in ways])
    ways = np.append(coded.keys.reshape(2, -1), np.full((2, 1), MISSING), axis=1)
    chosen = rarest_words(words, number)
    return Taken(np.hstack([way[chosen] for way in ways]), coded.spell, coded.texts)


def _last_word_sound(column: Column, number: int, words_of: WordsOf) -> Taken:
    codes: dict[str, str] = {}
    last = [value.rsplit(" ", 1)[-1] for value in column.values]
    for word in last:
        if word not in codes:
            codes[word] = soundex(word)
    return _numbered([codes[word] for word in last])


def _initials(column: Column, number: int, words_of: WordsOf) -> Taken:
    """Sorted initials of words; one word of few letters counts as initials itself, so that both ways of writing meet."""
    texts = []
    for value in column.values:
        words = value.split()
        letters = words[0] if len(words) == 1 and len(words[0]) <= 5 else "".join(word[0] for word in words)
        texts.append("".join(sorted(letters)) if len(letters) >= number else "")
    return _numbered(texts)


def _bands(column: Column, number: int, words_of: WordsOf) -> Taken:
    bands = qgram_bands(column.values, number)
    return Taken(bands, lambda key: f"shared letter groups {key & 0xFFFF:04x}", None)


TAKERS: dict[str, Taker] = {
    "whole": Taker(_whole, "the whole value"),
    "first": Taker(
        lambda column, n, _: _numbered([v.replace(" ", "")[:n] for v in column.values]), "its first {} letters"
    ),
    "last": Taker(
        lambda column, n, _: _numbered([v.replace(" ", "")[-n:] for v in column.values]), "its last {} letters"
    ),
    "rarest": Taker(_rarest, "each of its {} rarest words"),
    "sound": Taker(_last_word_sound, "the sound of its last word"),
    "sounds": Taker(_sounds, "the sound of each of its {} rarest words"),
    "nysiis": Taker(
        lambda column, n, words_of: _sounds(column, n, words_of, nysiis),
        "the NYSIIS sound of each of its {} rarest words",
    ),
    "metaphone": Taker(_metaphones, "both Double Metaphone sounds of each of its {} rarest words"),
    "joined": Taker(
        lambda column, n, _: _numbered([v.replace(" ", "") for v in column.values]), "the value without spaces"
    ),
    "sorted": Taker(
        lambda column, n, _: _numbered([" ".join(sorted(v.split())) for v in column.values]),
        "its words in alphabetical order",
    ),
    "initials": Taker(_initials, "the sorted initials of its words, at least {}", 3),
    "qgrams": Taker(_bands, "each of {} fingerprints of its letter groups", 4),
}
