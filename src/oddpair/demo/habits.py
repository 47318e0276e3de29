"""How each source writes what it knows: the error habits of the five systems."""

from dataclasses import dataclass, replace
from random import Random

from .entities import Organisation, Person
from .places import Place, make_place
from .slips import (
    SHORT_NAMES,
    digit_slip,
    drop_word,
    join_words,
    shorten,
    two_letter_vowels,
    typing_slip,
    without_marks,
)

#: How many times the usual shares of slips each level of difficulty has.
LEVELS = {"easy": 0.5, "middle": 1.5, "hard": 3.0}


@dataclass(frozen=True, slots=True)
class Habits:
    """Shares, each in [0, 1], with which a source spoils or lacks a value."""

    upper: bool = False
    slip: float = 0.02
    short: float = 0.05
    drop: float = 0.01
    join: float = 0.01
    no_legal_form: float = 0.1
    other_legal_form_place: float = 0.0
    two_letters: float = 0.0
    plain_letters: bool = False
    no_phone: float = 0.1
    no_email: float = 0.1
    no_address: float = 0.03
    no_number: float = 0.01
    moved: float = 0.02
    digit: float = 0.01
    short_name: float = 0.05
    initial: float = 0.02
    no_birth_date: float = 0.3
    family_first: bool = False
    national_phone: bool = False

    def mixed(self, mix: str) -> "Habits":
        """Return habits in which some kinds of slips are up to twice as frequent and others up to three times rarer.

        Which ones depends on the name of the mixture alone; without a name nothing changes.
        """
        if not mix:
            return self
        random = Random(mix)
        shares = {
            name: min(getattr(self, name) * 3 ** random.uniform(-1.0, 0.65), 0.9)
            for name in sorted(self.__slots__)
            if isinstance(getattr(self, name), float)
        }
        return replace(self, **shares)

    def worse(self, factor: float) -> "Habits":
        """Return the same habits with every share of slips multiplied, for harder data."""
        shares = {
            name: min(getattr(self, name) * factor, 0.9)
            for name in ("slip", "short", "drop", "join", "digit", "moved", "no_number", "initial", "short_name")
        }
        return replace(self, **shares)


HABITS = {
    "till": Habits(
        upper=True, slip=0.06, short=0.35, drop=0.03, join=0.02, no_legal_form=0.5, plain_letters=True, no_phone=0.15, no_email=1.0,
        digit=0.02, no_number=0.02, short_name=0.1, initial=0.15, no_birth_date=1.0, family_first=True, national_phone=True,
    ),
    "webshop": Habits(slip=0.03, no_legal_form=0.3, no_phone=0.1, no_email=0.0, short_name=0.15, no_birth_date=0.4),
    "ledger": Habits(slip=0.02, short=0.1, no_phone=0.3, no_email=0.6, moved=0.04, initial=0.1, no_birth_date=0.3, national_phone=True),
    "northhouse": Habits(
        slip=0.06, short=0.15, drop=0.03, no_legal_form=0.15, other_legal_form_place=0.1, two_letters=0.5, no_phone=0.15, no_email=0.3,
        moved=0.08, digit=0.02, no_birth_date=0.2, family_first=True, national_phone=True,
    ),
    "callsheet": Habits(
        slip=0.09, short=0.3, drop=0.04, join=0.04, no_legal_form=0.6, no_phone=0.05, no_email=0.3, no_address=0.1, no_number=0.08,
        digit=0.03, short_name=0.4, initial=0.05, no_birth_date=0.6,
    ),
}  # fmt: skip


def _chance(random: Random, share: float) -> bool:
    return random.random() < share


def _spoil_words(text: str, habits: Habits, random: Random) -> str:
    if _chance(random, habits.short):
        text = shorten(text, random)
    if _chance(random, habits.drop):
        text = drop_word(text, random)
    if _chance(random, habits.join):
        text = join_words(text, random)
    if _chance(random, habits.slip):
        text = typing_slip(text, random)
    if _chance(random, habits.two_letters):
        text = two_letter_vowels(text)
    return text


def _finish(text: str, habits: Habits) -> str:
    if habits.plain_letters:
        text = without_marks(text)
    return text.upper() if habits.upper else text


