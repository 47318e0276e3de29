"""What decisions about groups of records say of pairs."""

from hypothesis import given
from hypothesis import strategies as st

from oddpair.store.decisions import pairs_said


@given(st.lists(st.lists(st.integers(1, 200), min_size=1, max_size=6), min_size=1, max_size=5))
def test_groups_say_of_pairs_what_they_mean(sides: list[list[int]]) -> None:
    seen: set[int] = set()
    members = []
    for number, side in enumerate(sides):
        for record in side:
            if record not in seen:
                seen.add(record)
                members.append((record, number))
    members.sort()
    apart = set(pairs_said("different", members))
    side_of = dict(members)
    assert apart == {(a, b) for a in side_of for b in side_of if a < b and side_of[a] != side_of[b]}
    assert len(list(pairs_said("same", members))) == len(members) - 1
