"""The tables of words are data: these tests keep them in order."""

from collections import Counter

import pytest

from oddpair.core.addresses.countries import country_code
from oddpair.core.addresses.regions import region_code
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.mapping import ID_TARGET
from oddpair.core.mapping.headers import FURTHER_NAME, NOTHING
from oddpair.core.text.tables import phrase, read_lines, read_word_list, read_word_map

ORGANISATIONS, PEOPLE, ADDRESSES = (f"oddpair.core.{name}" for name in ("organisations", "people", "addresses"))


@pytest.mark.parametrize(
    ("package", "name"),
    [(ORGANISATIONS, "legal_forms.txt"), (ORGANISATIONS, "abbreviations.txt"), (ORGANISATIONS, "directions.txt"), (PEOPLE, "suffixes.txt"),
     (ADDRESSES, "street_types.txt"), (ADDRESSES, "street_words.txt"), (ADDRESSES, "loose_street_types.txt"), (ADDRESSES, "towns.txt"),
     (ADDRESSES, "town_words.txt"), (ADDRESSES, "directions.txt")],
)  # fmt: skip
def test_every_form_leads_to_one_standard_word_that_leads_to_itself(package: str, name: str) -> None:
    table = read_word_map(package, name)
    assert len(table) > 5
    for form, standard in table.items():
        assert form == phrase(form)
        assert table[standard] == standard


@pytest.mark.parametrize(
    ("package", "name"),
    [
        (ORGANISATIONS, "legal_forms.txt"),
        (ORGANISATIONS, "abbreviations.txt"),
        (ADDRESSES, "street_types.txt"),
        (ADDRESSES, "street_words.txt"),
        (ADDRESSES, "interior_markers.txt"),
        (ADDRESSES, "towns.txt"),
        (ADDRESSES, "countries.txt"),
    ],
)
def test_no_form_stands_in_two_lines(package: str, name: str) -> None:
    lines = [line.partition(":") for line in read_lines(package, name)]
    forms = Counter(
        form for head, _, rest in lines for form in {phrase(text) for text in [head, *rest.split(",")] if text.strip()}
    )
    assert [form for form, count in forms.items() if count > 1] == []


def test_word_lists_are_folded_phrases() -> None:
    for package, name in (
        (ORGANISATIONS, "joiners.txt"),
        (ORGANISATIONS, "site_markers.txt"),
        (PEOPLE, "titles.txt"),
        (ADDRESSES, "ground_floor.txt"),
    ):
        words = read_word_list(package, name)
        assert words
        assert all(word == phrase(word) for word in words)


def test_short_forms_come_in_groups_of_at_least_two() -> None:
    for line in read_lines(PEOPLE, "short_forms.txt"):
        full, _, short = ({phrase(name) for name in part.split(",") if name.strip()} for part in line.partition(";"))
        assert full, line
        assert len(full | short) >= 2, line
        assert not full & short, line


def test_countries_have_two_letters_and_are_found_by_code_and_name() -> None:
    for line in read_lines(ADDRESSES, "countries.txt"):
        code, _, names = line.partition(":")
        assert len(code) == 2
        assert {country_code(name) for name in [code, *names.split(",")]} == {code}


def test_kinds_of_streets_and_other_words_of_streets_are_different_words() -> None:
    names = ("street_types.txt", "loose_street_types.txt", "street_words.txt", "directions.txt")
    tables = [set(read_word_map(ADDRESSES, name)) for name in names]
    assert sum(map(len, tables)) == len(set().union(*tables))


def test_regions_are_found_by_code_and_name_within_their_country() -> None:
    country = ""
    for line in read_lines(ADDRESSES, "regions.txt"):
        if line.startswith("["):
            country = line.strip("[]")
            continue
        code, _, names = line.partition(":")
        found = {region_code(name, country) for name in [code, *names.split(",")] if name.strip()}
        assert found == {f"{country}-{phrase(code).upper()}"}, line


def test_every_header_table_names_a_field_that_exists() -> None:
    known = {ID_TARGET} | {name for kind in RegisterKind for name in default_layout(kind).names}
    targets = [line.partition(":")[0] for line in read_lines("oddpair.core.mapping", "headers.txt")]
    named = {target.partition("/")[0] for target in targets}
    assert named - {NOTHING, FURTHER_NAME} == known
    assert {target.partition("/")[2] for target in targets} == {"", *(kind.value for kind in RegisterKind)}
    of_fields = [target for target in targets if not target.startswith(NOTHING)]
    assert len(of_fields) == len(set(of_fields))
