"""What holds a cluster together: its strongest links, bridges, cuts, the order of closeness, awkward clusters."""

from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.clustering import awkward_clusters, bridges, holding_links, order_by_closeness, recut, way_between
from oddpair.core.evaluation import agreement
from oddpair.core.kinds_of_doubt import LARGE, WEAK

Link = tuple[int, int, float]


@st.composite
def some_links(draw: st.DrawFn) -> list[Link]:
    pairs = draw(
        st.sets(st.tuples(st.integers(1, 12), st.integers(1, 12)).filter(lambda pair: pair[0] < pair[1]), max_size=24)
    )
    return [(one, other, float(draw(st.integers(-5, 20)))) for one, other in sorted(pairs)]


def groups(records: set[int], edges: set[tuple[int, int]]) -> set[frozenset[int]]:
    """Records that edges connect, found by going along them."""
    left, found = set(records), set()
    while left:
        group, fresh = set(), {min(left)}
        while fresh:
            group |= fresh
            fresh = {b for a, b in edges if a in fresh} | {a for a, b in edges if b in fresh}
            fresh -= group
        found.add(frozenset(group))
        left -= group
    return found


@given(some_links())
def test_a_bridge_is_what_nothing_else_stands_in_for(links: list[Link]) -> None:
    edges = {(one, other) for one, other, _ in links}
    records = {end for edge in edges for end in edge}
    whole = len(groups(records, edges))
    expected = {edge for edge in edges if len(groups(records, edges - {edge})) > whole}
    assert bridges(edges) == expected


@given(some_links(), st.randoms(use_true_random=False))
def test_close_records_stand_together_whatever_the_order_of_links(links: list[Link], random: Random) -> None:
    records = {end for one, other, _ in links for end in (one, other)} | {40}
    order = order_by_closeness(records, links)
    assert sorted(order) == sorted(records)
    shuffled = list(links)
    random.shuffle(shuffled)
    assert order_by_closeness(sorted(records, reverse=True), shuffled) == order
    # What is linked at all stands in one stretch.
    for group in groups(records, {(one, other) for one, other, _ in links}):
        places = sorted(order.index(record) for record in group)
        assert places == list(range(places[0], places[0] + len(group)))


@given(
    some_links(),
    st.sets(st.tuples(st.integers(1, 12), st.integers(1, 12)).filter(lambda pair: pair[0] < pair[1]), max_size=5),
)
def test_a_recut_cluster_keeps_apart_what_has_to_be_and_nothing_that_could_stay(
    links: list[Link], apart: set[tuple[int, int]]
) -> None:
    records = {end for one, other, _ in links for end in (one, other)}
    found = recut(records, links, apart)
    assert all(found[one] != found[other] for one, other in apart if {one, other} <= records)
    if not apart:
        edges = {(one, other) for one, other, _ in links}
        assert {frozenset(r for r in records if found[r] == name) for name in found.values()} == groups(records, edges)
    assert all(name == min(record for record in records if found[record] == name) for name in found.values())


@given(some_links(), st.integers(-2, 12))
def test_awkward_clusters_hang_on_their_weakest_holding_link(links: list[Link], same_from: int) -> None:
    edges = {(one, other) for one, other, _ in links}
    records = {end for edge in edges for end in edge}
    found = groups(records, edges)
    labels = np.arange(13, 26, dtype=np.int32)
    for number, group in enumerate(sorted(found, key=min)):
        labels[list(group)] = number
    labels = np.unique(labels, return_inverse=True)[1].astype(np.int32)
    left, right = (np.array([link[side] for link in links], dtype=np.int32) for side in (0, 1))
    bits = np.array([link[2] for link in links], dtype=np.float32)
    told = awkward_clusters(left, right, bits, labels, same_from=float(same_from), sources=2)
    expected = {}
    for group in found:
        own = [link for link in links if link[0] in group]
        weakest = min((own[number][2] for number in holding_links(own)), default=0.0)
        if len(group) >= 3 and (weakest < same_from + 2.0 or len(group) > 10):
            expected[int(labels[min(group)])] = (weakest, WEAK if weakest < same_from + 2.0 else LARGE)
    assert {one.label: (one.score, one.kind) for one in told} == expected
    assert all(labels[one.left] == labels[one.right] == one.label for one in told)


@given(st.lists(st.tuples(st.sampled_from(["same", "different"]), st.sampled_from(["same", "different"])), max_size=60))
def test_agreement_is_bounded_and_the_same_from_both_sides(judged: list[tuple[str, str]]) -> None:
    found = agreement(judged)
    assert found == agreement([(other, one) for one, other in judged])
    assert found.equal == sum(one == other for one, other in judged)
    if found.kappa is not None:
        assert -1.0 <= found.kappa <= 1.0
        assert (found.kappa == 1.0) == (found.equal == len(judged))


def test_kappa_of_a_worked_example() -> None:
    # 20 both same, 5 and 10 apart, 15 both different: agreement .7, by chance .5, kappa .4.
    judged = (
        [("same", "same")] * 20
        + [("same", "different")] * 5
        + [("different", "same")] * 10
        + [("different", "different")] * 15
    )
    found = agreement(judged)
    assert found.kappa == pytest.approx(0.4)
    assert found.margin == pytest.approx(1.96 * (37 / 54 * 17 / 54 / 54) ** 0.5 / 0.5, abs=0.001)
    certain = agreement([("same", "same"), ("different", "different")])
    assert certain.kappa == 1.0
    assert (certain.margin or 0.0) > 0.5


@given(some_links(), st.integers(1, 12), st.integers(1, 12))
def test_the_way_between_two_records_is_whole_and_as_short_as_any(links: list[Link], one: int, other: int) -> None:
    edges = [(left, right) for left, right, _ in links]
    way = way_between(edges, one, other)
    here = one
    for number in way:
        assert here in edges[number]
        here = sum(edges[number]) - here
    together = any({one, other} <= group for group in groups({one, other, *sum(edges, ())}, set(edges)))
    assert here == (other if together else one)
    assert len(way) == len(way_between(edges, other, one))
    assert len(way) == len(way_between([edge[::-1] for edge in edges], one, other))
    # No step can be left out: records further along the way are not nearer.
    reach = {one}
    for _ in range(max(len(way) - 1, 0)):
        reach |= {b for a, b in edges if a in reach} | {a for a, b in edges if b in reach}
    assert one == other or not way or other not in reach
