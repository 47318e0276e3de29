from itertools import permutations
from random import Random

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.contest.pairing import best_pairing, cost_of_leaving_out

#: Worths of the pairs of up to five records on each side; those not drawn are no candidates.
tables = st.dictionaries(
    st.tuples(st.integers(0, 4), st.integers(5, 9)), st.integers(1, 40).map(lambda worth: worth / 2), max_size=14
)


def best_by_trial(table: dict[tuple[int, int], float]) -> float:
    """Try every way of pairing five with five."""
    return max(
        sum(table.get((one, other), 0.0) for one, other in enumerate(order)) for order in permutations(range(5, 10))
    )


def arrays(table: dict[tuple[int, int], float]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    pairs = np.array(sorted(table), dtype=np.int32).reshape(-1, 2)
    return pairs[:, 0], pairs[:, 1], np.array([table[pair] for pair in sorted(table)], dtype=np.float64)


@given(tables)
def test_the_pairing_is_the_best_that_trial_finds_and_holds_every_record_once(table: dict) -> None:
    left, right, worth = arrays(table)
    chosen = best_pairing(left, right, worth)
    assert len(set(left[chosen])) == chosen.sum() == len(set(right[chosen]))
    assert worth[chosen].sum() == best_by_trial(table)


@given(tables)
def test_leaving_a_pair_out_costs_what_trial_finds(table: dict) -> None:
    left, right, worth = arrays(table)
    chosen = best_pairing(left, right, worth)
    for enough in (np.inf, 3.0):
        cost = cost_of_leaving_out(left, right, worth, chosen, enough)
        for pair in np.flatnonzero(chosen).tolist():
            without = {key: value for key, value in table.items() if key != (left[pair], right[pair])}
            true = best_by_trial(table) - best_by_trial(without)
            # Told exactly as long as it is close; never more than it is.
            assert cost[pair] == true if true < enough else cost[pair] >= enough
        assert np.isinf(cost[~chosen]).all()


@given(tables, st.randoms(use_true_random=False))
def test_the_worth_does_not_depend_on_the_order_of_pairs_or_sides(table: dict, random: Random) -> None:
    left, right, worth = arrays(table)
    order = list(range(len(left)))
    random.shuffle(order)
    turned = best_pairing(right[order], left[order], worth[order])
    assert worth[order][turned].sum() == worth[best_pairing(left, right, worth)].sum()


def test_large_groups_tell_at_least_what_it_costs() -> None:
    count = 50
    left = np.repeat(np.arange(count), 3).astype(np.int32)
    right = (count + (left + np.tile([0, 1, 2], count)) % count).astype(np.int32)
    worth = np.tile([20.0, 9.0, 4.0], count)
    chosen = best_pairing(left, right, worth)
    assert worth[chosen].sum() == 20.0 * count
    assert (cost_of_leaving_out(left, right, worth, chosen, 100.0)[chosen] == 2.0).all()
