"""Kinds of streets abbreviated and regions by name lead back to the standard form."""

import pytest
from hypothesis import given

from oddpair.core.addresses.regions import _names, region_code
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.standard import standard_values, with_regions_named, with_streets_abbreviated

from .strategies import any_text, row

LAYOUT = default_layout(RegisterKind.ORGANISATION)


@pytest.mark.parametrize(
    ("line", "country", "written"),
    [
        ("14 Harbour Street", "GB", "14 Harbour St"),
        ("14 Harbour Street", "United Kingdom", "14 Harbour St"),
        ("3 Cable Road,", "IE", "3 Cable Rd,"),
        ("12 The Way", "GB", "12 The Way"),
        ("Street", "GB", "Street"),
        ("Hafenstraße 3", "DE", "Hafenstr. 3"),
        ("Lange Strasse 3", "CH", "Lange Str. 3"),
        ("Havnegade 3", "DK", "Havnegade 3"),
        ("14 Harbour Street", "", "14 Harbour Street"),
    ],
)
def test_streets_abbreviated(line: str, country: str, written: str) -> None:
    values = {"address.line": line, "address.country": country}
    short = with_streets_abbreviated(values)
    assert short == values | {"address.line": written}
    assert with_streets_abbreviated(short) == short
    if country in ("GB", "DE", "CH"):
        assert standard_values(LAYOUT, short)["address.line"] == line


@pytest.mark.parametrize(("country", "code"), sorted(_names()))
def test_every_region_goes_by_a_name_that_leads_back_to_it(country: str, code: str) -> None:
    name = with_regions_named({"address.region": code, "address.country": country})["address.region"]
    assert name == name.strip() != ""
    assert region_code(name, country) == region_code(code, country) != ""


@given(row(), any_text)
def test_any_values_may_be_written_so(values: dict[str, str], text: str) -> None:
    given_values = {**values, "address.region": text, "address.line": text}
    for write in (with_streets_abbreviated, with_regions_named):
        written = write(given_values)
        assert written.keys() == given_values.keys()
        assert write(written) == written