def _address(place: Place, habits: Habits, random: Random) -> dict[str, str]:
    if _chance(random, habits.no_address):
        return {"country": place.country.name, "country_code": place.country.code}
    if _chance(random, habits.moved):
        place = make_place(random, place.country)
    if _chance(random, habits.no_number):
        place = replace(place, number="", unit="")
    if _chance(random, habits.digit):
        place = replace(place, postcode=digit_slip(place.postcode, random))
    street = _finish(_spoil_words(place.line.strip(), replace(habits, drop=0, join=0), random), habits)
    town, postcode = _finish(place.town, habits), place.postcode
    comma = " " if _chance(random, 0.15) and habits.upper else ", "
    ordered = [street, f"{town} {postcode}"] if place.country.code in ("GB", "IE") else [street, f"{postcode} {town}"]
    return {
        "street": street, "town": town, "postcode": postcode, "country": place.country.name, "country_code": place.country.code,
        "one_line": comma.join(ordered),
    }  # fmt: skip


_CALLING = {
    "GB": "44",
    "IE": "353",
    "NO": "47",
    "DK": "45",
    "NL": "31",
    "DE": "49",
    "FR": "33",
    "PL": "48",
    "GR": "30",
    "JP": "81",
}


def _phone(phone: str, country: str, habits: Habits, random: Random) -> str:
    if _chance(random, habits.no_phone):
        return ""
    if _chance(random, habits.digit):
        phone = digit_slip(phone, random)
    if habits.national_phone:
        return phone.replace(" ", "") if habits.upper else phone
    plus = f"+{_CALLING[country]} "
    if phone.startswith("0"):
        return plus + ("(0)" if _chance(random, 0.2) else "") + phone[1:]
    return plus + phone


def organisation_values(entity: Organisation, habits: Habits, random: Random) -> dict[str, str]:
    """Return what a source with these habits holds of an organisation, by plain names of values."""
    name = _spoil_words(entity.name, habits, random)
    if entity.legal_form and not _chance(random, habits.no_legal_form):
        in_front = entity.legal_form in ("A/S", "AS") and _chance(random, habits.other_legal_form_place)
        name = f"{entity.legal_form} {name}" if in_front else f"{name} {entity.legal_form}"
    email = "" if _chance(random, habits.no_email) else entity.email
    return {
        "name": _finish(name, habits),
        **_address(entity.place, habits, random),
        "phone": _phone(entity.phone, entity.place.country.code, habits, random),
        "email": _mail_slip(email, random) if email and _chance(random, habits.slip / 2) else email,
        "web_site": "" if _chance(random, 0.5) else entity.web_site,
        "tax_number": digit_slip(entity.tax_number, random) if _chance(random, habits.digit) else entity.tax_number,
    }


def _mail_slip(email: str, random: Random) -> str:
    """Return the address with a slip before its ending, which stays the one kept for examples."""
    return typing_slip(email.removesuffix(".example"), random) + ".example"


def _given_names(entity: Person, habits: Habits, random: Random) -> str:
    given = entity.given
    if _chance(random, habits.short_name):
        given = SHORT_NAMES.get(given, given)
    elif _chance(random, habits.initial):
        return given[0] + "."
    if entity.second and _chance(random, 0.6):
        given += f" {entity.second[0]}." if _chance(random, 0.5) else f" {entity.second}"
    return given


def person_values(entity: Person, habits: Habits, random: Random) -> dict[str, str]:
    """Return what a source with these habits holds of a person, by plain names of values."""
    given, family = _given_names(entity, habits, random), entity.family
    if _chance(random, habits.slip):
        family = typing_slip(family, random)
    elif _chance(random, habits.slip):
        given = typing_slip(given, random)
    if _chance(random, habits.two_letters):
        given, family = two_letter_vowels(given), two_letter_vowels(family)
    suffix = f" {entity.suffix}" if entity.suffix and not _chance(random, 0.08) else ""
    if _chance(random, 0.015):
        given, family = family, given
    given, family = _finish(given, habits), _finish(family + suffix, habits)
    email = "" if _chance(random, habits.no_email) else entity.email
    birth = "" if _chance(random, habits.no_birth_date) else entity.birth_date
    return {
        "given": given,
        "family": family,
        "name": f"{family}, {given}" if habits.family_first else f"{given} {family}",
        **_address(entity.place, habits, random),
        "phone": _phone(entity.phone, entity.place.country.code, habits, random),
        "email": _mail_slip(email, random) if email and _chance(random, habits.slip / 2) else email,
        "birth_date": digit_slip(birth, random) if birth and _chance(random, habits.digit) else birth,
        "boat": _finish(typing_slip(entity.boat, random) if _chance(random, habits.slip) else entity.boat, habits)
        if not _chance(random, 0.25)
        else "",
    }
