"""Sides of a pass, and what a scope makes of them."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.errors import PlanInvalid
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.plan import Scope
from oddpair.core.scope import Known, sides_of_scope
from oddpair.core.sides import Sides
from oddpair.core.tidying import tidy_records

from .strategies import record_sets, records

flags = st.lists(st.booleans(), min_size=5, max_size=5).map(lambda values: np.array(values, dtype=np.bool_))
sides = st.builds(Sides, flags, flags)
numbers = st.lists(st.integers(0, 4), min_size=1, max_size=12).map(lambda values: np.array(values, dtype=np.int32))


@given(sides, numbers)
def test_who_meets_does_not_hang_on_the_order_within_a_pair(one: Sides, left: np.ndarray) -> None:
    right = left[::-1].copy()
    assert one.meet(left, right).tolist() == one.meet(right, left).tolist()
    assert not (one.meet(left, right) & ~(one.taking_part[left] & one.taking_part[right])).any()


@given(sides, sides, numbers)
def test_both_sides_let_nobody_meet_that_one_of_them_forbids_side_by_side(
    one: Sides, other: Sides, left: np.ndarray
) -> None:
    right = left[::-1].copy()
    both = one.both(other)
    assert not (both.meet(left, right) & ~one.meet(left, right)).any()
    assert not (both.meet(left, right) & ~other.meet(left, right)).any()
    everything = Sides.of_all(5)
    assert everything.are_all
    assert everything.both(one).meet(left, right).tolist() == one.meet(left, right).tolist()


groups = st.lists(st.integers(-1, 3), min_size=1, max_size=9)


@given(groups)
def test_golden_records_are_the_clusters_to_begin_with(golden: list[int]) -> None:
    known = Known(np.array(golden, dtype=np.int64), np.zeros(len(golden), dtype="datetime64[us]"))
    labels = known.labels().tolist()
    # Counted in the order of first records, those without a golden record alone.
    assert list(dict.fromkeys(labels)) == list(range(len(set(labels))))
    for a in range(len(golden)):
        for b in range(len(golden)):
            together = a == b or (golden[a] >= 0 and golden[a] == golden[b])
            assert (labels[a] == labels[b]) == together


@given(record_sets(most=8), st.sampled_from(["Whitby", "BERGEN", "nowhere"]))
def test_a_filter_lets_through_who_holds_the_value_in_any_capitals(rows: list, city: str) -> None:
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), records(rows))
    left = sides_of_scope(tidy, Scope(one_side={"address.city": (city,)}), None)
    for place in range(len(tidy)):
        assert left.one[place] == (tidy.row(place).get("address.city", "-").casefold() == city.casefold())
    assert left.other.all()


def test_what_is_not_known_is_refused_and_moments_are_meant_in_universal_time() -> None:
    tidy = tidy_records(
        default_layout(RegisterKind.ORGANISATION), records([("till", "a", {"name": "x"}), ("till", "b", {"name": "y"})])
    )
    for scope in ({"incoming": "golden records"}, {"since": "2026-01-01T00:00:00Z"}):
        with pytest.raises(PlanInvalid, match="files alone"):
            sides_of_scope(tidy, Scope.model_validate(scope), None)
    known = Known(
        np.array([-1, 7], dtype=np.int64), np.array(["2026-03-01T11:30", "2026-03-01T12:30"], dtype="datetime64[us]")
    )
    assert known.in_golden.tolist() == [False, True]
    for text in ("2026-03-01T12:00:00", "2026-03-01T12:00:00Z", "2026-03-01T14:00:00+02:00"):
        assert sides_of_scope(tidy, Scope.model_validate({"since": text}), known).one.tolist() == [False, True]
    assert not Scope().leaves_records_out
    assert all(Scope.model_validate(part).leaves_records_out for part in (
        {"incoming": "golden records"}, {"since": "2026-01-01"}, {"one_side": {"name": ["x"]}}, {"other_side": {"name": ["x"]}},
    ))  # fmt: skip
