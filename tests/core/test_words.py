import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.compare.base import value_information
from oddpair.core.compare.word_overlap import ESTABLISHED_SIMILARITY, INITIAL_SIMILARITY, soft_overlap, word_similarity
from oddpair.core.compare.word_table import WordTable, record_bits, word_table
from oddpair.core.records import encode

word = st.sampled_from(
    ["skua", "skuas", "tern", "rope", "ropes", "works", "marine", "mar", "m", "2", "harbour", "harb"]
)
name = st.lists(word, min_size=1, max_size=5).map(" ".join)


def table(*names: str, times: int = 1) -> WordTable:
    return word_table(encode([text for text in names for _ in range(times)]))


def similarity(one: str, other: str, times: int = 1) -> float:
    words = table(*sorted({one, other}), times=times)
    place = {text: number for number, text in enumerate(sorted({one, other}))}
    return float(word_similarity(place[one], place[other], words))


def overlap(one: str, other: str) -> float:
    column = encode([one, other])
    return float(soft_overlap(column.values.index(one), column.values.index(other), word_table(column)))


@given(name, name)
def test_overlap_is_symmetric_bounded_and_whole_for_equal_names(one: str, other: str):
    assert overlap(one, other) == overlap(other, one)
    assert 0 <= overlap(one, other) <= 1
    assert overlap(one, one) == pytest.approx(1)


@given(name, st.randoms(use_true_random=False))
def test_the_order_of_words_does_not_matter(text: str, random):
    words = text.split()
    random.shuffle(words)
    assert overlap(text, " ".join(words)) == pytest.approx(1)


def test_names_without_a_word_in_common_do_not_overlap():
    assert overlap("skua rope works", "tern marine") == 0


def test_a_rare_word_weighs_more_than_a_common_one():
    words = table("skua marine", "tern marine", "ruff marine", "eider marine")
    weights = dict(zip(["eider", "marine", "ruff", "skua", "tern"], words.weights.tolist(), strict=True))
    assert weights["skua"] == pytest.approx(math.log2(4 / 1))
    assert weights["marine"] == 1.0
    bits, usual = record_bits(words)
    assert bits.tolist() == [3.0] * 4
    assert usual == 3.0


@pytest.mark.parametrize(
    ("one", "other", "alike"),
    [("harbour", "harbuor", True), ("harbour", "harbor", True), ("skua", "skue", True), ("tern", "turn", True), ("rope", "ropewalks", True),
     ("cod", "cot", False), ("works", "walks", False), ("12", "13", False), ("1898", "1899", False)],
)  # fmt: skip
def test_which_words_are_slips_of_each_other(one: str, other: str, alike: bool):
    assert (similarity(one, other) > 0) == alike


def test_an_initial_agrees_with_its_word_but_not_fully():
    assert similarity("m", "marine") == pytest.approx(INITIAL_SIMILARITY)
    assert similarity("m", "tern") == 0


def test_two_established_words_are_not_slips_of_each_other():
    assert similarity("petersen", "pedersen") > 0.8
    assert similarity("petersen", "pedersen", times=4) == ESTABLISHED_SIMILARITY


@given(st.lists(st.sampled_from(["a", "b", "c"]), min_size=1, max_size=20))
def test_information_is_that_of_the_share_of_records(values: list[str]):
    column = encode([*values, None])
    bits, usual = value_information(column.codes, column.counts())
    for place, value in enumerate(values):
        assert bits[place] == pytest.approx(-math.log2(values.count(value) / len(values)), abs=1e-5)
    assert bits[-1] == 0
    assert usual == pytest.approx(math.log2(max(len(values) / 3, 1)))


def test_information_of_nothing_is_nothing():
    column = encode([None, None])
    bits, usual = value_information(column.codes, column.counts())
    assert (bits.tolist(), usual) == ([0.0, 0.0], 0.0)
