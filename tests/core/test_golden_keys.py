"""Changes kept as arrays against changes planned one by one."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.golden_keys import Change, Changes, plan_changes

memberships = st.dictionaries(
    st.integers(1, 60), st.tuples(st.integers(1, 60), st.one_of(st.none(), st.integers(1, 5))), max_size=25
)


def in_plain_words(change: Change) -> tuple[object, ...]:
    """A change without the numbers that stand for keys yet to be given, which only tell them apart."""
    old = {golden: records for golden, records in change.after.items() if golden > 0}
    new = sorted(records for golden, records in change.after.items() if golden < 0)
    return change.before, old, new, change.retired


def arranged(held: dict[int, tuple[int, int | None]]) -> tuple[Changes, list[Change]]:
    """The same changes twice: new clusters as arrays with the others, and all one by one."""
    cluster_of = {record: cluster for record, (cluster, _) in held.items()}
    golden_of = {record: golden for record, (_, golden) in held.items() if golden is not None}
    known = {cluster_of[record] for record in golden_of}
    new = np.array(sorted(record for record in cluster_of if cluster_of[record] not in known), dtype=np.int64)
    clusters = np.array([cluster_of[record] for record in new.tolist()], dtype=np.int64)
    rest = {record: cluster for record, cluster in cluster_of.items() if cluster in known}
    return Changes(new, clusters, plan_changes(rest, golden_of)), plan_changes(cluster_of, golden_of)


@given(memberships)
def test_arrays_of_new_clusters_are_the_same_changes_in_the_same_order(held: dict[int, tuple[int, int | None]]) -> None:
    changes, expected = arranged(held)
    assert len(changes) == len(expected)
    assert [in_plain_words(change) for change in changes] == [in_plain_words(change) for change in expected]
    assert [in_plain_words(change) for change in changes[1:3]] == [in_plain_words(change) for change in expected[1:3]]


@given(memberships, st.integers(0, 30))
def test_sizes_and_the_largest_of_new_clusters(held: dict[int, tuple[int, int | None]], count: int) -> None:
    changes, expected = arranged(held)
    sizes = [len(records) for change in expected if not change.before for records in change.after.values()]
    assert sorted(changes.new_sizes.tolist()) == sorted(sizes)
    largest = [len(records) for change in changes.largest_new(count) for records in change.after.values()]
    assert largest == sorted(sizes, reverse=True)[:count]
