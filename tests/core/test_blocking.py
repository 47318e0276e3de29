import numpy as np
import pytest
from hypothesis import given

from oddpair.core.blocking import build_index, estimate_pairs, iterate_pairs, parse_key
from oddpair.core.blocking.key_values import key_values
from oddpair.core.errors import PlanInvalid
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.records import RecordSet
from oddpair.core.tidying import tidy_records

from .strategies import record_sets, records

KEYS = tuple(
    parse_key(text)
    for text in (
        "name|rarest 2",
        "phone.end",
        "address.postcode + address.number",
        "name|first 3 + address.city|first 2",
    )
)


def pairs_of(tidy: RecordSet, most: int, narrowing: tuple = ()) -> tuple[list[tuple[int, int]], tuple]:
    index = build_index(tidy, KEYS, narrowing, most)
    meets = np.ones((len(tidy.sources), len(tidy.sources)), dtype=np.bool_)
    chunks = [chunk for _, chunk in iterate_pairs(index, tidy.source_codes, meets, lambda chunk: chunk)]
    return [
        pair for chunk in chunks for pair in zip(chunk.left.tolist(), chunk.right.tolist(), strict=True)
    ], index.left_out


def slow_pairs(tidy: RecordSet) -> set[tuple[int, int]]:
    """Compare every record's set of key values with every other's."""
    held: list[set[tuple[str, str]]] = [set() for _ in range(len(tidy))]
    for key in KEYS:
        owners, values, spell = key_values(tidy, key)
        for owner, value in zip(owners.tolist(), values.tolist(), strict=True):
            held[owner].add((key.expression, spell(value)))
    return {(a, b) for a in range(len(tidy)) for b in range(a + 1, len(tidy)) if held[a] & held[b]}


@given(record_sets(most=25))
def test_pairs_are_exactly_those_that_share_a_key_each_once(rows: list[tuple[str, str, dict[str, str]]]) -> None:
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), records(rows))
    found, left_out = pairs_of(tidy, most=1000)
    assert len(found) == len(set(found))
    assert set(found) == slow_pairs(tidy)
    assert left_out == ()


def test_a_block_that_is_too_large_is_narrowed_and_the_rest_reported() -> None:
    rows = [
        ("till", f"{n:03d}", {"name": "Tern Boatyard", "address.city": ["Whitby", "Oban"][n % 2]}) for n in range(12)
    ]
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), records(rows))
    found, left_out = pairs_of(tidy, most=6, narrowing=(parse_key("address.city"),))
    assert len(found) == 2 * (6 * 5 // 2)
    assert left_out == ()
    found, left_out = pairs_of(tidy, most=5, narrowing=(parse_key("address.city"),))
    assert len(found) >= 11, "records of a block that is too large still meet their neighbours"
    assert {(item.value, item.records) for item in left_out} >= {("boatyard / oban", 6), ("boatyard / whitby", 6)}


def test_a_source_without_duplicates_of_its_own_is_not_compared_with_itself() -> None:
    rows = [(source, number, {"name": "Tern Boatyard"}) for source in ("ledger", "till") for number in "12"]
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), records(rows))
    index = build_index(tidy, KEYS, (), 100)
    [(_, chunk)] = list(
        iterate_pairs(index, tidy.source_codes, np.array([[False, True], [True, True]]), lambda chunk: chunk)
    )
    pairs = set(zip(chunk.left.tolist(), chunk.right.tolist(), strict=True))
    assert (0, 1) not in pairs
    assert pairs == {(0, 2), (0, 3), (1, 2), (1, 3), (2, 3)}


def test_a_wrong_key_is_refused_with_a_suggestion() -> None:
    with pytest.raises(PlanInvalid, match="Did you mean 'rarest'"):
        parse_key("name|rarst 2")
    assert parse_key("name.family|sound + name.given|first 1").describe().startswith("name.family (the sound")


def test_pairs_are_estimated_exactly_from_the_whole_and_without_bias_from_samples() -> None:
    rows = [("a", f"{n:03d}", {"name": f"Tern{n % 40:02d}rope", "phone": f"01632 96{n % 60:04d}"}) for n in range(240)]
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), records(rows))
    keys = [parse_key("phone.end"), parse_key("name")]
    exact = build_index(tidy, keys, [], 200).counts
    whole = estimate_pairs(tidy, len(tidy), keys, 200)
    assert [(item.pairs, item.largest_block) for item in whole] == [
        (item.pairs_proposed, item.largest_block) for item in exact
    ]
    random = np.random.default_rng(5)
    sampled = []
    for _ in range(60):
        chosen = [rows[place] for place in random.permutation(240)[:120]]
        sampled.append(
            estimate_pairs(tidy_records(default_layout(RegisterKind.ORGANISATION), records(chosen)), 240, keys, 200)
        )
    for number, item in enumerate(exact):
        assert np.mean([estimate[number].pairs for estimate in sampled]) == pytest.approx(item.pairs_proposed, rel=0.1)


def test_a_large_block_counts_by_the_partners_that_narrowing_leaves() -> None:
    tidy = tidy_records(
        default_layout(RegisterKind.ORGANISATION), records([("a", f"{n}", {"name": "Tern"}) for n in range(100)])
    )
    assert estimate_pairs(tidy, 100, [parse_key("name")], 10)[0].pairs == 500
