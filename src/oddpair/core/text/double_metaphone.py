"""Double Metaphone: two codes of how a word may be spoken, the second one where its spelling may come from elsewhere.

Source: L. Philips, "The double metaphone search algorithm", C/C++ Users Journal 18(6), 2000. What we changed: codes are
not cut at four letters, and text is folded before, so that letters with marks are not looked at.
"""

import re
from collections.abc import Callable
from functools import lru_cache

_NOT_LETTER = re.compile(r"[^A-Z]")
_SLAVO_GERMANIC = re.compile(r"W|K|CZ|WITZ")
_VOWELS = frozenset("AEIOUY")
_SILENT_STARTS = ("GN", "KN", "PN", "WR", "PS")
#: Letters that keep one sound, whatever stands around them.
_PLAIN = {"B": "P", "F": "F", "K": "K", "N": "N", "Q": "K", "V": "F"}

#: (primary code, secondary code, letters used up)
_Sound = tuple[str, str, int]


class _Word:
    """A word in capitals that can be asked what stands where; outside it there is nothing."""

    def __init__(self, letters: str) -> None:
        self.letters = letters
        self.last = len(letters) - 1
        self.slavo_germanic = bool(_SLAVO_GERMANIC.search(letters))
        self.germanic = letters.startswith("SCH")

    def at(self, place: int, *options: str) -> bool:
        """Whether one of the strings stands at ``place``."""
        return place >= 0 and self.letters.startswith(options, place)

    def letter(self, place: int) -> str:
        return self.letters[place] if 0 <= place <= self.last else ""

    def vowel(self, place: int) -> bool:
        return self.letter(place) in _VOWELS and 0 <= place <= self.last


def _one(code: str, used: int = 1) -> _Sound:
    return code, code, used


def _c(w: _Word, i: int) -> _Sound:
    if i > 1 and not w.vowel(i - 2) and w.at(i - 1, "ACH") and w.letter(i + 2) not in ("I", "E"):
        return _one("K", 2)
    if w.at(i - 2, "BACHER", "MACHER") and i > 1:
        return _one("K", 2)
    if i == 0 and w.at(i, "CAESAR"):
        return _one("S", 2)
    if w.at(i, "CHIA"):
        return _one("K", 2)
    if w.at(i, "CH"):
        return _ch(w, i)
    if w.at(i, "CZ") and not w.at(i - 2, "WICZ"):
        return "S", "X", 2
    if w.at(i + 1, "CIA"):
        return _one("X", 3)
    if w.at(i, "CC") and not (i == 1 and w.letter(0) == "M"):
        if w.at(i + 2, "I", "E", "H") and not w.at(i + 2, "HU"):
            hard = (i == 1 and w.letter(0) == "A") or w.at(i - 1, "UCCEE", "UCCES")
            return _one("KS", 3) if hard else _one("X", 3)
        return _one("K", 2)
    if w.at(i, "CK", "CG", "CQ"):
        return _one("K", 2)
    if w.at(i, "CIO", "CIE", "CIA"):
        return "S", "X", 2
    if w.at(i, "CI", "CE", "CY"):
        return _one("S", 2)
    return _one("K", 2 if w.at(i + 1, "C", "K", "Q") and not w.at(i + 1, "CE", "CI") else 1)


def _ch(w: _Word, i: int) -> _Sound:
    if i > 0 and w.at(i, "CHAE"):
        return "K", "X", 2
    greek_start = w.at(1, "HARAC", "HARIS", "HOR", "HYM", "HIA", "HEM") and not w.at(0, "CHORE")
    if i == 0 and greek_start:
        return _one("K", 2)
    before = i == 0 or w.letter(i - 1) in "AOUE"
    after = i + 2 > w.last or w.letter(i + 2) in "LRNMBHFVW"
    greek = w.at(i - 2, "ORCHES", "ARCHIT", "ORCHID") or w.letter(i + 2) in ("T", "S")
    if w.germanic or greek or (before and after):
        return _one("K", 2)
    if i > 0:
        return _one("K", 2) if w.at(0, "MC") else ("X", "K", 2)
    return _one("X", 2)


def _d(w: _Word, i: int) -> _Sound:
    if w.at(i, "DG"):
        return _one("J", 3) if w.letter(i + 2) in ("I", "E", "Y") else _one("TK", 2)
    return _one("T", 2 if w.at(i, "DT", "DD") else 1)


