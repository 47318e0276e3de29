"""True entities: the organisations and people behind the records, with the scenario's traps."""

from dataclasses import dataclass, replace
from random import Random

from ..core.contacts.identifiers import tax_number_rules
from ..core.people import given_name_forms
from ..core.text.folding import fold, split_words
from ..core.text.tables import phrase
from .names import boat_name, business_name, family_name, given_name
from .places import COUNTRIES, Country, Place, fill, make_place

_TAX_PATTERNS = {
    "GB": "#########", "IE": "#######@", "NO": "#########", "DK": "########", "NL": "#########B##", "DE": "#########", "FR": "###########",
    "PL": "##########", "GR": "#########",
}  # fmt: skip
_SWITCHBOARD_SHARE, _ACCOUNTANT_SHARE = 0.02, 0.03


@dataclass(frozen=True, slots=True)
class Organisation:
    """A true organisation. ``trap`` names the trap it was planted for, if any."""

    key: str
    name: str
    legal_form: str
    place: Place
    phone: str
    email: str
    web_site: str
    tax_number: str
    trap: str = ""


@dataclass(frozen=True, slots=True)
class Person:
    """A true person."""

    key: str
    given: str
    second: str
    family: str
    suffix: str
    place: Place
    phone: str
    email: str
    birth_date: str
    boat: str
    trap: str = ""


def domain_of(name: str) -> str:
    """Return a made-up domain for a name."""
    return "-".join(split_words(fold(name))[:3]) + ".example"


def _phone(random: Random, place: Place, mobile: bool, coined: float = 0.0) -> str:
    pattern = place.country.mobile if mobile else place.country.phone
    if coined:
        # The ranges reserved for fiction are too small for many firms: free the digits behind the area code.
        pattern = pattern[:4] + "".join("#" if mark.isdigit() else mark for mark in pattern[4:])
    return fill(pattern, random)


def _tax_number(random: Random, country: str) -> str:
    """Return an invented number whose check digits are right, found by trying."""
    pattern = _TAX_PATTERNS.get(country)
    if not pattern:
        return ""
    rules = tax_number_rules(country)
    number = _with_check_digits(fill(pattern, random), country)
    while not rules.is_valid(number):
        number = _with_check_digits(fill(pattern, random), country)
    return number


def _with_check_digits(number: str, country: str) -> str:
    """Return the number with check digits where they cover two places, which drawing at random would rarely hit."""
    if country == "GB":
        rest = sum(weight * int(digit) for weight, digit in zip(range(8, 1, -1), number[:7], strict=True)) % 97
        return f"{number[:7]}{(97 - rest) % 97:02d}"
    if country == "FR":
        return f"{(12 + 3 * (int(number[2:]) % 97)) % 97:02d}{number[2:]}"
    return number


def make_organisation(
    random: Random, key: str, suppliers: bool, country: Country | None = None, coined: float = 0.0
) -> Organisation:
    """Return a random organisation, in ``country`` or in any; ``coined`` is the share of coined words in its values."""
    place = make_place(random, country, coined)
    name = business_name(random, place.country.code, place.town, suppliers, coined)
    domain = domain_of(name)
    return Organisation(
        key, name, random.choice(place.country.legal_forms), place, _phone(random, place, False, coined),
        random.choice(["info", "office", "post", "sales", "kontakt"]) + "@" + domain, "www." + domain,
        _tax_number(random, place.country.code),
    )  # fmt: skip


def _neighbour(random: Random, one: Organisation, key: str) -> Organisation:
    """Return a different firm that looks nearly the same: another town, another trade word, or a branch."""
    kind = random.choice(["same name elsewhere", "sister trade", "branch", "other number"])
    other = make_organisation(random, key, False, one.place.country)
    if kind == "same name elsewhere":
        place = make_place(random, one.place.country)
        while place.town == one.place.town:
            place = make_place(random, one.place.country)
        domain = domain_of(f"{one.name} {place.town}")
        return replace(
            one, key=key, place=place, phone=_phone(random, place, False), email=f"info@{domain}", web_site=f"www.{domain}",
            tax_number=_tax_number(random, place.country.code), trap=kind,
        )  # fmt: skip
    if kind == "sister trade":
        first = one.name.split()[0]
        rest = business_name(random, one.place.country.code, one.place.town, False).split()[1:]
        name = " ".join([first, *rest])
        if name == one.name:
            name += " Trust"
        return replace(other, name=name, place=replace(one.place, number=str(random.randrange(1, 140))), trap=kind)
    if kind == "branch":
        place = make_place(random, one.place.country)
        return replace(
            one, key=key, name=f"{one.name} Depot {random.randrange(2, 9)}", place=place, phone=_phone(random, place, False),
            email=f"depot{random.randrange(2, 99)}@{domain_of(one.name)}", tax_number="", trap=kind,
        )  # fmt: skip
    return replace(
        other,
        place=replace(one.place, number=str(random.randrange(141, 199))),
        phone=one.phone,
        trap="shared switchboard",
    )


