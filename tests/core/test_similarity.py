from collections import Counter
from math import sqrt

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.compare import comparison
from oddpair.core.records import RecordSet, encode
from oddpair.core.text.double_metaphone import double_metaphone
from oddpair.core.text.minhash import qgram_bands
from oddpair.core.text.phonetic import nysiis
from oddpair.core.text.similarity import KEYBOARD, NO_KEYBOARD, levenshtein_similarity, qgram_cosine
from oddpair.core.text.words import column_words, rarest_words

from .strategies import any_text, ascii_words
from .test_text import as_bytes


def slow_levenshtein(left: str, right: str) -> int:
    row = list(range(len(right) + 1))
    for i, letter in enumerate(left, start=1):
        above, row = row, [i]
        for j, other in enumerate(right, start=1):
            row.append(min(above[j] + 1, row[j - 1] + 1, above[j - 1] + (letter != other)))
    return row[-1]


def slow_cosine(left: str, right: str, size: int) -> float:
    grams = [Counter(f" {text} "[at : at + size] for at in range(len(text) + 3 - size)) for text in (left, right)]
    dot = sum(count * grams[1][gram] for gram, count in grams[0].items())
    return dot / sqrt(np.prod([sum(count**2 for count in counts.values()) for counts in grams]))


@given(ascii_words, ascii_words)
def test_levenshtein_equals_the_textbook_and_a_neighbouring_key_never_costs_more(left: str, right: str) -> None:
    plain = levenshtein_similarity(as_bytes(left), as_bytes(right), NO_KEYBOARD)
    longer = max(len(left), len(right))
    assert plain == pytest.approx(1 - slow_levenshtein(left, right) / longer if longer else 1)
    assert plain <= levenshtein_similarity(as_bytes(left), as_bytes(right), KEYBOARD) <= 1


def test_a_slip_of_the_finger_is_nearer_than_another_letter() -> None:
    near, far = (
        levenshtein_similarity(as_bytes("harbour"), as_bytes(text), KEYBOARD) for text in ("harbiur", "harbxur")
    )
    assert near == pytest.approx(1 - 0.5 / 7)
    assert far == pytest.approx(1 - 1 / 7)
    assert (KEYBOARD == KEYBOARD.T).all()


@given(ascii_words.filter(bool), ascii_words.filter(bool), st.integers(2, 3))
def test_the_cosine_of_letter_groups_equals_counting(left: str, right: str, size: int) -> None:
    found = qgram_cosine(as_bytes(left), as_bytes(right), size)
    assert found == qgram_cosine(as_bytes(right), as_bytes(left), size)
    assert found == (1 if left == right else pytest.approx(min(slow_cosine(left, right, size), 0.999)))


@given(any_text)
def test_any_word_has_a_sound_code_of_letters(text: str) -> None:
    assert nysiis(text.lower()).isalpha() or nysiis(text.lower()) == ""


@pytest.mark.parametrize(
    ("word", "code"),
    [("heitschmedt", "HATSNAD"), ("westerlund", "WASTARLAD"), ("casstevens", "CASTAFAN"), ("vasquez", "VASG"), ("frazier", "FRASAR"),
     ("fraser", "FRASAR"), ("bowman", "BANAN"), ("mckee", "MCY"), ("koehn", "CAN"), ("", "")],
)  # fmt: skip
def test_nysiis_codes(word: str, code: str) -> None:
    assert nysiis(word) == code


@pytest.mark.parametrize(
    ("word", "codes"),
    [("smith", ("SM0", "XMT")), ("schmidt", ("XMT", "SMT")), ("katherine", ("K0RN", "KTRN")), ("caesar", ("SSR", "SSR")),
     ("jankowski", ("JNKSK", "ANKFSK")), ("filipowicz", ("FLPTS", "FLPFX")), ("cabrillo", ("KPRL", "KPR")), ("wright", ("RT", "RT")),
     ("xavier", ("SF", "SFR")), ("rogier", ("RJ", "RJR")), ("broughton", ("PRTN", "PRTN")), ("sugar", ("XKR", "SKR")),
     ("michael", ("MKL", "MXL")), ("accident", ("AKSTNT", "AKSTNT")), ("breaux", ("PR", "PR")), ("123", ("", ""))],
)  # fmt: skip
def test_double_metaphone_codes(word: str, codes: tuple[str, str]) -> None:
    assert double_metaphone(word) == codes