def _g(w: _Word, i: int) -> _Sound:
    after = w.letter(i + 1)
    if after == "H":
        return _gh(w, i)
    if after == "N":
        if i == 1 and w.vowel(0) and not w.slavo_germanic:
            return "KN", "N", 2
        silent = not w.at(i + 2, "EY") and not w.slavo_germanic
        return ("N", "KN", 2) if silent else _one("KN", 2)
    if w.at(i + 1, "LI") and not w.slavo_germanic:
        return "KL", "L", 2
    if i == 0 and w.at(1, "Y", "ES", "EP", "EB", "EL", "EY", "IB", "IL", "IN", "IE", "EI", "ER"):
        return "K", "J", 2
    soft_name = w.at(0, "DANGER", "RANGER", "MANGER") or w.at(i - 1, "E", "I", "RGY", "OGY")
    if w.at(i + 1, "ER", "Y") and i > 0 and not soft_name:
        return "K", "J", 2
    if after in ("E", "I", "Y") or w.at(i - 1, "AGGI", "OGGI"):
        if w.germanic or w.at(i + 1, "ET"):
            return _one("K", 2)
        return _one("J", 2) if w.at(i + 1, "IER") and i + 3 == w.last else ("J", "K", 2)
    return _one("K", 2 if after == "G" else 1)


def _gh(w: _Word, i: int) -> _Sound:
    if i > 0 and not w.vowel(i - 1):
        return _one("K", 2)
    if i == 0:
        return _one("J" if w.letter(2) == "I" else "K", 2)
    # "bough", "Hugh", "broughton": silent.
    if w.at(i - 2, "B", "H", "D") or w.at(i - 3, "B", "H", "D") or w.at(i - 4, "B", "H"):
        return _one("", 2)
    if i > 2 and w.letter(i - 1) == "U" and w.letter(i - 3) in "CGLRT":
        return _one("F", 2)
    return _one("" if w.letter(i - 1) == "I" else "K", 2)


def _h(w: _Word, i: int) -> _Sound:
    spoken = (i == 0 or w.vowel(i - 1)) and w.vowel(i + 1)
    return _one("H", 2) if spoken else _one("")


def _j(w: _Word, i: int) -> _Sound:
    if w.at(i, "JOSE"):
        return ("H", "H", 1) if i == 0 and w.last == 3 else ("J", "H", 1)
    used = 2 if w.letter(i + 1) == "J" else 1
    if i == 0:
        return "J", "A", used
    if w.vowel(i - 1) and not w.slavo_germanic and w.letter(i + 1) in ("A", "O"):
        return "J", "H", used
    if i == w.last:
        return "J", "", used
    silent = w.letter(i + 1) in "LTKSNMBZ" or w.letter(i - 1) in "SKL"
    return _one("" if silent else "J", used)


def _l(w: _Word, i: int) -> _Sound:
    if w.letter(i + 1) != "L":
        return _one("L")
    spanish = (i == w.last - 2 and w.at(i - 1, "ILLO", "ILLA", "ALLE")) or (
        (w.letters.endswith(("AS", "OS")) or w.letters[-1] in "AO") and w.at(i - 1, "ALLE")
    )
    return ("L", "", 2) if spanish else _one("L", 2)


def _m(w: _Word, i: int) -> _Sound:
    silent_b = w.at(i - 1, "UMB") and (i + 1 == w.last or w.at(i + 2, "ER"))
    return _one("M", 2 if silent_b or w.letter(i + 1) == "M" else 1)


def _p(w: _Word, i: int) -> _Sound:
    if w.letter(i + 1) == "H":
        return _one("F", 2)
    return _one("P", 2 if w.letter(i + 1) in ("P", "B") else 1)


def _r(w: _Word, i: int) -> _Sound:
    used = 2 if w.letter(i + 1) == "R" else 1
    french = i == w.last and not w.slavo_germanic and w.at(i - 2, "IE") and not w.at(i - 4, "ME", "MA")
    return ("", "R", used) if french else _one("R", used)


