"""Folding: the plain form in which two spellings of the same thing become the same string.

Case, accents and scripts are folded to lower-case ASCII (transliteration by the general-purpose package anyascii).
``collapse`` goes one step further for whole words: German, Danish and Norwegian letters are written with one or two
letters (ü/ue, ø/oe, å/aa, ä/ae), and both ways must meet.
"""

import codecs
import re
import unicodedata
from functools import lru_cache

from anyascii import anyascii

_DIGRAPHS = re.compile(r"(?<=[a-z])(?:ae|oe|ue|aa)(?=[a-z])|^(?:ae|oe|ue|aa)(?=[a-z])")
_APOSTROPHES = re.compile(r"['`]")
#: What is left of a letter that an export could not write.
_LOST_LETTER = re.compile(r"(?<=[a-z])\?(?=[a-z])")
_DOTTED_LETTERS = re.compile(r"\b(?:[a-z0-9]\.\s?){2,}(?:[a-z0-9]\b)?")
#: A byte that begins a letter in UTF-8 and one that continues it, as both look in Windows-1252 or Latin-1.
_MISREAD = re.compile("[\u00c2-\u00f4][\u0080-\u00bf€‚ƒ„…†‡ˆ‰Š‹ŒŽ‘’“”•–—˜™š›œžŸ]")
_MISREAD_RUN = re.compile(f"(?:{_MISREAD.pattern}[\u0080-\u00bf€‚ƒ„…†‡ˆ‰Š‹ŒŽ‘’“”•–—˜™š›œžŸ]*)+")
_AS_LATIN_1 = "odd_pair_as_latin_1"
_DOTS = re.compile(r"[.\s]")
_WORD = re.compile(r"[a-z0-9]+")


def fold(text: str) -> str:
    """Return ``text`` in lower-case ASCII with single spaces; never raises, empty in gives empty out.

    UTF-8 that was read as Western European somewhere on its way is read again.

    >>> fold("MÃ¼ller"), fold("Müller")
    ('muller', 'muller')
    """
    if not text.isascii():
        text = anyascii(unicodedata.normalize("NFC", read_again(text)))
    return " ".join(text.lower().split())


def read_again(text: str) -> str:
    """Return UTF-8 that was read as Windows-1252 or Latin-1, once or twice, as it was meant; any other text as it is.

    Text that was read rightly is hardly ever valid UTF-8 in those encodings, since every letter beyond ASCII would have to be followed
    by a sign.
    """
    while _MISREAD.search(text):
        try:
            text = text.encode("cp1252", errors=_AS_LATIN_1).decode("utf-8")
        except UnicodeError:
            # Beside letters that were read rightly ("HANÇER EmiÅŸ").
            return _MISREAD_RUN.sub(_run_read_again, text)
    return text


def _run_read_again(run: re.Match[str]) -> str:
    try:
        return run[0].encode("cp1252", errors=_AS_LATIN_1).decode("utf-8")
    except UnicodeError:
        return run[0]


def _as_latin_1(error: UnicodeError) -> tuple[bytes, int]:
    """Give the bytes that Windows-1252 leaves undefined as Latin-1 has them."""
    if not isinstance(error, UnicodeEncodeError):
        raise error
    return error.object[error.start : error.end].encode("latin-1"), error.end


codecs.register_error(_AS_LATIN_1, _as_latin_1)


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
