"""The compiled clustering against a slow, plain one."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.clustering.components import linked_components
from oddpair.core.clustering.linkage import AMBIGUOUS_BITS, Links, grow_components

SIZE = 7
PAIRS = list(zip(*(side.tolist() for side in np.triu_indices(SIZE, 1)), strict=True))
scores = st.lists(st.integers(-9, 20), min_size=len(PAIRS), max_size=len(PAIRS))
some_pairs = st.sets(st.sampled_from(PAIRS), max_size=4)


def links(pairs: list[tuple[int, int]]) -> Links:
    rows = np.array(pairs, dtype=np.int32).reshape(-1, 2)
    return Links(np.array([0, len(rows)]), rows[:, 0].copy(), rows[:, 1].copy())


def compiled(bits: list[int], vetoed: set, apart: set, together: set, sources: list[int], promise: bool) -> list[int]:
    owners, ignored = np.zeros(SIZE, dtype=np.int32), np.zeros(len(together), dtype=np.bool_)
    grow_components(
        np.array([0, SIZE]), np.array(sources, dtype=np.int32), np.array([not promise, True]), links(PAIRS),
        np.array(bits, dtype=np.float32), np.array([pair in vetoed for pair in PAIRS]), links(sorted(apart)),
        links(sorted(together)), 2.0, 8.0, owners, ignored,
    )  # fmt: skip
    return owners.tolist()


def slow(bits: list[int], vetoed: set, apart: set, together: set, sources: list[int], promise: bool) -> list[int]:
    """Average linkage from its definition: look at all pairs of clusters anew after every join."""
    score = dict(zip(PAIRS, bits, strict=True))
    clusters = {record: {record} for record in range(SIZE)}

    def between(a: int, b: int) -> list[tuple[int, int]]:
        return [(min(x, y), max(x, y)) for x in clusters[a] for y in clusters[b]]

    def forbidden(a: int, b: int) -> bool:
        promised = promise and any(sources[x] == sources[y] == 0 for x, y in between(a, b))
        return promised or any(pair in vetoed or pair in apart for pair in between(a, b))

    def join(a: int, b: int) -> None:
        clusters[min(a, b)] |= clusters.pop(max(a, b))

    for x, y in sorted(together):
        a, b = (next(name for name, members in clusters.items() if record in members) for record in (x, y))
        if a != b and not any(pair in apart for pair in between(a, b)):
            join(a, b)
    kept: set[tuple[int, int]] = set()

    def means() -> dict[tuple[int, int], float]:
        """Return the mean scores of the clusters that may be joined, in both orders."""
        found = {}
        for a in sorted(clusters):
            for b in sorted(clusters):
                values = [score[pair] for pair in between(a, b)] if a != b and not forbidden(a, b) else [-99]
                if max(values) >= 8 and kept.isdisjoint(between(a, b)):
                    found[a, b] = float(np.float32(sum(values)) / np.float32(len(values)))
        return found

    def rival(a: int, b: int) -> int | None:
        """Return the first cluster that contradicts ``b`` and fits ``a`` about as well."""
        for k in sorted(clusters):
            contradicts = any(pair in vetoed or pair in apart for pair in between(b, k)) if k != b else False
            if contradicts and means().get((a, k), -99) >= means()[a, b] - AMBIGUOUS_BITS:
                return k
        return None

    while True:
        good = {pair: mean for pair, mean in means().items() if pair[0] < pair[1] and mean >= 2}
        if not good:
            return [next(name for name, members in clusters.items() if record in members) for record in range(SIZE)]
        a, b = max(good, key=lambda pair: (good[pair], -pair[0], -pair[1]))
        for one, other in ((a, b), (b, a)):
            if (third := rival(one, other)) is not None:
                kept |= {*between(one, other), *between(one, third)}
                break
        else:
            join(a, b)


@given(
    scores, some_pairs, some_pairs, some_pairs, st.lists(st.integers(0, 1), min_size=SIZE, max_size=SIZE), st.booleans()
)
def test_compiled_linkage_equals_the_definition(
    bits: list[int], vetoed: set, apart: set, together: set, sources: list[int], promise: bool
) -> None:
    given_ = (bits, vetoed, apart, together, sources, promise)
    assert compiled(*given_) == slow(*given_)


@given(st.lists(st.tuples(st.integers(0, 11), st.integers(0, 11), st.integers(0, 9)), max_size=25), st.integers(2, 12))
def test_components_are_bounded_and_hold_together(edges: list[tuple[int, int, int]], most: int) -> None:
    chosen = [(min(a, b), max(a, b), bits) for a, b, bits in edges if a != b]
    left, right = (np.array([edge[side] for edge in chosen], dtype=np.int32) for side in (0, 1))
    bits = np.array([edge[2] for edge in chosen], dtype=np.float32)
    members, starts = linked_components(12, left, right, bits, np.zeros((0, 2), np.int32), most)
    groups = [members[a:b].tolist() for a, b in pairwise(starts.tolist())]
    assert all(2 <= len(group) <= most for group in groups)
    assert all(group == sorted(group) for group in groups)
    assert len(set(members.tolist())) == len(members)
    if most == 12:
        reach = {record: {record} for record in range(12)}
        for a, b, _ in chosen:
            union = reach[a] | reach[b]
            for record in union:
                reach[record] = union
        expected = {frozenset(group) for group in reach.values() if len(group) > 1}
        assert {frozenset(group) for group in groups} == expected


def test_a_component_that_would_grow_too_large_breaks_at_its_weakest_link_but_not_at_a_decision() -> None:
    left, right = np.array([0, 1, 2], np.int32), np.array([1, 2, 3], np.int32)
    bits, none = np.array([9, 1, 9], np.float32), np.zeros((0, 2), np.int32)
    members, starts = linked_components(4, left, right, bits, none, 3)
    assert (members.tolist(), starts.tolist()) == ([0, 1, 2, 3], [0, 2, 4])
    members, starts = linked_components(4, left, right, bits, np.array([[1, 2]], np.int32), 3)
    assert [record for record in members[starts[0] : starts[1]].tolist() if record in (1, 2)] == [1, 2]


@pytest.mark.parametrize("count", [0, 3])
def test_nothing_linked_gives_no_components(count: int) -> None:
    none = np.zeros(0, np.int32)
    members, starts = linked_components(count, none, none, np.zeros(0, np.float32), np.zeros((0, 2), np.int32), 9)
    assert (members.tolist(), starts.tolist()) == ([], [0])


@pytest.mark.parametrize(("to_junior", "to_senior", "expected"), [(12, 10, 2), (18, 10, 0), (10, 18, 1), (12, 5, 0)])
def test_what_fits_two_contradicting_records_is_left_to_a_person(to_junior: int, to_senior: int, expected: int) -> None:
    bits = dict.fromkeys(PAIRS, -9) | {(0, 2): to_junior, (1, 2): to_senior, (0, 1): 15}
    found = compiled([bits[pair] for pair in PAIRS], {(0, 1)}, set(), set(), [0] * SIZE, promise=False)
    assert found[:3] == [0, 1, expected]