def _with_own_domain(entity: Organisation, taken: set[str]) -> Organisation:
    """Return the organisation with a domain that no other one has: nobody can register a name twice."""
    domain = entity.web_site.removeprefix("www.")
    own, number = domain, 1
    while own in taken:
        number += 1
        own = f"{domain.removesuffix('.example')}-{'-'.join(split_words(fold(entity.place.town)))}.example"
        own = own if own not in taken else own.replace(".example", f"-{number}.example")
    taken.add(own)
    return replace(entity, web_site=f"www.{own}", email=entity.email.replace(f"@{domain}", f"@{own}"))


def make_organisations(random: Random, count: int, suppliers: bool, coined: float = 0.0) -> list[Organisation]:
    """Return ``count`` organisations, about a tenth of them traps."""
    prefix = "S" if suppliers else "C"
    entities: list[Organisation] = []
    switchboards = [make_organisation(random, "", suppliers).phone for _ in range(3)]
    offices = {country.code: make_place(random, country) for country in COUNTRIES}
    domains: set[str] = set()
    while len(entities) < count:
        key = f"{prefix}{len(entities):05d}"
        if entities and random.random() < 0.09:
            entity = _neighbour(random, random.choice(entities), key)
            entities.append(entity if entity.trap == "branch" else _with_own_domain(entity, domains))
            continue
        entity = _with_own_domain(make_organisation(random, key, suppliers, coined=coined), domains)
        if random.random() < _SWITCHBOARD_SHARE:
            entity = replace(entity, phone=random.choice(switchboards), trap="shared switchboard")
        elif random.random() < _ACCOUNTANT_SHARE:
            entity = replace(entity, place=offices[entity.place.country.code], trap="accountant's address")
        entities.append(entity)
    return entities


def _email_of_person(random: Random, given: str, family: str) -> str:
    box = "".join(
        letter
        for letter in domain_of(f"{given} {family}").removesuffix(".example")
        if letter.isalnum() or letter == "-"
    )
    return (
        f"{box.replace('-', random.choice(['.', '_', '']))}{random.choice(['', '', random.randrange(1, 99)])}@"
        + random.choice(["postbox.example", "seamail.example", "quickmail.example"])
    )


def make_person(random: Random, key: str, coined: float = 0.0) -> Person:
    """Return a random person; ``coined`` is the share of coined words in the values."""
    place = make_place(random, coined=coined)
    country = place.country.code
    given, family = given_name(random, country), family_name(random, country, coined)
    second = given_name(random, country) if random.random() < 0.3 else ""
    birth = f"{random.randrange(1938, 2004)}-{random.randrange(1, 13):02d}-{random.randrange(1, 29):02d}"
    return Person(
        key, given, second if second != given else "", family, "", place, _phone(random, place, True, coined),
        _email_of_person(random, given, family), birth, boat_name(random),
    )  # fmt: skip


def _alike(one: str, other: str) -> bool:
    """Whether two given names could be forms of one: two of a household must not be told apart by truth alone."""
    one, other = phrase(one), phrase(other)
    forms, others = given_name_forms().get(one), given_name_forms().get(other)
    return one[0] == other[0] or bool(forms and others and forms.groups & others.groups)


def _relative_of(person: Person, relative: Person, random: Random) -> Person:
    """Return the person as a member of the relative's household: a son of the same name, or somebody else."""
    shared = replace(person, family=relative.family, place=relative.place, phone=relative.phone, boat=relative.boat)
    if random.random() < 0.4 and not relative.suffix:
        # Father and son of one name: told apart by suffix and birth date only.
        born = f"{min(int(relative.birth_date[:4]) + 27, 2006)}{person.birth_date[4:]}"
        return replace(shared, given=relative.given, second="", suffix="Jr", birth_date=born, trap="father and son")
    return replace(shared, email=_email_of_person(random, person.given, relative.family), trap="household")


def make_people(random: Random, count: int, coined: float = 0.0) -> list[Person]:
    """Return ``count`` people; about one in twelve is a relative at the same address. No two share an e-mail address."""
    people: list[Person] = []
    mails: set[str] = set()
    while len(people) < count:
        person = make_person(random, f"P{len(people):05d}", coined)
        if people and random.random() < 0.08:
            place = random.randrange(len(people))
            relative = people[place]
            if _alike(person.given, relative.given):
                continue
            person = _relative_of(person, relative, random)
            if person.trap == "father and son":
                people[place] = replace(relative, suffix="Sr", trap=person.trap)
        if person.email in mails:
            continue
        mails.add(person.email)
        people.append(person)
    return people
