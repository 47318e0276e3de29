import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.joint_codes import distinct_rows
from oddpair.core.records import MISSING, encode
from oddpair.core.tidying import tidy_fields, tidy_records, tidy_row

from .strategies import any_text, record_sets, records

values = st.lists(st.one_of(st.none(), st.sampled_from(["", "a", "b", "ü", "a b"])), max_size=30)


@given(values)
def test_encoding_gives_every_value_back_and_numbers_them_in_order(given_values: list[str | None]) -> None:
    column = encode(given_values)
    assert [column.at(place) for place in range(len(column))] == [value or "" for value in given_values]
    assert list(column.values) == list(dict.fromkeys(value for value in given_values if value))
    assert (column.codes[column.codes >= 0] < len(column.values)).all()


@given(values)
def test_counts_are_those_of_filled_values(given_values: list[str | None]) -> None:
    column = encode(given_values)
    filled = [value for value in given_values if value]
    assert column.counts().tolist() == [filled.count(value) for value in column.values]


@given(record_sets())
def test_a_record_set_gives_every_row_back_in_canonical_order(rows: list[tuple[str, str, dict[str, str]]]) -> None:
    built = records(rows)
    expected = sorted(rows, key=lambda row: (row[0], row[1]))
    assert [(built.source_of(place), built.ids[place]) for place in range(len(built))] == [
        (source, key) for source, key, _ in expected
    ]
    for place, (_, _, fields) in enumerate(expected):
        assert built.row(place) == {name: value for name, value in fields.items() if value}


@given(st.lists(st.lists(st.integers(-1, 3), min_size=5, max_size=5), min_size=1, max_size=70))
def test_combinations_of_codes_are_numbered_without_gaps(rows: list[list[int]]) -> None:
    wide = np.array(rows, dtype=np.int32) * 40_000_000
    columns = list(np.where(wide < 0, -1, wide).T)
    first, which = distinct_rows(columns)
    distinct = {tuple(row) for row in np.stack(columns, axis=1).tolist()}
    assert sorted(set(which.tolist())) == list(range(len(distinct)))
    assert len({tuple(row) for row in np.stack(columns, axis=1)[first].tolist()}) == len(distinct)
    for row, number in zip(np.stack(columns, axis=1).tolist(), which.tolist(), strict=True):
        assert row == [column[first[number]] for column in columns]


def test_a_field_that_no_record_fills_is_a_column_of_missing_values() -> None:
    column = records([("till", "1", {"name": "Tern"})]).column("phone")
    assert column.values == ()
    assert column.codes.tolist() == [MISSING]


@given(record_sets())
def test_tidying_in_bulk_gives_what_tidying_one_by_one_gives(rows: list[tuple[str, str, dict[str, str]]]) -> None:
    built = records(rows)
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), built)
    for place in range(len(built)):
        assert tidy.row(place) == tidy_row(default_layout(RegisterKind.ORGANISATION), built.row(place))


@given(
    st.lists(
        st.fixed_dictionaries(
            {}, optional={field.name: any_text for field in default_layout(RegisterKind.PERSON).fields}
        ),
        max_size=5,
    )
)
def test_tidying_people_of_any_text_in_bulk(rows: list[dict[str, str]]) -> None:
    built = records([("till", str(place), row) for place, row in enumerate(rows)])
    tidy = tidy_records(default_layout(RegisterKind.PERSON), built)
    assert set(tidy.columns) <= set(tidy_fields(default_layout(RegisterKind.PERSON)))
    for place in range(len(built)):
        assert tidy.row(place) == tidy_row(default_layout(RegisterKind.PERSON), built.row(place))


def test_sources_are_numbered_in_sorted_order() -> None:
    built = records([("webshop", "1", {"name": "a"}), ("ledger", "1", {"name": "b"})])
    assert built.sources == ("ledger", "webshop")
    assert np.array_equal(built.source_codes, [0, 1])
