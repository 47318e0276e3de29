"""Phonetic codes: words that sound alike get the same code."""

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
