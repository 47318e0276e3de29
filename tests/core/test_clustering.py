from random import Random

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.clustering import ClusterOutcome, Decisions, cluster_records, holding_links
from oddpair.core.clustering.decided import apply_decisions
from oddpair.core.golden_keys import plan_changes
from oddpair.core.scoring import ScoredPairs

SIZE = 8
scores = st.lists(st.integers(-12, 20), min_size=SIZE * (SIZE - 1) // 2, max_size=SIZE * (SIZE - 1) // 2)
pair_lists = st.lists(
    st.tuples(st.integers(0, SIZE - 1), st.integers(0, SIZE - 1)).filter(lambda pair: pair[0] < pair[1]), max_size=4
)


def cluster(
    bits: list[int], decisions: Decisions | None = None, own: bool = True, vetoed: frozenset = frozenset()
) -> ClusterOutcome:
    """Cluster SIZE records whose pairwise evidence is given; half of them come from each of two sources."""
    matrix = np.zeros((SIZE, SIZE), dtype=np.float32)
    rows, columns = np.triu_indices(SIZE, 1)
    matrix[rows, columns] = matrix[columns, rows] = bits

    def score(left: np.ndarray, right: np.ndarray) -> ScoredPairs:
        veto = np.array(
            [(min(a, b), max(a, b)) in vetoed for a, b in zip(left.tolist(), right.tolist(), strict=True)],
            dtype=np.bool_,
        )
        undecided = np.full(len(left), -1, np.int8)
        return ScoredPairs(matrix[left, right], np.zeros((1, len(left)), np.int8), veto, undecided)

    same = [
        (a, b)
        for a, b in zip(rows.tolist(), columns.tolist(), strict=True)
        if matrix[a, b] >= 10 and (a, b) not in vetoed
    ]
    pairs = np.array(same, dtype=np.int32).reshape(-1, 2)
    return cluster_records(
        pairs[:, 0], pairs[:, 1], matrix[pairs[:, 0], pairs[:, 1]], sources=np.array([0, 1] * (SIZE // 2), dtype=np.int32), own_duplicates=np.array([own, own]),
        decisions=decisions or Decisions.none(), score=score, least_mean=5.0, least_link=10.0,
    )  # fmt: skip


def decisions(same: list, different: list) -> Decisions:
    return Decisions(*(np.array(sorted(set(pairs)), dtype=np.int32).reshape(-1, 2) for pairs in (same, different)))


@given(scores)
def test_a_cluster_hangs_together_by_links_that_are_good_enough(bits: list[int]) -> None:
    labels = cluster(bits).labels
    rows, columns = np.triu_indices(SIZE, 1)
    strongest = dict.fromkeys(labels.tolist(), -99)
    for a, b, value in zip(rows, columns, bits, strict=True):
        if labels[a] == labels[b]:
            strongest[int(labels[a])] = max(strongest[int(labels[a])], value)
    sizes = np.bincount(labels)
    assert all(sizes[label] == 1 or best >= 10 for label, best in strongest.items())


@given(scores, pair_lists, pair_lists)
def test_decisions_are_absolute(bits: list[int], same: list, different: list) -> None:
    outcome = cluster(bits, decisions(same, different))
    for a, b in different:
        assert outcome.labels[a] != outcome.labels[b] or (a, b) in same or _joined_by(same, a, b)
    for a, b in same:
        assert outcome.labels[a] == outcome.labels[b] or (a, b) in outcome.ignored


def _joined_by(same: list, a: int, b: int) -> bool:
    return any(a in pair for pair in same) and any(b in pair for pair in same)


@given(scores)
def test_vetoes_and_promises_are_kept(bits: list[int]) -> None:
    vetoed = frozenset({(0, 1), (2, 5)})
    labels = cluster(bits, vetoed=vetoed).labels
    assert all(labels[a] != labels[b] for a, b in vetoed)
    promised = cluster(bits, own=False).labels
    for start in (0, 1):
        mine = promised[start::2].tolist()
        assert len(set(mine)) == len(mine)


def test_a_chain_of_weak_links_does_not_swallow_a_neighbourhood() -> None:
    bits = [-9] * (SIZE * (SIZE - 1) // 2)
    rows, columns = np.triu_indices(SIZE, 1)
    for place, (a, b) in enumerate(zip(rows, columns, strict=True)):
        if b == a + 1:
            bits[place] = 11
    assert np.bincount(cluster(bits).labels).max() == 2


partitions = st.lists(st.integers(0, 4), min_size=1, max_size=10)


@given(partitions, st.lists(st.one_of(st.none(), st.integers(1, 5)), min_size=10, max_size=10))
def test_planned_changes_make_golden_records_equal_to_clusters_and_reuse_no_key(
    labels: list[int], golden: list[int | None]
) -> None:
    cluster_of = {
        record: min(r for r, label in enumerate(labels) if label == labels[record]) for record in range(len(labels))
    }
    golden_of = {record: number for record, number in enumerate(golden[: len(labels)]) if number is not None}
    state = dict(golden_of)
    fresh: set[int] = set()
    for change in plan_changes(cluster_of, golden_of):
        assert {r for group in change.before.values() for r in group} <= {
            r for group in change.after.values() for r in group
        }
        for number, records in change.after.items():
            assert number < 0 or number in golden_of.values()
            assert number not in fresh
            fresh |= {number} if number < 0 else set()
            state.update(dict.fromkeys(records, number))
        assert set(change.retired) == set(change.before) - set(change.after)
        assert set(change.retired.values()) <= set(change.after)
    groups = {frozenset(r for r in state if state[r] == number) for number in state.values()}
    assert groups == {frozenset(r for r in cluster_of if cluster_of[r] == c) for c in cluster_of.values()}


@given(partitions, pair_lists, pair_lists)
def test_decisions_put_on_top_of_a_run(labels: list[int], same: list, different: list) -> None:
    clusters = {
        record: min(r for r, label in enumerate(labels) if label == labels[record]) for record in range(len(labels))
    }
    joined, ignored = apply_decisions(clusters, same, different)
    for a, b in same:
        if a in clusters and b in clusters:
            assert joined[a] == joined[b] or (a, b) in ignored
    for a, b in different:
        if a in clusters and b in clusters and clusters[a] != clusters[b]:
            assert joined[a] != joined[b]
    assert all(name == min(r for r in joined if joined[r] == name) for name in joined.values())


weighted = st.lists(
    st.tuples(st.integers(0, 7), st.integers(0, 7), st.floats(-5, 30)).filter(lambda link: link[0] < link[1]), max_size=25,
    unique_by=lambda link: link[:2],
)  # fmt: skip


def connected(links: list[tuple[int, int, float]]) -> set[frozenset[int]]:
    """Return the groups of records that links connect, by walking."""
    groups = [{left, right} for left, right, _ in links]
    for left, right, _ in links:
        touching = [group for group in groups if group & {left, right}]
        groups = [group for group in groups if group not in touching] + [set().union(*touching)]
    return {frozenset(group) for group in groups}


@given(weighted, st.randoms())
def test_the_links_that_hold_connect_all_and_none_could_be_stronger(
    links: list[tuple[int, int, float]], random: Random
) -> None:
    held = [links[number] for number in holding_links(links)]
    assert connected(held) == connected(links)
    assert [bits for *_, bits in held] == sorted((bits for *_, bits in held), reverse=True)
    for weak in held:
        # Were there a way around a link by stronger ones only, it would not be needed.
        stronger = [link for link in links if link[2] > weak[2]]
        assert not any(set(weak[:2]) <= group for group in connected(stronger))
    mixed = random.sample(links, len(links))
    assert sorted(mixed[number] for number in holding_links(mixed)) == sorted(held)
