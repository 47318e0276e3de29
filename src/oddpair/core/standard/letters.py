"""Capitals and small letters of names that were written in letters of one case."""

import re
from functools import cache, lru_cache

from ..text.folding import fold
from ..text.tables import read_lines, read_word_list

_ROMAN = frozenset("ii iii iv vi vii viii ix xi xii xiii".split())
_VOWELS = frozenset("aeiouyæøåäöüéèêáàíóúąęœ")
_LONGEST_INITIALS = 4
#: Forms are written with a stroke or with stops between single letters ("A/S", "S.A.").
_SINGLE_LETTERS = re.compile(r"\w(?:[./]\w)+\.?")
_SPOLKA = re.compile(r"\bsp\.? ?z ?o\.? ?o\b\.?", re.IGNORECASE)
_LEAST_SHOUTED, _LEAST_TELLING = 3, 4
_TOKENS = re.compile(r"\S+")
_PARTS = re.compile(r"([-/&.'’`])")
_APOSTROPHES = "'’`"


def is_of_one_case(text: str) -> bool:
    """Whether a text holds capitals or small letters only."""
    return (text == text.upper()) != (text == text.lower())


@lru_cache(maxsize=100_000)
def proper_case(text: str) -> str:
    """Return a name with capitals where they belong; one that holds both capitals and small letters stays as it is.

    >>> proper_case("SKUA ROPE WORKS AND SONS LTD"), proper_case("YACHTHAVEN SP. Z O.O.")
    ('Skua Rope Works and Sons Ltd', 'Yachthaven Sp. z o.o.')
    """
    if not is_of_one_case(text):
        return text
    small = read_word_list(__package__, "small_words.txt")
    tokens = _TOKENS.findall(text)
    written = " ".join(_token(tokens, place, small) for place in range(len(tokens)))
    return _SPOLKA.sub("Sp. z o.o.", written)


@lru_cache(maxsize=100_000)
def proper_name(text: str) -> str:
    """Return a part of a person's name with capitals where they belong, particles in small letters.

    >>> proper_name("O'BRIEN-MCKAY"), proper_name("van der MEER"), proper_name("VAN DER MEER")
    ("O'Brien-McKay", 'van der Meer', 'van der Meer')
    """
    particles = read_word_list(__package__, "small_words_people.txt")
    of_one_case = is_of_one_case(text)
    tokens = []
    for token in _TOKENS.findall(text):
        plain = fold(token).strip(".,;()")
        shouted = len(plain) >= _LEAST_SHOUTED and token == token.upper() != token.lower()
        if not (of_one_case or shouted) or (plain in _ROMAN and token == token.upper()):
            tokens.append(token)
        else:
            tokens.append(token.lower() if plain in particles else _capitalised(token))
    return " ".join(tokens)


def _token(tokens: list[str], place: int, small: frozenset[str]) -> str:
    token = tokens[place]
    plain = fold(token).strip(".,;()")
    # Short ones are words as well ("da", "se"): they are legal forms at the end of a name only.
    may_be_form = place and (len(plain) >= _LEAST_TELLING or all(map(_ends_a_name, tokens[place + 1 :])))
    form = legal_form_spelling(token) if may_be_form else ""
    if form and ("." in form or not _SINGLE_LETTERS.fullmatch(token)):
        return form + "." if token.endswith(".") and not form.endswith(".") else form
    if place and plain in small:
        return token.lower()
    if plain in _ROMAN or _may_be_initials(plain) or _SINGLE_LETTERS.fullmatch(token):
        return token.upper()
    return _capitalised(token)


def _ends_a_name(token: str) -> bool:
    return token == "&" or bool(legal_form_spelling(token))


def _capitalised(token: str) -> str:
    parts = _PARTS.split(token)
    hyphened = read_word_list(__package__, "small_words_hyphened.txt")
    written = []
    for place, part in enumerate(parts):
        before = parts[place - 1] if place else ""
        small = before == "-" and place < len(parts) - 1 and fold(part) in hyphened
        written.append(part.lower() if small else part if part in "-/&." else _word(part, before))
    return "".join(written)


def _word(word: str, before: str) -> str:
    lower = word.lower()
    if before and before in _APOSTROPHES and len(word) < 2:
        # The end of a genitive: "Baker's".
        return lower
    if lower.startswith("mc") and len(lower) > 3:
        return "Mc" + lower[2:].capitalize()
    start = next((place for place, letter in enumerate(lower) if letter.isalpha()), None)
    if start is None or (start and lower[:start].isdigit()):
        # "2nd", "12b"
        return lower
    # Not str.title, which makes two letters of one (ß, ŉ) and changes what stands behind marks.
    return lower[:start] + _capital(lower[start]) + lower[start + 1 :]


def _capital(letter: str) -> str:
    upper = letter.upper()
    return upper if len(upper) == 1 else letter


def _may_be_initials(plain: str) -> bool:
    return 1 < len(plain) <= _LONGEST_INITIALS and plain.isalpha() and _VOWELS.isdisjoint(plain)


@lru_cache(maxsize=20_000)
def legal_form_spelling(token: str) -> str:
    """Return a legal form as its country writes it ("GMBH", "gmbh" → "GmbH"), or "" where the token is none that is known."""
    return _spellings().get("".join(letter for letter in fold(token) if letter.isalnum()), "")


@cache
def _spellings() -> dict[str, str]:
    forms = [form.strip() for line in read_lines(__package__, "legal_form_spellings.txt") for form in line.split(",")]
    # The first of two that differ in marks only is the more usual one.
    return {"".join(letter for letter in fold(form) if letter.isalnum()): form for form in reversed(forms) if form}
