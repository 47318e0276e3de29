"""Values as people read them lead back to the standard form that they were made of."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.addresses import country_code, country_name
from oddpair.core.addresses.countries import _names
from oddpair.core.contacts.phones import tidy_phone
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.standard import for_people, standard_values
from oddpair.core.standard.for_people import readable_phone

from .strategies import any_text, row

LAYOUT = default_layout(RegisterKind.ORGANISATION)


@pytest.mark.parametrize("code", sorted(_names()))
def test_every_country_has_a_name_that_is_understood(code: str) -> None:
    name = country_name(code)
    assert len(name) > 2
    assert country_code(name) == code


@pytest.mark.parametrize(
    ("number", "written"),
    [
        ("+441632960704", "+44 1632 960704"),
        ("+4575001874", "+45 75 00 18 74"),
        ("+441632960704;ext=7", "+44 1632 960704 ext. 7"),
        ("01632 960704", "01632 960704"),
        ("+", "+"),
        ("+999999999999999999999", "+999999999999999999999"),
        ("", ""),
    ],
)
def test_numbers_in_international_notation(number: str, written: str) -> None:
    assert readable_phone(number) == written


@given(st.sampled_from(["44", "45", "47", "49", "31", "33", "1"]), st.integers(20_000_000, 999_999_999))
def test_a_readable_number_is_the_same_number(country: str, rest: int) -> None:
    number = f"+{country}{rest}"
    written = readable_phone(number)
    assert written.replace(" ", "").replace("-", "") == number
    assert tidy_phone(written, "") == number


@given(row(), any_text)
def test_any_values_may_be_written_for_people(values: dict[str, str], text: str) -> None:
    given_values = {**values, "phone": text, "address.country": text}
    standard = standard_values(LAYOUT, given_values)
    written = for_people(LAYOUT, standard)
    assert written.keys() == standard.keys()
    unchanged = [name for name in standard if name not in ("phone", "address.country")]
    assert [written[name] for name in unchanged] == [standard[name] for name in unchanged]
    assert for_people(LAYOUT, written) == written
