"""Given and family names told apart: by capitals in one cell, and by what all records teach."""

from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.census import CensusTaker
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.people import parse_person_name
from oddpair.core.records import RecordSet
from oddpair.core.tidying import tidy_records, with_what_all_teach

from .strategies import records

FAMILIES = "holm bakke lykke skov norwick pervan vardale zandkamp fjeldbo mulhof ehrssen farrelly".split()
GIVEN = "anna maria sigurd elin karin frank patricia guillaume margaret hendrik elisabeth ole".split()
Row = tuple[str, str, dict[str, str]]


@pytest.mark.parametrize(
    ("full", "given", "family"),
    [
        ("HOLM Anna", "anna", "holm"),
        ("Anna van der HOLM", "anna", "van der holm"),
        ("VAN DER MEER Willem", "willem", "van der meer"),
        ("McDONALD Anna", "anna", "mcdonald"),
        ("PETIT-GAUTHIER Agathe", "agathe", "petit gauthier"),
        ("Dr. Anna HOLM PhD", "anna", "holm"),
        ("AJ Smith", "aj", "smith"),
        ("Anna Holm MBA", "anna", "holm"),
        ("HOLM ANNA", "holm", "ana"),
        ("Anna Maria Holm", "anna maria", "holm"),
    ],
)
def test_a_family_name_in_capitals_is_one(full: str, given: str, family: str) -> None:
    name = parse_person_name(full)
    expected = ("holm", "anna") if full.isupper() else (given, family)
    assert (" ".join(name.given), " ".join(name.family)) == expected


def people(random: Random, number: int) -> list[tuple[str, str]]:
    return [(random.choice(GIVEN), random.choice(FAMILIES)) for _ in range(number)]


def split(names: list[tuple[str, str]]) -> list[Row]:
    return [("crm", f"c{n:03d}", {"name.given": one, "name.family": other}) for n, (one, other) in enumerate(names)]


def family_first(names: list[tuple[str, str]]) -> list[Row]:
    return [("till", f"t{n:03d}", {"name": f"{other} {one}".upper()}) for n, (one, other) in enumerate(names)]


def learned(rows: list[Row]) -> RecordSet:
    return with_what_all_teach(tidy_records(default_layout(RegisterKind.PERSON), records(rows)))


def told(found: RecordSet) -> dict[str, tuple[str, str]]:
    return {
        found.ids[k]: (found.column("name.given").at(k), found.column("name.family").at(k)) for k in range(len(found))
    }


def test_who_writes_the_family_name_first_is_told_by_those_who_do_not() -> None:
    names = people(Random(1), 40)
    found = told(learned([*split(names), *family_first(names)]))
    for number in range(len(names)):
        assert found[f"t{number:03d}"] == found[f"c{number:03d}"]


def test_without_evidence_a_name_is_read_as_it_stands() -> None:
    assert told(learned([("till", "1", {"name": "Xofel Brandic"})])) == {"1": ("xofel", "brandic")}


def test_two_columns_filled_the_wrong_way_round_in_one_record_are_turned() -> None:
    rows = split(people(Random(2), 400))
    rows.append(("crm", "wrong", {"name.given": "Holm", "name.family": "Anna"}))
    assert told(learned(rows))["wrong"] == ("anna", "holm")


def test_family_names_of_two_words_stay_together() -> None:
    double = [("Olga", "Pozal Cifant"), ("Nora", "Pozal Barca"), ("Alba", "Gual Cifant")] * 4
    found = told(learned([*split(double), *family_first([*double, *people(Random(3), 20)])]))
    assert found["t000"] == found["c000"] == ("olga", "pozal cifant")


@given(
    st.randoms(use_true_random=False),
    st.lists(st.tuples(st.sampled_from(GIVEN), st.sampled_from(FAMILIES)), max_size=12),
)
def test_what_is_learned_does_not_hang_on_the_order_of_rows(random: Random, names: list[tuple[str, str]]) -> None:
    rows = [*split(names), *family_first(names[:5])]
    shuffled = rows.copy()
    random.shuffle(shuffled)
    assert told(learned(rows)) == told(learned(shuffled))


def test_what_a_register_taught_turns_a_record_that_comes_alone() -> None:
    names = people(Random(4), 60)
    taker = CensusTaker()
    tidy = tidy_records(default_layout(RegisterKind.PERSON), records([*split(names), *family_first(names)]))
    with_what_all_teach(tidy.with_census(taker))
    alone = tidy_records(default_layout(RegisterKind.PERSON), records([("till", "new", {"name": "LYKKE KARIN"})]))
    assert told(with_what_all_teach(alone.with_census(taker.taken())))["new"] == ("karin", "lykke")


def test_records_of_one_entity_count_once() -> None:
    rows: list[Row] = [
        *[("crm", f"copy{n}", {"name": "Anna Holm"}) for n in range(5)],
        ("crm", "phone1", {"name": "Ole Skov", "phone": "+44 1632 960001"}),
        ("crm", "phone2", {"name": "Ole Skov", "phone": "+44 1632 960001", "email": "ole@skov.example"}),
        ("crm", "mail", {"name": "Ole Skov", "email": "ole@skov.example"}),
        ("crm", "other", {"name": "Ole Skov", "email": "skov@tern.example"}),
        ("crm", "single", {"name": "Elin Bakke"}),
    ]
    found = learned(rows)
    assert found.counted is not None
    counted = {name for name, flag in zip(found.ids, found.counted.tolist(), strict=True) if flag}
    assert len(counted & {f"copy{n}" for n in range(5)}) == 1
    assert len(counted & {"phone1", "phone2", "mail"}) == 1
    assert {"other", "single"} <= counted
    assert found.counts(found.column("name.family")).sum() == np.count_nonzero(found.counted)
