import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.text.byte_strings import pack
from oddpair.core.text.edit_distance import jaro_winkler, osa_distance, osa_similarity
from oddpair.core.text.folding import collapse, fold, read_again, words_of
from oddpair.core.text.phonetic import soundex

from .strategies import any_text, ascii_words


def as_bytes(text: str) -> np.ndarray:
    return np.frombuffer(text.encode() + b"\0", dtype=np.uint8)[:-1]


def slow_osa(left: str, right: str) -> int:
    """The textbook recurrence, cell by cell."""
    table = {(i, 0): i for i in range(len(left) + 1)} | {(0, j): j for j in range(len(right) + 1)}
    for i in range(1, len(left) + 1):
        for j in range(1, len(right) + 1):
            cost = left[i - 1] != right[j - 1]
            table[i, j] = min(table[i - 1, j] + 1, table[i, j - 1] + 1, table[i - 1, j - 1] + cost)
            if i > 1 and j > 1 and left[i - 1] == right[j - 2] and left[i - 2] == right[j - 1]:
                table[i, j] = min(table[i, j], table[i - 2, j - 2] + 1)
    return table[len(left), len(right)]


@given(ascii_words, ascii_words)
def test_the_fast_edit_distance_equals_the_textbook(left: str, right: str) -> None:
    assert osa_distance(as_bytes(left), as_bytes(right)) == slow_osa(left, right)


@pytest.mark.parametrize("size", [63, 64, 65, 130])
def test_edit_distance_of_strings_around_and_beyond_a_machine_word(size: int) -> None:
    left = "ab" * size
    right = left[: size // 2] + "xy" + left[size // 2 + 1 : -1]
    assert osa_distance(as_bytes(left[:size]), as_bytes(right[:size])) == slow_osa(left[:size], right[:size])


@given(ascii_words, ascii_words)
def test_similarities_are_symmetric_bounded_and_one_only_for_equal(left: str, right: str) -> None:
    for similarity in (osa_similarity, jaro_winkler):
        forward, back = similarity(as_bytes(left), as_bytes(right)), similarity(as_bytes(right), as_bytes(left))
        assert forward == pytest.approx(back)
        assert 0 <= forward <= 1
        assert (forward == 1) == (left == right)


@pytest.mark.parametrize(
    ("left", "right", "expected"),
    [("martha", "marhta", 0.9611), ("dwayne", "duane", 0.84), ("dixon", "dicksonx", 0.8133)],
)
def test_jaro_winkler_gives_the_published_examples(left: str, right: str, expected: float) -> None:
    assert jaro_winkler(as_bytes(left), as_bytes(right)) == pytest.approx(expected, abs=1e-4)


def slow_jaro_winkler(left: str, right: str) -> float:
    """Winkler's definition, letter by letter."""
    left, right = sorted((left, right), key=len)
    if not left:
        return float(not right)
    window = max(len(right) // 2 - 1, 0)
    partners: dict[int, int] = {}
    for i, letter in enumerate(left):
        free = [
            j
            for j in range(max(0, i - window), min(len(right), i + window + 1))
            if j not in partners.values() and right[j] == letter
        ]
        if free:
            partners[i] = free[0]
    if not partners:
        return 0.0
    in_right = [right[j] for j in sorted(partners.values())]
    half_swaps = sum(left[i] != letter for i, letter in zip(sorted(partners), in_right, strict=True))
    found = len(partners)
    jaro = (found / len(left) + found / len(right) + (found - half_swaps // 2) / found) / 3
    prefix = next((n for n in range(min(4, len(left))) if left[n] != right[n]), min(4, len(left)))
    return jaro + prefix * 0.1 * (1 - jaro)


@given(ascii_words, ascii_words, st.sampled_from([1, 6]))
def test_jaro_winkler_equals_its_definition_for_short_and_for_long_strings(left: str, right: str, times: int) -> None:
    left, right = left * times, right * times
    assert jaro_winkler(as_bytes(left), as_bytes(right)) == pytest.approx(slow_jaro_winkler(left, right))


@given(any_text)
def test_folding_gives_ascii_words_and_folds_once(text: str) -> None:
    folded = fold(text)
    assert folded.isascii()
    assert fold(folded) == folded
    assert pack(words_of(text)).buffer.dtype == np.uint8


@pytest.mark.parametrize(
    ("one", "other"),
    [("Müller", "MUELLER"), ("Grønnevik", "Groennevik"), ("Ålesund", "Aalesund"), ("O'Malley", "OMALLEY")],
)
def test_two_ways_of_writing_a_letter_meet(one: str, other: str) -> None:
    assert words_of(one) == words_of(other)


def test_a_letter_lost_in_an_export_does_not_split_the_word() -> None:
    assert words_of("Powro?nia") == ["powronia"]
    assert collapse("boat") == "boat"


@pytest.mark.parametrize(
    ("word", "code"),
    [("robert", "R163"), ("rupert", "R163"), ("ashcraft", "A261"), ("tymczak", "T522"), ("pfister", "P236"), ("", "")],
)
def test_soundex_gives_the_published_codes(word: str, code: str) -> None:
    assert soundex(word) == code


@given(st.text(max_size=12), st.integers(1, 2))
def test_utf8_that_was_read_as_something_else_is_read_again(text: str, times: int) -> None:
    plain = text.encode("utf-8", "ignore").decode()
    misread = plain
    for _ in range(times):
        misread = misread.encode("utf-8").decode("latin-1")
    if read_again(plain) == plain:
        assert read_again(misread) == plain


def test_letters_that_are_right_are_not_read_again() -> None:
    for text in ("São Paulo", "Ångström", "Ærø", "Łódź", "Πειραιάς", "naïve – “quoted”", "東京"):
        assert read_again(text) == text
    assert fold("Å\x81Ã³dÅº") == fold("Łódź")
