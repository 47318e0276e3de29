"""Postcodes by country: recognising them in running text and writing them in one form."""

import re
from dataclasses import dataclass
from functools import cache


@dataclass(frozen=True, slots=True)
class PostcodeForm:
    """The pattern of a country's postcodes in folded text; ``letters`` tells whether it can be known by shape alone."""

    countries: tuple[str, ...]
    pattern: re.Pattern[str]
    letters: bool


#: Countries whose postcodes are so many digits in one run.
_FIVE = tuple("US DE FR ES IT FI GR SE PL CZ SK TR UA HR EE LT MX KR MY TH".split())
_FOUR = tuple("AU NO DK NL BE AT CH PT HU BG LU SI NZ ZA CY LV".split())
_FORMS = (
    PostcodeForm(("GB",), re.compile(r"\b([a-z]{1,2}\d[a-z\d]?) ?(\d[a-z]{2})\b"), True),
    PostcodeForm(("IE",), re.compile(r"\b([ac-fhknprtv-y]\d[\dw]) ?([\dac-fhknprtv-y]{4})\b"), True),
    PostcodeForm(("CA",), re.compile(r"\b([a-z]\d[a-z]) ?(\d[a-z]\d)\b"), True),
    PostcodeForm(("NL",), re.compile(r"\b(\d{4}) ?([a-z]{2})\b"), True),
    PostcodeForm(("PL",), re.compile(r"(?<![\d-])(\d{2})-(\d{3})\b"), True),
    PostcodeForm(("PT",), re.compile(r"\b(\d{4})-(\d{3})\b"), True),
    PostcodeForm(("JP",), re.compile(r"\b(\d{3})-(\d{4})\b"), True),
    PostcodeForm(("BR",), re.compile(r"\b(\d{5})-(\d{3})\b"), True),
    PostcodeForm(("BR",), re.compile(r"\b(\d{8})()\b"), False),
    PostcodeForm(("SE", "GR", "CZ", "SK"), re.compile(r"\b(\d{3}) (\d{2})\b"), False),
    PostcodeForm(("RU", "CN", "IN", "KZ", "BY", "SG", "RO"), re.compile(r"\b(\d{6})()\b"), False),
    PostcodeForm(_FIVE, re.compile(r"\b(\d{5})()(?:-\d{4})?\b"), False),
    PostcodeForm(_FOUR, re.compile(r"\b(\d{4})()\b"), False),
)
_COUNTRY_PREFIX = re.compile(r"^\s*[a-z]{1,3}[- ](?=\d)", re.IGNORECASE)
_PREFIX_BEFORE = re.compile(r"(?:^|\b)[a-z]{1,3}-$", re.IGNORECASE)
_EXTENDED = re.compile(r"^(\d{4,5})-\d{4}$")
_OTHER = re.compile(r"[^0-9a-z]")
#: In a tidy postcode, which is one whole without marks, edges of words and what parts its halves say nothing.
_EDGE, _PARTED = re.compile(r"\\b|\(\?<!.*?\)"), re.compile(r"\)[- ]\??\(")
#: Countries whose postcodes are five digits: a spreadsheet drops zeros at the front, further digits name a doorstep.
_FIVE_DIGITS = frozenset({"US", "DE", "FR", "ES", "IT"})


def tidy_postcode(text: str, country: str = "") -> str:
    """Return letters and digits of a postcode in upper case without spaces.

    A country prefix ("D-", "NL-") and the four digits that the United States add are dropped; zeros that were lost at the
    front are put back where ``country`` says how many digits there must be.
    """
    together = text.replace(" ", "")
    if text.isascii() and together.isalnum() and not _COUNTRY_PREFIX.match(text):
        plain = together.upper()
    else:
        plain = _EXTENDED.sub(r"\1", _COUNTRY_PREFIX.sub("", text.strip().lower()))
        plain = _OTHER.sub("", plain).upper()
    if country in _FIVE_DIGITS and plain.isdigit():
        return plain[:5] if len(plain) == 9 else plain.zfill(5)
    return plain


@cache
def _patterns(country: str) -> tuple[re.Pattern[str], ...]:
    return tuple(form.pattern for form in _FORMS if country in form.countries)


def fits(postcode: str, country: str) -> bool:
    """Whether a tidy postcode has a form of the country; True where the country's forms are not known."""
    form = _whole_form(country)
    return form is None or form.fullmatch(postcode.lower()) is not None


@cache
def _whole_form(country: str) -> re.Pattern[str] | None:
    pattern = forms_by_country().get(country)
    return re.compile(pattern) if pattern else None


@cache
def forms_by_country() -> dict[str, str]:
    """Return country → a pattern, in small letters, that a tidy postcode of it fits as a whole; databases read it as well."""
    countries = sorted({country for form in _FORMS for country in form.countries})
    return {
        country: "|".join(f"(?:{_PARTED.sub(')(', _EDGE.sub('', pattern.pattern))})" for pattern in _patterns(country))
        for country in countries
    }


def find_postcode(folded: str, country: str) -> tuple[int, int, str] | None:
    """Return (start, end, tidy postcode) of the postcode in folded text, or None.

    A form of ``country`` is preferred; without a country only the last match of a telling form counts, then of a plain
    run of five or four digits, since house numbers rarely have that many.
    """
    for pattern in _searched(country):
        matches = list(pattern.finditer(folded))
        if matches:
            match = matches[-1]
            return match.start(), match.end(), (match.group(1) + match.group(2)).upper()
    return None


def take_postcode(text: str, country: str) -> tuple[str, str]:
    """Return (what is left of a town or of a postcode's cell, tidy postcode) where both stand in one cell; (text, "") without a postcode.

    >>> take_postcode("D-57362 Olpe", "DE"), take_postcode("Springfield, IL 62704", "US")
    (('Olpe', '57362'), ('Springfield, IL', '62704'))
    """
    if not any(letter.isdigit() for letter in text):
        return text, ""
    for known in dict.fromkeys((country, "")):
        found = find_postcode(text.lower(), known)
        if found:
            start, end, postcode = found
            before = _PREFIX_BEFORE.sub("", text[:start])
            return f"{before} {text[end:]}".strip(" ,;-"), postcode
    return text, ""


@cache
def _searched(country: str) -> tuple[re.Pattern[str], ...]:
    """Return the patterns to look for, telling ones first where the country is not known."""
    if country:
        return _patterns(country)
    return tuple(form.pattern for form in sorted(_FORMS, key=lambda form: not form.letters))
