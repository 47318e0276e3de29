"""Folding: the plain form in which two spellings of the same thing become the same string.

Case, accents and scripts are folded to lower-case ASCII (transliteration by the general-purpose package anyascii).
``collapse`` goes one step further for whole words: German, Danish and Norwegian letters are written with one or two
letters (ü/ue, ø/oe, å/aa, ä/ae), and both ways must meet.
"""

import re
import unicodedata
from functools import lru_cache

from anyascii import anyascii

_DIGRAPHS = re.compile(r"(?<=[a-z])(?:ae|oe|ue|aa)(?=[a-z])|^(?:ae|oe|ue|aa)(?=[a-z])")
_APOSTROPHES = re.compile(r"['`]")
#: What is left of a letter that an export could not write.
_LOST_LETTER = re.compile(r"(?<=[a-z])\?(?=[a-z])")
_DOTTED_LETTERS = re.compile(r"\b(?:[a-z0-9]\.\s?){2,}(?:[a-z0-9]\b)?")
_DOTS = re.compile(r"[.\s]")
_WORD = re.compile(r"[a-z0-9]+")


def fold(text: str) -> str:
    """Return ``text`` in lower-case ASCII with single spaces; never raises, empty in gives empty out."""
    if not text.isascii():
        text = anyascii(unicodedata.normalize("NFC", text))
    return " ".join(text.lower().split())


def split_words(folded: str) -> list[str]:
    """Return the words of folded text; apostrophes join ("o'brien") and dotted letters join ("g.m.b.h.")."""
    # Most text has none of these marks, and looking for one is far cheaper than a pattern.
    if "'" in folded or "`" in folded:
        folded = _APOSTROPHES.sub("", folded)
    if "?" in folded:
        folded = _LOST_LETTER.sub("", folded)
    if "." in folded:
        folded = _DOTTED_LETTERS.sub(lambda match: _DOTS.sub("", match.group()) + " ", folded)
    return _WORD.findall(folded)


@lru_cache(maxsize=200_000)
def collapse(word: str) -> str:
    """Return the word with two-letter vowels written as one, so that "mueller" and "muller" (from "müller") meet."""
    return _DIGRAPHS.sub(lambda match: match.group()[0], word)


def words_of(text: str) -> list[str]:
    """Return the folded, collapsed words of any text."""
    return [collapse(word) for word in split_words(fold(text))]
