"""Words that lists write differently as a habit: learned from pairs of names, used in a second round."""

from collections.abc import Sequence

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.fields import RegisterKind
from oddpair.core.pipeline import run
from oddpair.core.plan import default_plan
from oddpair.core.records import RecordSet, RecordSetBuilder
from oddpair.core.wording import WordHabit, best_of_both, find_word_habits, reworded

BRANDS = "Kestrel Tern Skua Gannet Fulmar Dunlin Curlew Avocet Petrel Whimbrel Sanderling Turnstone Guillemot Shearwater".split()


def lists(pairs: Sequence[tuple[str, str]]) -> tuple[RecordSet, np.ndarray, np.ndarray]:
    builder = RecordSetBuilder()
    for number, (one, other) in enumerate(pairs):
        builder.add("first", f"{number:04d}", {"name": one})
        builder.add("second", f"{number:04d}", {"name": other})
    left = np.arange(len(pairs), dtype=np.int32)
    return builder.build(), left, (left + len(pairs)).astype(np.int32)


def test_a_word_that_one_list_always_writes_otherwise_is_a_habit_and_a_slip_or_a_neighbours_word_is_none() -> None:
    pairs = [(f"{brand.lower()} services", f"{brand.lower()} svc") for brand in BRANDS[:4]]
    pairs += [
        ("tern boatyard", "ternn boatyard"),
        ("skua boatyard", "skua chandlers"),
        ("skua chandlers", "skua boatyard"),
    ]
    pairs += [(f"{brand.lower()} ropes", f"{brand.lower()} sails") for brand in BRANDS[4:8]]
    pairs += [(f"{brand.lower()} sails", f"{brand.lower()} sails") for brand in BRANDS[8:12]]
    records, left, right = lists(pairs)
    habits = find_word_habits(records, "name", left, right)
    assert [(habit.written, habit.meant, habit.times) for habit in habits if habit.meant == "services"] == [
        ("svc", "services", 4)
    ]
    assert not [habit for habit in habits if {habit.written, habit.meant} == {"boatyard", "chandlers"}]
    changed = reworded(records, "name", habits)
    assert changed.column("name").at(int(right[0])) == "kestrel services"
    assert changed.column("name").at(int(left[0])) == "kestrel services"


def test_among_many_names_a_slip_that_comes_again_and_again_is_no_habit() -> None:
    pairs = [(f"firm{number} services", f"firm{number} services") for number in range(300)]
    pairs += [(f"other{number} services", f"other{number} servicees") for number in range(6)]
    pairs += [(f"third{number} boatyard", f"third{number} btyd") for number in range(6)]
    records, left, right = lists(pairs)
    assert [(habit.written, habit.meant) for habit in find_word_habits(records, "name", left, right)] == [
        ("btyd", "boatyard")
    ]


@given(
    st.lists(st.tuples(*[st.text("ab ", max_size=12)] * 2), min_size=1, max_size=30), st.randoms(use_true_random=False)
)
def test_habits_of_any_names_do_not_hang_on_the_order_of_pairs(pairs: list[tuple[str, str]], random: object) -> None:
    records, left, right = lists(pairs)
    order = np.random.default_rng(len(pairs)).permutation(len(left))
    found = find_word_habits(records, "name", left, right)
    assert found == find_word_habits(records, "name", left[order], right[order])
    assert found == find_word_habits(records, "name", right, left)
    for habit in found:
        assert habit.times >= 3
        assert habit.source != habit.other
    again = reworded(records, "name", found)
    assert again.ids == records.ids


def test_only_pairs_that_are_the_best_of_both_count() -> None:
    left, right = np.array([0, 0, 1], np.int32), np.array([2, 3, 3], np.int32)
    bits, sources = np.array([5.0, 4.0, 9.0], np.float32), np.array([0, 0, 1, 1], np.int32)
    assert best_of_both(left, right, bits, sources).tolist() == [0, 2]


def test_nothing_is_reworded_twice() -> None:
    records, *_ = lists([("a b", "b c")])
    habits = [WordHabit("first", "a", "second", "b", 3), WordHabit("first", "b", "second", "a", 3)]
    assert reworded(records, "name", habits).column("name").at(0) == "b a"


def test_a_list_that_abbreviates_is_matched_in_a_second_round_where_the_plan_says_so() -> None:
    builder = RecordSetBuilder()
    for number, brand in enumerate(BRANDS):
        builder.add("first", f"{number:04d}", {"name": f"{brand} Sailing School"})
        builder.add("second", f"{number:04d}", {"name": f"{brand} Slg School"})
    plan = default_plan(RegisterKind.ORGANISATION)
    used = run(builder.build(), plan)
    told = run(
        builder.build(), plan.model_copy(update={"weights": plan.weights.model_copy(update={"wording": "told"})})
    )
    assert used.first.habits
    assert used.first.habits == told.first.habits
    assert int(used.pairs.same.sum()) == len(BRANDS) > int(told.pairs.same.sum())
