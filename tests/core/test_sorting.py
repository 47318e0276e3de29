import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.sorting import distinct, stable_order

numbers = st.one_of(st.integers(-3, 3), st.integers(-(2**40), 2**40))


@given(st.lists(st.tuples(numbers, numbers), max_size=40))
def test_rows_are_ordered_as_comparing_them_would(rows: list[tuple[int, int]]) -> None:
    columns = np.array(rows, dtype=np.int64).reshape(-1, 2)
    expected = sorted(range(len(rows)), key=lambda place: rows[place])
    assert stable_order(columns[:, 0], columns[:, 1]).tolist() == expected
    assert stable_order(columns[:, 1].astype(np.int64)).tolist() == sorted(range(len(rows)), key=lambda at: rows[at][1])


@given(st.lists(numbers, max_size=40))
def test_distinct_numbers_are_told_once_ascending(values: list[int]) -> None:
    assert distinct(np.array(values, dtype=np.int64)).tolist() == sorted(set(values))
