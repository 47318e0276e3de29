import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.evaluation import cluster_figures, pair_figures

labellings = st.lists(st.tuples(st.integers(0, 4), st.integers(0, 4)), min_size=1, max_size=14)


@given(labellings)
def test_figures_equal_counting_by_hand(both: list[tuple[int, int]]):
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


def test_bands_against_a_truth():
    figures = pair_figures(["x", "x", "y", "y"], [0, 2, 1], [1, 3, 2], ["same", "unsure", "unsure"])
    assert (figures.same_precision, figures.recall_same, figures.recall_with_unsure) == (1.0, 0.5, 1.0)
