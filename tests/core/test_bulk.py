"""Work done for many at once gives what work done for one gives."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.errors import InputError
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.records import RecordSetBuilder, column_from_codes, further
from oddpair.core.survivorship import Contributor, golden_rows, golden_values, rules_from
from oddpair.core.text.byte_strings import bits_apart, letter_signs, pack
from oddpair.core.text.edit_distance import osa_between, osa_distance
from oddpair.core.tidying import tidy_records

from .strategies import ascii_words, chains, record_sets, records
from .test_text import as_bytes

LAYOUT = default_layout(RegisterKind.ORGANISATION)
Rows = list[tuple[str, str, dict[str, str]]]


@given(record_sets(), st.integers(1, 5))
def test_records_added_by_columns_equal_records_added_one_by_one(rows: Rows, at_once: int) -> None:
    builder = RecordSetBuilder()
    names = sorted({name for _, _, fields in rows for name in fields})
    for source in ("webshop", "till"):
        mine = [row for row in rows if row[0] == source]
        for start in range(0, len(mine), at_once):
            part = mine[start : start + at_once]
            columns = {name: [fields.get(name, "") for _, _, fields in part] for name in names}
            builder.add_many(source, [key for _, key, _ in part], columns)
    one, other = builder.build(), records(rows)
    assert (one.ids, one.sources) == (other.ids, other.sources)
    assert [one.row(place) for place in range(len(one))] == [other.row(place) for place in range(len(other))]


@given(st.lists(st.sampled_from(["", "a", "b", "c"]), max_size=8), st.lists(st.integers(-1, 7), max_size=12))
def test_a_column_from_codes_joins_equal_values_and_numbers_them_by_their_first_record(
    values: list[str], codes: list[int]
) -> None:
    kept = [code for code in codes if code < len(values)]
    column = column_from_codes(values, np.array(kept, dtype=np.int32))
    texts = [values[code] if code >= 0 else "" for code in kept]
    assert [column.at(place) for place in range(len(column))] == texts
    assert list(column.values) == list(dict.fromkeys(text for text in texts if text))


def test_an_id_twice_is_refused_however_the_records_came() -> None:
    builder = RecordSetBuilder()
    builder.add_many("till", ["7", "8"], {"name": ["A", "B"]})
    builder.add("till", "7", {"name": "C"})
    with pytest.raises(InputError, match="the id '7' occurs twice"):
        builder.build()


def many_rows() -> Rows:
    return [
        ("till", f"{n:04d}", {"name": f"Tern {n % 90} Ropes Ltd t/a Skua {n % 7}", "phone": f"01632 96{n % 80:04d} / 01632 961{n % 9:03d}",
                              "address.line": f"{n % 40} Harbour St, Whitby YO21 {n % 9}AA", "email": f"info@t{n % 60}.example"})
        for n in range(300)
    ]  # fmt: skip


def test_tidying_in_processes_equals_tidying_here() -> None:
    here = tidy_records(default_layout(RegisterKind.ORGANISATION), records(many_rows()))
    seen: list[tuple[int, int]] = []
    spread = tidy_records(
        default_layout(RegisterKind.ORGANISATION),
        records(many_rows()),
        lambda stage, done, total: seen.append((done, total)),
        chunk=37,
        worth_processes=1,
        count=2,
    )
    assert [spread.row(place) for place in range(300)] == [here.row(place) for place in range(300)]
    assert seen == sorted(seen)
    assert seen[-1][0] == seen[-1][1]
    assert spread.row(0)[further("phone", 1)].startswith("+44") or spread.row(0)[further("phone", 1)].startswith("0")


values = st.fixed_dictionaries(
    {},
    optional={
        "name": st.sampled_from(["Tern Ltd", "TERN LTD", "Tern", "Skua"]), "phone": st.sampled_from(["1", "2"]),
        "address.line": st.sampled_from(["1 Quay Road", "2 Quay Road"]), "address.city": st.sampled_from(["Whitby", "Oban"]),
    },
)  # fmt: skip
candidates = st.lists(
    st.tuples(st.sampled_from(["till", "webshop"]), st.integers(1, 3), st.sampled_from(["", "2024-01-01", "2025-01-01"]), values),
    min_size=1, max_size=5,
)  # fmt: skip


@given(st.lists(candidates, max_size=4), chains, chains)
def test_golden_rows_hold_the_values_that_golden_values_explain(
    clusters: list[list[tuple]], chain: list, other: list
) -> None:
    rules = rules_from(LAYOUT, {"name": chain, "address": other, "phone": [{"by": "with", "field": "address"}, *chain]})
    made = [
        [
            Contributor(str(place), source, rank, fresh, held, held, place)
            for place, (source, rank, fresh, held) in enumerate(cluster)
        ]
        for cluster in clusters
    ]
    expected = []
    for cluster in made:
        row: dict[str, str] = {}
        for survivor in golden_values(LAYOUT, rules, cluster):
            row.update(survivor.values)
        expected.append(row)
    assert list(golden_rows(LAYOUT, rules, made)) == expected


@given(ascii_words, ascii_words)
def test_the_set_of_letters_never_rules_out_what_is_near(left: str, right: str) -> None:
    strings = pack([left, right])
    signs = letter_signs(strings)
    distance = osa_distance(as_bytes(left), as_bytes(right))
    apart = bin(int(signs[0]) ^ int(signs[1])).count("1")
    assert bits_apart(signs[0], signs[1]) == apart <= 2 * distance
    offsets = strings.offsets.tolist()
    assert osa_between(strings.buffer, offsets[0], len(left), offsets[1], len(right)) == distance
