import math
from collections.abc import Sequence, Set
from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.compare.base import WORLD_RECORDS, holders_by_records, value_information
from oddpair.core.compare.weighted_words import WeightedWords, weighted_words
from oddpair.core.compare.word_overlap import ESTABLISHED_SIMILARITY, INITIAL_SIMILARITY, soft_overlap, word_similarity
from oddpair.core.records import Column, RecordSet, encode

word = st.sampled_from(
    ["skua", "skuas", "tern", "rope", "ropes", "works", "marine", "mar", "m", "2", "harbour", "harb"]
)
name = st.lists(word, min_size=1, max_size=5).map(" ".join)


def words_of(column: Column, source_codes: Sequence[int] = (), common: Set[str] = frozenset()) -> WeightedWords:
    codes = np.array(source_codes or [0] * len(column), dtype=np.int32)
    ids = tuple(map(str, range(len(column))))
    return weighted_words(column, "name", RecordSet(("till", "webshop"), codes, ids, {"name": column}), common=common)


def table(*names: str, times: int = 1) -> WeightedWords:
    return words_of(encode([text for text in names for _ in range(times)]))


def similarity(one: str, other: str, times: int = 1) -> float:
    words = table(one, other, times=times)
    return float(word_similarity(0, 0 if one == other else 1, words))


def test_spellings_that_no_source_shares_may_be_habits_of_the_sources() -> None:
    column = encode(["zielinski", "zieliski"] * 4)
    apart, mixed = (words_of(column, codes) for codes in ([0, 1] * 4, [0, 1] * 3 + [0, 0]))
    assert word_similarity(0, 1, apart) > 0.85
    assert word_similarity(0, 1, mixed) == ESTABLISHED_SIMILARITY


def overlap(one: str, other: str) -> float:
    column = encode([one, other])
    return float(soft_overlap(column.values.index(one), column.values.index(other), words_of(column)).share)


@given(name, name)
def test_overlap_is_symmetric_bounded_and_whole_for_equal_names(one: str, other: str) -> None:
    assert overlap(one, other) == overlap(other, one)
    assert 0 <= overlap(one, other) <= 1
    assert overlap(one, one) == pytest.approx(1)


@given(name, st.randoms(use_true_random=False))
def test_the_order_of_words_does_not_matter(text: str, random: Random) -> None:
    words = text.split()
    random.shuffle(words)
    assert overlap(text, " ".join(words)) == pytest.approx(1)


def test_names_without_a_word_in_common_do_not_overlap() -> None:
    assert overlap("skua rope works", "tern marine") == 0


def test_a_rare_word_weighs_more_than_a_common_one() -> None:
    words = table("skua marine", "tern marine", "ruff marine", "eider marine")
    skua, marine = words.weights[:2].tolist()
    assert skua == pytest.approx(math.log2((4 + WORLD_RECORDS) / 1))
    # Of three further records about every other one is of another entity: fewer of the world beyond the file count.
    assert marine == pytest.approx(math.log2((4 + WORLD_RECORDS / (1 + 1.5**2)) / 4))
    assert words.totals.tolist() == pytest.approx([skua + marine] * 4)


def test_a_word_common_in_the_world_stays_common_in_a_small_file() -> None:
    column = encode(["skua marine", "tern boats"])
    weights = words_of(column, common={"marine"}).weights.tolist()
    assert weights[1] < weights[0] == weights[3]


@given(name, name)
def test_what_is_shared_and_what_is_left_over_never_exceed_the_names(one: str, other: str) -> None:
    column = encode([one, other])
    words = words_of(column)
    found = soft_overlap(0, len(column.values) - 1, words)
    assert 0 <= found.shared <= min(words.totals) + 1e-3
    assert 0 <= found.left_over <= min(words.totals) + 1e-3


@pytest.mark.parametrize(
    ("one", "other", "alike"),
    [("harbour", "harbuor", True), ("harbour", "harbor", True), ("skua", "skue", True), ("tern", "turn", True), ("rope", "ropewalks", True),
     ("cod", "cot", False), ("works", "walks", False), ("12", "13", False), ("1898", "1899", False)],
)  # fmt: skip
def test_which_words_are_slips_of_each_other(one: str, other: str, alike: bool) -> None:
    assert (similarity(one, other) > 0) == alike


def test_an_initial_agrees_with_its_word_but_not_fully() -> None:
    assert similarity("m", "marine") == pytest.approx(INITIAL_SIMILARITY)
    assert similarity("m", "tern") == 0


def test_two_established_words_are_not_slips_of_each_other() -> None:
    assert similarity("petersen", "pedersen") > 0.8
    assert similarity("petersen", "pedersen", times=4) == ESTABLISHED_SIMILARITY


@given(st.lists(st.integers(1, 500), min_size=1, max_size=20))
def test_the_more_hold_a_value_the_less_it_tells(counts: list[int]) -> None:
    bits = value_information(holders_by_records(np.array(sorted(counts))), sum(counts), 24.0)
    assert (np.diff(bits) <= 0).all()
    assert (bits >= 0).all()
    assert (bits <= 24).all()


def test_a_value_that_nobody_else_holds_is_rare_but_not_without_bounds() -> None:
    [alone, shared] = value_information(np.array([0.0, 64.0]), 3096, 60.0).tolist()
    assert alone == pytest.approx(math.log2(4096 / 0.05), abs=1e-3)
    assert shared == pytest.approx(math.log2(3096 / 64), abs=1e-3)


def test_a_value_that_all_hold_tells_nothing() -> None:
    assert value_information(np.array([11.0, 12.0]), 12, 60.0).tolist() == pytest.approx([0.88, 0.66], abs=0.02)
    assert value_information(np.array([5000.0]), 5000, 60.0).tolist() == pytest.approx([0.0], abs=1e-3)
