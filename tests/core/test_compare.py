import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.compare import COMPARISONS, comparison
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.plan import ComparisonRule
from oddpair.core.scoring.several_values import prepare_rule
from oddpair.core.tidying import tidy_records

from .strategies import any_text, record_sets, records

FIELDS = {
    "organisation_name": "name", "address": "address", "phone": "phone", "email": "email", "identifier": "tax_number",
    "date": "updated_on", "value": "phone", "exact": "name.legal_form", "similar": "address.street",
    "sounds": "name", "part": "phone", "plain": "email", "number": "address.number",
}  # fmt: skip


def level(
    using: str, left: dict[str, str], right: dict[str, str], kind: RegisterKind = RegisterKind.ORGANISATION
) -> str:
    tidy = tidy_records(default_layout(kind), records([("a", "1", left), ("b", "1", right)]))
    found = comparison(using)
    field = (
        {"person_name": "name", "date": "birth_date"}.get(using, FIELDS.get(using, ""))
        if kind is RegisterKind.PERSON
        else FIELDS[using]
    )
    measure = prepare_rule(ComparisonRule(field=field, using=using, label=field), tidy)
    return found.levels[int(measure(np.array([0], np.int32), np.array([1], np.int32)).levels[0])]


def defaults(using: str) -> dict[str, float | int | str]:
    return {name: option.default for name, option in comparison(using).options.items()}


def names(left: str, right: str) -> str:
    return level("organisation_name", {"name": left}, {"name": right})


def people(left: str, right: str) -> str:
    return level("person_name", {"name": left}, {"name": right}, RegisterKind.PERSON)


def test_every_comparison_is_covered_here() -> None:
    assert set(COMPARISONS) == {*FIELDS, "person_name"}


@pytest.mark.parametrize(
    ("left", "right", "expected"),
    [
        ("Skua Rope Works Ltd", "SKUA ROPE WORKS LIMITED", "equal"),
        ("Rope Works Skua", "Skua Rope Works", "equal"),
        ("Skua Rope Works", "Skua Ropewroks", "close"),
        ("Skua Rope Works Depot 2", "Skua Rope Works Depot 3", "contradicting"),
        ("Skua Rope Works Depot 2", "Skua Rope Works", "one site"),
        ("Skua Rope Works", "Tern Boatyard", "different"),
        ("SRW", "Skua Rope Works", "initials"),
        ("Skua", "Skua Rope Works", "contained"),
    ],
)
def test_organisation_names(left: str, right: str, expected: str) -> None:
    assert names(left, right) == expected


@pytest.mark.parametrize(
    ("left", "right", "expected"),
    [
        ("Robert Quayle", "QUAYLE, BOB", "short form"),
        ("R. Quayle", "Robert Quayle", "initial"),
        ("Robert Quayle", "Robrt Quayle", "close"),
        ("Quayle Robert", "Robert Quayle", "swapped"),
        ("Robert Quayle Sr", "Robert Quayle Jr", "contradicting"),
        ("Robert Quayle Sr", "Robert Quayle", "one suffix"),
        ("Quayle Robbert", "Robert Quayle", "swapped"),
        ("Robert J. Quayle", "Quayle Bob", "swapped"),
        ("Quayle Robert J.", "Robert Quayle", "equal"),
        ("Robert Quayle", "Margaret Quayle", "given name differs"),
        ("Robert Quayle", "Rbret Quayle", "given name alike"),
        ("B. Skov", "Gitte Skov", "given name alike"),
        ("Johanna Postma", "Hanna Postma", "short form"),
        ("Wol Quayle", "Wolfgang Quayle", "short form"),
        ("Maria Anna Holm", "HOLM MARIA, ANNA", "swapped"),
        ("Anna Skovgaard Holm", "Skovgaard Holm, Anna", "swapped"),
        ("山田 太郎", "Taro Yamada", "missing"),
        ("山田 太郎", "山本 太郎", "family name changed"),
        ("Robert Quayle", "Robert Visser", "family name changed"),
    ],
)
def test_person_names(left: str, right: str, expected: str) -> None:
    assert people(left, right) == expected