@given(any_text)
def test_any_word_has_two_ways_to_be_spoken(text: str) -> None:
    for code in double_metaphone(text):
        assert set(code) <= set("0AFHJKLMNPRSTX")


def test_values_that_share_most_letters_share_a_fingerprint_and_others_do_not() -> None:
    bands = qgram_bands(["gannet marine services", "ganet marine services", "tern boatyard oban", "ab"], 8)
    shared = (bands[:, None] == bands[None]) & (bands[:, None] >= 0)
    assert shared[0, 1].any()
    assert not shared[0, 2].any()
    assert (bands[3] == -1).all()


@given(
    st.lists(st.sampled_from(["skua tern", "tern rope", "rope", "skua skua rope"]), min_size=1, max_size=12),
    st.integers(1, 3),
)
def test_rarest_words_are_distinct_and_in_the_order_of_rarity(values: list[str], most: int) -> None:
    words = column_words(encode(values))
    counts = Counter(word for value in values for word in set(value.split()))
    for value, chosen in zip(dict.fromkeys(values), rarest_words(words, most).tolist(), strict=True):
        names = [words.vocabulary[word] for word in chosen if word >= 0]
        assert len(set(names)) == len(names) == min(most, len(set(value.split())))
        assert [counts[name] for name in names] == sorted(counts[word] for word in set(value.split()))[:most]


def level(using: str, left: str, right: str, **options: float | int | str) -> str:
    column = encode([left or None, right or None])
    records = RecordSet(("a",), np.zeros(2, np.int32), ("1", "2"), {"x": column})
    kind = comparison(using)
    measure = kind.prepare(records, "x", {**{name: option.default for name, option in kind.options.items()}, **options})
    return kind.levels[int(measure(np.array([0], np.int32), np.array([1], np.int32)).levels[0])]


@pytest.mark.parametrize(
    ("using", "left", "right", "options", "expected"),
    [
        ("similar", "harbour", "harbour", {}, "equal"),
        ("sounds", "katherine smith", "smith catherine", {"code": "double_metaphone"}, "alike"),
        ("sounds", "smith", "schmidt", {"code": "double_metaphone"}, "alike"),
        ("sounds", "smith", "", {"code": "double_metaphone"}, "missing"),
        ("similar", "gannet marine", "ganet marine", {}, "close"),
        ("similar", "harbour", "harbuor", {"measure": "levenshtein", "similar": 0.7}, "similar"),
        ("similar", "harbour", "harbiur", {"measure": "keyboard"}, "close"),
        ("similar", "martha", "marhta", {"measure": "jaro_winkler"}, "close"),
        ("similar", "rope works skua", "skua rope works", {"measure": "word_overlap"}, "close"),
        ("similar", "skua ropes", "tern sails", {"measure": "qgram_cosine"}, "different"),
        ("sounds", "frazier", "fraser", {}, "alike"),
        ("sounds", "frazier", "tern", {"code": "soundex"}, "different"),
        ("part", "NR32 1XA", "NR32 9ZZ", {}, "same part"),
        ("part", "01632 960001", "1632960001", {"take": "last", "letters": 6}, "same part"),
        ("plain", "Sea-Craft", "sea craft", {}, "alike"),
        ("number", "1,200", "1200.0", {}, "equal"),
        ("number", "100", "104", {"share": 0.05}, "near"),
        ("number", "100", "many", {}, "missing"),
        ("number", "100", "104", {"tolerance": 3.0}, "different"),
        ("date", "2020-02-28", "2020-03-02", {"days": 3}, "close"),
        ("sounds", "frazier", "", {}, "missing"),
    ],
)  # fmt: skip
def test_what_each_option_makes_of_two_values(
    using: str, left: str, right: str, options: dict[str, float | int | str], expected: str
) -> None:
    assert level(using, left, right, **options) == expected
    assert level(using, right, left, **options) == expected


def test_options_are_checked_with_the_range_they_may_have() -> None:
    close, measure = comparison("similar").options["close"], comparison("similar").options["measure"]
    assert close.problem(0.9) == "" == measure.problem("osa")
    assert close.problem(7) == "must be a number from 0.5 to 1"
    assert measure.problem("osaa").startswith("must be one of osa, levenshtein")
