"""Phonetic codes: words that sound alike get the same code."""

import re

_SOUNDEX_DIGITS = {
    **dict.fromkeys("bfpv", "1"),
    **dict.fromkeys("cgjkqsxz", "2"),
    **dict.fromkeys("dt", "3"),
    "l": "4",
    **dict.fromkeys("mn", "5"),
    "r": "6",
}


def soundex(word: str) -> str:
    """Return the American Soundex code of a folded word (letter and three digits), or "" if it has no letter.

    Source: R. C. Russell, US patent 1261167 (1918), in the form used by the US National Archives: h and w do not
    separate letters of the same digit, vowels do.
    """
    letters = [letter for letter in word if letter.isascii() and letter.isalpha()]
    if not letters:
        return ""
    code = letters[0].upper()
    previous = _SOUNDEX_DIGITS.get(letters[0], "")
    for letter in letters[1:]:
        digit = _SOUNDEX_DIGITS.get(letter, "")
        if digit and digit != previous:
            code += digit
        if letter not in "hw":
            previous = digit
    return (code + "000")[:4]


_NYSIIS_STARTS = (("mac", "mcc"), ("kn", "nn"), ("k", "c"), ("ph", "ff"), ("pf", "ff"), ("sch", "sss"))
_NYSIIS_ENDS = (("ee", "y"), ("ie", "y"), ("dt", "d"), ("rt", "d"), ("rd", "d"), ("nt", "d"), ("nd", "d"))
_NYSIIS_PARTS = {"q": "g", "z": "s", "m": "n"}


def _replaced_start(word: str) -> str:
    for start, instead in _NYSIIS_STARTS:
        if word.startswith(start):
            return instead + word[len(start) :]
    return word


def _replaced_end(word: str) -> str:
    for end, instead in _NYSIIS_ENDS:
        if word.endswith(end):
            return word[: -len(end)] + instead
    return word


def _nysiis_letters(before: str, rest: str) -> str:
    """Return what the letters at the start of ``rest`` become after the letter ``before``; as many letters as they were."""
    if rest.startswith("ev"):
        return "af"
    if rest.startswith("kn"):
        return "nn"
    if rest.startswith("sch"):
        return "sss"
    if rest.startswith("ph"):
        return "ff"
    letter = rest[0]
    if letter in "aeiou":
        return "a"
    if letter in _NYSIIS_PARTS:
        return _NYSIIS_PARTS[letter]
    if letter == "k":
        return "c"
    following = rest[1:2]
    if letter == "h" and (before not in "aeiou" or (following and following not in "aeiou")):
        return before
    if letter == "w" and before in "aeiou":
        return before
    return letter


def nysiis(word: str) -> str:
    """Return the NYSIIS code of a folded word, unbounded in length, or "" if it has no letter.

    Source: R. L. Taft, "Name search techniques" (New York State Identification and Intelligence System, 1970).
    """
    letters = re.sub(r"[^a-z]", "", word)
    if not letters:
        return ""
    letters = _replaced_end(_replaced_start(letters))
    code = letters[0]
    before, place = letters[0], 1
    while place < len(letters):
        sound = _nysiis_letters(before, letters[place:])
        before = sound[-1]
        place += len(sound)
        for letter in sound:
            if letter != code[-1]:
                code += letter
    if len(code) > 1 and code.endswith("s"):
        code = code[:-1]
    if code.endswith("ay"):
        code = code[:-2] + "y"
    if len(code) > 1 and code.endswith("a"):
        code = code[:-1]
    return code.upper()
