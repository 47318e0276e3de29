import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.blocking import build_index, keys_that_bring, parse_key
from oddpair.core.evaluation import (
    Stratum,
    cluster_figures,
    curve,
    draw_sample,
    estimate_quality,
    pair_figures,
    recall_at_precision,
    recall_by_key,
    share,
    stage_losses,
    true_pairs,
)

from .strategies import records

labellings = st.lists(st.tuples(st.integers(0, 4), st.integers(0, 4)), min_size=1, max_size=14)


@given(labellings)
def test_figures_equal_counting_by_hand(both: list[tuple[int, int]]) -> None:
    found, truth = [one for one, _ in both], [other for _, other in both]
    everyone = range(len(both))
    pairs = [(a, b) for a in everyone for b in everyone if a < b]
    claimed = [pair for pair in pairs if found[pair[0]] == found[pair[1]]]
    wanted = [pair for pair in pairs if truth[pair[0]] == truth[pair[1]]]
    hits = len(set(claimed) & set(wanted))
    pairwise, cubed = cluster_figures(found, truth)
    assert pairwise.precision == pytest.approx(hits / len(claimed) if claimed else 1)
    assert pairwise.recall == pytest.approx(hits / len(wanted) if wanted else 1)

    def share(a: int, of: list[int]) -> float:
        mine = [b for b in everyone if of[b] == of[a]]
        return sum(found[b] == found[a] and truth[b] == truth[a] for b in mine) / len(mine)

    assert cubed.precision == pytest.approx(sum(share(a, found) for a in everyone) / len(both))
    assert cubed.recall == pytest.approx(sum(share(a, truth) for a in everyone) / len(both))


def test_bands_against_a_truth() -> None:
    figures = pair_figures(["x", "x", "y", "y"], [0, 2, 1], [1, 3, 2], ["same", "unsure", "unsure"])
    assert (figures.same_precision, figures.recall_same, figures.recall_with_unsure) == (1.0, 0.5, 1.0)


@given(st.lists(st.integers(0, 4), max_size=14))
def test_true_pairs_are_all_pairs_of_one_entity(truth: list[int]) -> None:
    left, right = true_pairs(truth)
    expected = [(a, b) for a in range(len(truth)) for b in range(a + 1, len(truth)) if truth[a] == truth[b]]
    assert list(zip(left.tolist(), right.tolist(), strict=True)) == expected


@given(st.lists(st.tuples(*[st.booleans()] * 4), max_size=20))
def test_every_true_pair_is_lost_once_or_found(states: list[tuple[bool, ...]]) -> None:
    together, kept, linked, compared = np.array(states, dtype=np.bool_).reshape(-1, 4).T
    losses = stage_losses(together, kept, linked & kept, compared | kept)
    assert losses.true_pairs == len(states) == (
        losses.together + losses.in_doubt + losses.cut_by_clustering + losses.scored_low + losses.never_compared
    )  # fmt: skip
    assert losses.together == together.sum()


def test_recall_by_key_tells_what_only_one_key_brings() -> None:
    tidy = records([("till", str(n), {"name": name, "phone": phone}) for n, (name, phone) in enumerate(
        [("skua", "1"), ("skua", "1"), ("tern", "2"), ("fulmar", "2")])])  # fmt: skip
    index = build_index(tidy, (parse_key("name"), parse_key("phone")), (), 10)
    brought = keys_that_bring(index, np.array([0, 2, 0], np.int32), np.array([1, 3, 3], np.int32))
    assert brought.tolist() == [[True, False, False], [True, True, False]]
    by_name, by_phone = recall_by_key(("name", "phone"), brought)
    assert (by_name.pairs, by_name.alone, by_phone.pairs, by_phone.alone) == (1, 0, 2, 1)


def test_the_curve_falls_with_the_limit_and_gives_recall_at_a_precision() -> None:
    points = curve(["x", "x", "y", "y"], [0, 2, 0], [1, 3, 2], np.array([9.0, 3.0, 5.0], np.float32))
    assert [(point.limit, round(point.precision, 2), point.recall) for point in points] == [
        (9, 1.0, 0.5),
        (5, 0.5, 0.5),
        (3, 0.67, 1.0),
    ]
    assert recall_at_precision(points, 0.99) == 0.5
    assert recall_at_precision([], 0.5) == 0


@given(st.integers(0, 50), st.integers(0, 50))
def test_the_interval_of_a_share_holds_it_and_narrows_with_more_decisions(hits: int, misses: int) -> None:
    one, more = share(hits, hits + misses), share(10 * hits, 10 * (hits + misses))
    assert 0 <= one.low <= one.value <= one.high <= 1
    assert more.high - more.low <= one.high - one.low + 1e-9


def test_estimates_from_a_sample_hold_the_truth() -> None:
    strata = [Stratum(True, 1000, 50, 50), Stratum(True, 500, 50, 45), Stratum(False, 400, 50, 10)]
    quality = estimate_quality(strata)
    precision, recall = quality.precision, quality.recall
    assert precision.low < 1450 / 1500 < precision.high
    assert recall.low < 1450 / 1530 < recall.high
    assert precision.high - precision.low < 0.15


@given(st.lists(st.floats(-50, 50), min_size=1, max_size=80), st.integers(1, 10), st.integers(8, 40))
def test_a_sample_is_drawn_once_per_pair_from_every_range(scores: list[float], strata: int, size: int) -> None:
    places = draw_sample(np.array(scores), strata, size)
    assert len(set(places.tolist())) == len(places) >= min(strata, len(scores))
    assert (places.tolist(), places.tolist()) == (
        draw_sample(np.array(scores), strata, size).tolist(),
        sorted(places.tolist()),
    )


@given(st.integers(0, 40), st.floats(0.05, 0.95), st.floats(0.05, 0.95))
def test_what_is_expected_counts_as_much_as_one_decision(decided: int, one: float, other: float) -> None:
    """The more is decided, the less it matters what was expected; and who expects more expects more to be found."""
    low, high = sorted((one, other))
    below, above = (Stratum(False, 1000, decided, decided // 2, share).chance for share in (low, high))
    assert below <= above
    assert above - below <= (high - low) / (decided + 1) + 1e-12
    cells = [Stratum(True, 500, 20, 19), Stratum(False, 1000, decided, decided // 2, low)]
    more = [Stratum(True, 500, 20, 19), Stratum(False, 1000, decided, decided // 2, high)]
    assert estimate_quality(more).recall.value <= estimate_quality(cells).recall.value + 0.02
