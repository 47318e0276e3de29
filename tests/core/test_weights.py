"""Evidence as arrays: against adding it up by hand."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.blocking import parse_key
from oddpair.core.blocking.key_values import key_values
from oddpair.core.compare import comparison
from oddpair.core.compare.holders import holders_by_names
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.plan import MatchPlan, default_plan
from oddpair.core.records import RecordSet, encode
from oddpair.core.scoring.weights import (
    WeightTable,
    expected_shares,
    measured_different,
    shares_as_document,
    starting_bits,
    taken_by_relatives,
    weigh,
    weight_table,
)
from oddpair.core.text.hashes import fields_at
from oddpair.core.tidying import tidy_records

from .strategies import records

PLANS = [default_plan(kind) for kind in RegisterKind]
COMPARISONS, LEVELS = 4, 3


def slow_evidence(table: WeightTable, levels: list[int], shared: list[float]) -> list[float]:
    bits = []
    for row, (level, amount) in enumerate(zip(levels, shared, strict=True)):
        value = float(table.base[row, level] + table.strength[row, level] * amount)
        bits.append(max(value, 0.0) if level == 1 and table.strength[row, level] > 0 else value)
    for group, (share, most) in enumerate(zip(table.group_shares.tolist(), table.group_most.tolist(), strict=True)):
        mine = [row for row in range(len(bits)) if table.groups[row, levels[row]] == group and bits[row] > 0]
        if mine:
            full = sum(bits[row] for row in mine)
            counted = min(max(bits[row] for row in mine) * (1 - share) + share * full, most)
            for row in mine:
                bits[row] *= counted / full
    return bits


numbers = st.floats(-12, 12, width=32)


@given(
    st.lists(numbers, min_size=COMPARISONS * LEVELS, max_size=COMPARISONS * LEVELS),
    st.lists(st.sampled_from([0.0, 1.0]), min_size=COMPARISONS * LEVELS, max_size=COMPARISONS * LEVELS),
    st.lists(st.integers(0, LEVELS - 1), min_size=COMPARISONS, max_size=COMPARISONS),
    st.lists(st.floats(0, 25, width=32), min_size=COMPARISONS, max_size=COMPARISONS),
    st.lists(st.integers(-1, 1), min_size=COMPARISONS * LEVELS, max_size=COMPARISONS * LEVELS),
    st.floats(0, 1, width=32),
    st.floats(0, 30, width=32),
)
def test_evidence_with_correlated_groups_equals_adding_up_by_hand(
    base: list[float],
    strength: list[float],
    levels: list[int],
    shared: list[float],
    groups: list[int],
    share: float,
    most: float,
) -> None:
    table = WeightTable(
        np.array(base, np.float32).reshape(COMPARISONS, LEVELS), np.array(strength, np.float32).reshape(COMPARISONS, LEVELS),
        np.full((COMPARISONS, LEVELS), np.nan, np.float32),
        np.array(groups, np.int8).reshape(COMPARISONS, LEVELS), np.array([share, 1.0], np.float32), np.array([most, np.inf], np.float32),
    )  # fmt: skip
    column = np.array(levels, np.int8).reshape(-1, 1), np.array(shared, np.float32).reshape(-1, 1)
    weighed = weigh(table, *column, np.zeros(1, np.float32))
    found = weighed.evidence[:, 0]
    # Where relatives agree by chance only, all is as much against them.
    assert weighed.against_relatives[0] == pytest.approx(found.sum(), abs=1e-3)
    assert found.tolist() == pytest.approx(slow_evidence(table, levels, shared), abs=1e-3)
    together = sum(found[row] for row in range(COMPARISONS) if table.groups[row, levels[row]] == 0 and found[row] > 0)
    assert together <= most + 1e-3


@pytest.mark.parametrize("plan", PLANS, ids=[plan.title for plan in PLANS])
def test_expected_shares_add_up_and_measuring_moves_only_what_may_be_measured(plan: MatchPlan) -> None:
    for rule in plan.comparisons:
        expected = expected_shares(rule)
        known = comparison(rule.using).known
        for part in set(known):
            of_part = [False, *(own == part for own in known)]
            assert expected.same[of_part].sum() == pytest.approx(1)
        counts = np.full(len(expected.same), 10_000)
        measured = measured_different(rule, expected, counts)
        assert (measured.different >= 0).all()
        assert (measured.different <= 1).all()
        assert np.array_equal(measured.same, expected.same)
    name = plan.comparisons[0]
    nothing = np.zeros(len(expected_shares(name).same), dtype=np.int64)
    assert np.allclose(
        measured_different(name, expected_shares(name), nothing).different, expected_shares(name).different
    )


@pytest.mark.parametrize("plan", PLANS, ids=[plan.title for plan in PLANS])
def test_equal_speaks_for_a_pair_and_different_against_it_before_any_data(plan: MatchPlan) -> None:
    shares = [expected_shares(rule) for rule in plan.comparisons]
    table = weight_table(plan, shares)
    for row, rule in enumerate(plan.comparisons):
        names = list(shares_as_document(plan, shares)[rule.name])
        assert table.base[row, 1] + 12 * table.strength[row, 1] > 0
        assert table.base[row, 1 + names.index("different")] < 0
    assert (table.groups >= 0).all(axis=1).sum() == sum(len(group.fields) for group in plan.correlated)


@given(st.integers(1, 10**7), st.floats(0.001, 100))
def test_a_larger_file_starts_lower_and_more_duplicates_higher(count: int, matches: float) -> None:
    assert starting_bits(count + 1, matches) <= starting_bits(count, matches) < starting_bits(count, 2 * matches)


def test_a_value_is_as_common_as_the_names_that_share_it() -> None:
    spellings = ["Skua Ropes", "SKUA ROPES LTD", "Skua Ropes Limited", "The Skua Ropes"]
    rows = [("till", f"a{n}", {"name": name, "phone": "01632 960001"}) for n, name in enumerate(spellings)]
    firms = ["Tern", "Eider", "Fulmar", "Plover", "Petrel"]
    rows += [("till", f"b{n}", {"name": f"{name} Boats", "phone": "01632 960002"}) for n, name in enumerate(firms)]
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), records(rows))
    holders = holders_by_names(tidy, "phone", tidy.column("phone.end").codes, fields_at(tidy, "phone.end"))
    assert holders[:4].tolist() == [0] * 4, "one firm under four spellings"
    assert holders[4:].tolist() == [4] * 5, "a switchboard of five firms"


def test_without_names_a_value_is_as_common_as_its_records_beyond_one_entity() -> None:
    bare = RecordSet(("a",), np.zeros(6, np.int32), tuple("123456"), {"phone": encode(["1"] * 5 + ["2"])})
    assert holders_by_names(bare, "phone", bare.column("phone").codes, fields_at(bare, "phone")).tolist() == [
        2,
        2,
        2,
        2,
        2,
        0,
    ]


def test_every_value_of_a_field_with_several_is_a_key() -> None:
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), records([
        ("till", "1", {"name": "Tern", "phone": "01632 960001 / 01632 960002"}), ("till", "2", {"name": "Skua", "phone": "01632 960002"}),
    ]))  # fmt: skip
    owners, values, spell = key_values(tidy, parse_key("phone.end"))
    held = {(owner, spell(value)) for owner, value in zip(owners.tolist(), values.tolist(), strict=True)}
    assert held == {(0, "32960001"), (0, "32960002"), (1, "32960002")}


odds = st.floats(-60, 60, width=32)


@given(odds, odds)
def test_odds_against_unrelated_and_related_ones_together_are_their_harmonic_sum(
    by_chance: float, by_relation: float
) -> None:
    one, other = np.array([by_chance], np.float32), np.array([by_relation], np.float32)
    taken = taken_by_relatives(one, other)
    assert taken[0] <= 0
    assert by_chance + taken[0] == pytest.approx(-np.logaddexp2(-by_chance, -by_relation), abs=1e-3)
