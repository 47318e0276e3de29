"""Looks at the contents of a column: how well they fit a field, and whether they could be it at all."""

import re
from collections.abc import Callable, Sequence
from functools import lru_cache

from ..addresses.countries import country_code
from ..addresses.postcodes import find_postcode
from ..contacts.dates import tidy_date
from ..contacts.identifiers import split_tax_number
from ..contacts.internet import tidy_email, tidy_web_site
from ..organisations import parse_organisation_name
from ..people import given_name_forms
from ..text.folding import fold
from ..text.tables import phrase
from .mapping import ID_TARGET

_PHONE = re.compile(r"^[+(]?\d[\d\s()/.\-]{5,}(?:ext\.? ?\d+)?$")
_WORDS = re.compile(r"[^\W\d_]+")
_NEWEST_BIRTH_YEAR = "2012"
#: A few ids may stand twice by mistake; those rows are set aside.
_MOST_REPEATED_IDS = 0.05

Values = Sequence[str]


def share(values: Values, test: Callable[[str], object]) -> float:
    """Return the share of values that pass a test."""
    return sum(1 for value in values if test(value)) / len(values) if values else 0.0


def _is_postcode(value: str) -> bool:
    found = find_postcode(fold(value), "")
    return found is not None and found[1] - found[0] == len(fold(value)) and len(value) <= 10


def _looks_like_address(value: str) -> bool:
    return (
        bool(re.search(r"\d", value)) and bool(re.search(r"[^\W\d_]{2,}", value)) and " " in value and "@" not in value
    )


@lru_cache(maxsize=5_000)
def looks_like_organisation(value: str) -> bool:
    """Whether a value is a name with a legal form."""
    return bool(parse_organisation_name(value).legal_form)


def _looks_like_person(value: str) -> bool:
    words = _WORDS.findall(value)
    return 2 <= len(words) <= 4 and not re.search(r"[\d@]", value) and not looks_like_organisation(value)


def _is_phone(value: str) -> bool:
    return bool(_PHONE.match(value.strip())) and not tidy_date(value) and len(re.sub(r"\D", "", value)) >= 7


def _is_wordy(value: str) -> bool:
    """Whether a value is made of letters, as names of people and places are."""
    return bool(_WORDS.search(value)) and not re.search(r"[@\d]", value) and not tidy_date(value)


def is_name_like(value: str) -> bool:
    """Whether a value could be the name of somebody: it holds letters and is no address, number, date or mailbox."""
    return len(_WORDS.findall(value)) >= 1 and "@" not in value and not _is_phone(value) and not tidy_date(value)


def is_given_name(value: str) -> bool:
    """Whether the first word of a value is a known given name."""
    return phrase(value).partition(" ")[0] in given_name_forms()


def words_per_value(values: Values) -> float:
    """Return how many words the values have on average."""
    return sum(len(_WORDS.findall(value)) for value in values) / len(values) if values else 0.0


def _id_fit(values: Values) -> float:
    compact = share(values, lambda value: len(value) <= 24 and " " not in value and re.search(r"\d", value))
    return compact if len(values) > 1 and _tells_apart(values) else 0.0


def _tells_apart(values: Values) -> bool:
    return len(values) - len(set(values)) <= max(1.0, _MOST_REPEATED_IDS * len(values))


def _town_fit(values: Values) -> float:
    wordy = share(values, lambda value: re.fullmatch(r"[^\W\d_][^\d_@]{1,30}", value) and not country_code(value))
    repeated = 1 - len(set(values)) / len(values) if values else 0.0
    return 0.45 * wordy * min(1.0, 2 * repeated)


#: How well contents alone fit a field, in [0, 1].
FIT: dict[str, Callable[[Values], float]] = {
    ID_TARGET: _id_fit,
    "name": lambda values: max(share(values, looks_like_organisation), 0.7 * share(values, _looks_like_person)),
    "address.line": lambda values: 0.8 * share(values, _looks_like_address),
    "address.city": _town_fit,
    "address.postcode": lambda values: share(values, _is_postcode),
    "address.country": lambda values: share(values, lambda value: len(value) > 1 and country_code(value)),
    "phone": lambda values: share(values, _is_phone),
    "email": lambda values: share(values, tidy_email),
    "web_site": lambda values: share(
        values, lambda value: re.match(r"^(https?://|www\.)", value.lower()) and tidy_web_site(value)
    ),
    "tax_number": lambda values: share(
        values, lambda value: re.match(r"^[A-Z]{2} ?\d", value.upper()) and split_tax_number(value)[1]
    ),
    "birth_date": lambda values: share(values, lambda value: "" < tidy_date(value) < _NEWEST_BIRTH_YEAR),
    "updated_on": lambda values: share(values, lambda value: tidy_date(value) >= _NEWEST_BIRTH_YEAR),
}

#: Where a column has more values than this, house numbers repeat: those that do not are the numbers of records.
_HOUSES_TELL, _LONGEST_HOUSE_NUMBER = 20, 12
#: What most values of a field must pass at least, or the column is none, whatever its header says.
_COULD_BE: dict[str, Callable[[str], object]] = {
    "name": is_name_like,
    "name.given": _is_wordy,
    "name.middle": _is_wordy,
    "name.family": _is_wordy,
    "address.line": lambda value: _WORDS.search(value) and "@" not in value,
    "address.number": lambda value: re.match(r"\W*\d", value) and len(value) <= _LONGEST_HOUSE_NUMBER,
    "address.city": lambda value: _WORDS.search(value) and "@" not in value and not _is_postcode(value),
    "address.postcode": _is_postcode,
    "address.country": country_code,
    "address.region": _WORDS.search,
    "phone": _is_phone,
    "email": tidy_email,
    "web_site": tidy_web_site,
    "tax_number": lambda value: len(re.sub(r"\W", "", value)) >= 5 and re.search(r"\d", value),
    "birth_date": tidy_date,
    "updated_on": tidy_date,
    "boat": _WORDS.search,
}
_LEAST_SHARE = {
    "address.postcode": 0.3,
    "address.country": 0.3,
    "phone": 0.3,
    "email": 0.3,
    "birth_date": 0.3,
    "updated_on": 0.3,
}
_USUAL_LEAST_SHARE = 0.5


@lru_cache(maxsize=1000)
def could_be(target: str, values: tuple[str, ...]) -> bool:
    """Whether the contents of a column could be a field's; an empty column could be anything."""
    if target == ID_TARGET:
        return _tells_apart(values)
    if target == "address.number" and len(values) > _HOUSES_TELL and _tells_apart(values):
        return False
    test = _COULD_BE.get(target)
    return test is None or not values or share(values, test) >= _LEAST_SHARE.get(target, _USUAL_LEAST_SHARE)