@pytest.mark.parametrize(
    ("given", "other", "times", "expected"),
    [
        ("Anna", "Anne", (9, 9), "given name alike"),
        ("Maria", "Mary", (9, 0), "short form"),
        ("Frank", "Franka", (9, 9), "given name alike"),
        ("Robert", "Bob", (9, 9), "short form"),
        # A usual slip of a name is written often where the name is, and stays a slip.
        ("Thomas", "Thoams", (1200, 5), "close"),
        ("Thomas", "Thoams", (9, 5), "given name alike"),
    ],
)
def test_names_in_use_beside_each_other_may_be_two_people_of_a_household(
    given: str, other: str, times: tuple[int, int], expected: str
) -> None:
    rows = [("ledger", f"r{name}{number}", {"name": f"{name} Family{number}"})
            for name, count in zip((given, other), times, strict=True) for number in range(count)]  # fmt: skip
    rows += [("ledger", "one", {"name": f"{given} Quayle"}), ("ledger", "two", {"name": f"{other} Quayle"})]
    tidy = tidy_records(default_layout(RegisterKind.PERSON), records(rows))
    measure = comparison("person_name").prepare(tidy, "name", defaults("person_name"))
    left, right = (np.array([tidy.ids.index(record)], dtype=np.int32) for record in ("one", "two"))
    assert comparison("person_name").levels[measure(left, right).levels[0]] == expected


@pytest.mark.parametrize(
    ("left", "right", "expected"),
    [
        ("14 Harbour St, Whitby, YO21 1AA", "14 Harbour Street, Whitby, YO21 1AA", "equal"),
        ("14 Harbour St, Whitby, YO21 1AA", "15 Harbour Street, Whitby, YO21 1AA", "other number"),
        ("14 Harbour St, Whitby", "14 Harbour St, Oban", "different"),
        ("14 Harbour St, Whitby", "Quay Road 3, Whitby", "other street"),
        ("Harbour St, Whitby", "14 Harbour St, Whitby", "same street"),
    ],
)
def test_addresses(left: str, right: str, expected: str) -> None:
    assert level("address", {"address.line": left}, {"address.line": right}) == expected


def test_two_valid_tax_numbers_contradict_but_a_slip_does_not() -> None:
    assert level("identifier", {"tax_number": "GB980780684"}, {"tax_number": "GB 340804329"}) == "contradicting"
    assert level("identifier", {"tax_number": "GB980780684"}, {"tax_number": "GB980780685"}) == "close"


def test_swapped_day_and_month_is_close() -> None:
    assert level("date", {"birth_date": "1970-04-03"}, {"birth_date": "1970-03-04"}, RegisterKind.PERSON) == "close"


@given(record_sets(), st.sampled_from(sorted(FIELDS)))
def test_levels_are_symmetric_and_missing_is_never_different(
    rows: list[tuple[str, str, dict[str, str]]], using: str
) -> None:
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), records(rows))
    measure = comparison(using).prepare(tidy, FIELDS[using], defaults(using))
    left, right = (side.astype(np.int32).ravel() for side in np.meshgrid(np.arange(len(tidy)), np.arange(len(tidy))))
    (forward, shared), (back, shared_back) = measure(left, right), measure(right, left)
    assert (forward == back).all()
    assert np.allclose(shared, shared_back, atol=1e-4)
    assert (shared >= 0).all()
    assert (forward >= 0).all()
    assert (forward < len(comparison(using).levels)).all()
    filled = tidy.column(FIELDS[using]).codes >= 0
    if using not in ("address",):
        assert ((forward == 0) == ~(filled[left] & filled[right])).all()


@given(any_text, any_text)
def test_names_of_any_text_compare_and_equal_ones_agree(left: str, right: str) -> None:
    for ask in (names, people):
        assert ask(left, right) == ask(right, left)
        assert ask(left, left) in ("equal", "missing", "initial")


def test_where_a_junior_lives_the_bare_name_does_not_tell_the_generation() -> None:
    home = {"address.line": "7 Quay Road", "address.city": "Oban", "address.postcode": "PA34 7AW"}
    rows = [
        ("a", "1", {"name": "James Marsden", **home}),
        ("a", "2", {"name": "James Marsden", **home}),
        ("a", "3", {"name": "James Marsden Jr", **home}),
        ("a", "4", {"name": "James Marsden", "address.city": "Hull", "address.postcode": "HU1 1AA"}),
        ("a", "5", {"name": "James Marsden Jr", **home}),
        ("a", "6", {"name": "James Marsden"}),
        ("a", "7", {"name": "J. Marsden", **home}),
        ("a", "8", {"name": "Edith Marsden", **home}),
    ]
    tidy = tidy_records(default_layout(RegisterKind.PERSON), records(rows))
    found = comparison("person_name")
    measure = found.prepare(tidy, "name", defaults("person_name"))

    def between(one: int, other: int) -> str:
        return found.levels[int(measure(np.array([one], np.int32), np.array([other], np.int32)).levels[0])]

    assert between(0, 1) == between(1, 0) == "one suffix"
    assert between(2, 4) == "equal"
    assert between(0, 2) == "one suffix"
    assert between(0, 3) == between(3, 5) == "equal"
    assert between(0, 6) == between(2, 6) == "one suffix"
    assert between(3, 6) == "initial"
    assert between(0, 7) == "given name differs"