def _s(w: _Word, i: int) -> _Sound:
    if w.at(i - 1, "ISL", "YSL"):
        return _one("")
    if i == 0 and w.at(0, "SUGAR"):
        return "X", "S", 1
    if w.at(i, "SH"):
        return _one("S", 2) if w.at(i + 1, "HEIM", "HOEK", "HOLM", "HOLZ") else _one("X", 2)
    if w.at(i, "SIO", "SIA"):
        return _one("S", 3) if w.slavo_germanic else ("S", "X", 3)
    if (i == 0 and w.letter(1) in tuple("MNLW")) or w.letter(i + 1) == "Z":
        return "S", "X", 2 if w.letter(i + 1) == "Z" else 1
    if w.at(i, "SC"):
        return _sc(w, i)
    french = i == w.last and w.at(i - 2, "AI", "OI")
    used = 2 if w.letter(i + 1) in ("S", "Z") else 1
    return ("", "S", used) if french else _one("S", used)


def _sc(w: _Word, i: int) -> _Sound:
    if w.letter(i + 2) == "H":
        if w.at(i + 3, "OO", "ER", "EN", "UY", "ED", "EM"):
            return ("X", "SK", 3) if w.at(i + 3, "ER", "EN") else _one("SK", 3)
        if i == 0 and not w.vowel(3) and w.letter(3) != "W":
            return "X", "S", 3
        return _one("X", 3)
    return _one("S", 3) if w.letter(i + 2) in ("I", "E", "Y") else _one("SK", 3)


def _t(w: _Word, i: int) -> _Sound:
    if w.at(i, "TION", "TIA", "TCH"):
        return _one("X", 3)
    if w.at(i, "TH", "TTH"):
        if w.at(i + 2, "OM", "AM") or w.germanic:
            return _one("T", 2)
        return "0", "T", 2
    return _one("T", 2 if w.letter(i + 1) in ("T", "D") else 1)


def _w(w: _Word, i: int) -> _Sound:
    if w.at(i, "WR"):
        return _one("R", 2)
    if i == 0 and (w.vowel(1) or w.at(0, "WH")):
        return ("A", "F", 1) if w.vowel(1) else _one("A")
    slavic = (i == w.last and w.vowel(i - 1)) or w.at(i - 1, "EWSKI", "EWSKY", "OWSKI", "OWSKY") or w.at(0, "SCH")
    if slavic:
        return "", "F", 1
    return ("TS", "FX", 4) if w.at(i, "WICZ", "WITZ") else _one("")


def _x(w: _Word, i: int) -> _Sound:
    used = 2 if w.letter(i + 1) in ("C", "X") else 1
    french = i == w.last and (w.at(i - 3, "IAU", "EAU") or w.at(i - 2, "AU", "OU"))
    return _one("" if french else "KS", used)


def _z(w: _Word, i: int) -> _Sound:
    if w.letter(i + 1) == "H":
        return _one("J", 2)
    used = 2 if w.letter(i + 1) == "Z" else 1
    slavic = w.at(i + 1, "ZO", "ZI", "ZA") or (w.slavo_germanic and i > 0 and w.letter(i - 1) != "T")
    return ("S", "TS", used) if slavic else _one("S", used)


_SOUNDS: dict[str, Callable[[_Word, int], _Sound]] = {
    "C": _c, "D": _d, "G": _g, "H": _h, "J": _j, "L": _l, "M": _m, "P": _p, "R": _r, "S": _s, "T": _t, "W": _w, "X": _x,
    "Z": _z,
}  # fmt: skip


def _sound(word: _Word, place: int) -> _Sound:
    letter = word.letter(place)
    if letter in _VOWELS:
        return _one("A" if place == 0 else "")
    if letter in _PLAIN:
        return _one(_PLAIN[letter], 2 if word.letter(place + 1) == letter else 1)
    return _SOUNDS[letter](word, place)


@lru_cache(maxsize=100_000)
def double_metaphone(word: str) -> tuple[str, str]:
    """Return the primary and the secondary code of a folded word, often equal; both "" if it has no letter.

    >>> double_metaphone("smith"), double_metaphone("schmidt")
    (('SM0', 'XMT'), ('XMT', 'SMT'))
    """
    letters = _NOT_LETTER.sub("", word.upper())
    if not letters:
        return "", ""
    known = _Word(letters)
    primary = secondary = ""
    place = 1 if letters.startswith(_SILENT_STARTS) else 0
    if letters[0] == "X":
        # "Xavier" starts like "Zavier".
        primary = secondary = "S"
        place = 1
    while place <= known.last:
        one, other, used = _sound(known, place)
        primary += one
        secondary += other
        place += used
    return primary, secondary
