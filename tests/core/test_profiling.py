"""Profiles of columns: counts that add up whatever the values, and odd things found."""

from collections import Counter

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.profiling import ColumnProfiler, is_valid, oddities_of, shape_of
from oddpair.core.profiling.column import ColumnProfile

values = st.lists(
    st.sampled_from(["", "Tern", "Skua Ltd", "n/a", "0000", "YO21 1AA", "x  y", "GrÃ¸n"]) | st.text(max_size=8),
    max_size=60,
)


def profile(*parts: list[str], valid: list[bool] | None = None) -> ColumnProfile:
    profiler = ColumnProfiler()
    for part in parts:
        profiler.add(part, valid)
    return profiler.result()


@given(values)
def test_counts_add_up_and_agree_with_counting_by_hand(column: list[str]) -> None:
    found = profile(column)
    filled = Counter(value for value in column if value)
    assert (found.records, found.filled, found.empty) == (len(column), filled.total(), len(column) - filled.total())
    assert (found.distinct, found.single) == (len(filled), sum(1 for count in filled.values() if count == 1))
    assert [(item.value, item.records) for item in found.frequent] == sorted(
        filled.items(), key=lambda i: (-i[1], i[0])
    )[:12]
    assert sum(item.records for item in found.shapes) <= found.filled
    if filled:
        lengths = [len(value) for value in filled.elements()]
        assert (found.shortest, found.longest) == (min(lengths), max(lengths))
        assert sum(1 for n in lengths if n <= found.usual_length) * 2 >= len(lengths)


@given(values, st.integers(0, 60))
def test_the_profile_does_not_depend_on_the_order_or_the_parts(column: list[str], cut: int) -> None:
    assert profile(column) == profile(list(reversed(column))) == profile(column[:cut], column[cut:])


@pytest.mark.parametrize(
    ("value", "kinds"),
    [
        ("GrÃ¸nnevik", ["misread"]), ("Gr?nnevik", ["lost"]), ("Ærø\u00a0Havn", ["invisible"]), ("a\tb", ["control"]), ("a  b", ["double blanks"]),
        ("Tern &amp; Co", ["markup"]), ("Tern<br>Co", ["markup"]), ("Why? Because & so", []), ("Ærø Łódź Αθήνα", []),
    ],
)  # fmt: skip
def test_odd_letters_are_told_by_kind(value: str, kinds: list[str]) -> None:
    assert oddities_of(value) == kinds


def test_shapes_gap_fillers_and_outliers() -> None:
    assert shape_of("YO21 1AA, Ærø") == "AA99 9AA, Aaa"
    found = profile(["5003"] * 300 + ["n/a"] * 4 + ["N-50"])
    assert [(item.value, item.records) for item in found.gap_fillers] == [("n/a", 4)]
    assert [item.value for item in found.rare_shapes] == ["A-99"]


def test_invalid_values_are_counted_with_examples() -> None:
    found = profile(["1", "", "x", "x"], valid=[True, True, False, False])
    assert (found.invalid, [(i.value, i.records) for i in found.invalid_examples]) == (2, [("x", 2)])


@pytest.mark.parametrize(
    ("field", "tidy", "valid"),
    [
        ("phone", {}, False), ("phone", {"phone": "+44"}, True), ("address.postcode", {"address.postcode": "YO211AA", "address.country": "GB"}, True),
        ("address.postcode", {"address.postcode": "5003", "address.country": "GB"}, False), ("address.postcode", {"address.postcode": "X1"}, True),
        ("tax_number", {"tax_number": "123456785", "address.country": "NO"}, False),
        ("tax_number", {"tax_number": "1", "tax_number.checked": "1", "address.country": "NO"}, True),
    ],
)  # fmt: skip
def test_validity_is_told_by_kind_and_country(field: str, tidy: dict[str, str], valid: bool) -> None:
    assert is_valid(default_layout(RegisterKind.ORGANISATION).field(field), tidy) is valid
