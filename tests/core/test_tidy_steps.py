"""Tidy steps, swap lists and value maps, patterns built from marked examples."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.errors import InputError
from oddpair.core.records import RecordSetBuilder
from oddpair.core.tidying import patterns
from oddpair.core.tidying.patterns import MarkedExample, RunawayPattern, pattern_from
from oddpair.core.tidying.steps import STEP_KINDS, application_of, document_of, step_from
from oddpair.core.tidying.tidy_steps import FieldSteps, prepare_columns, prepare_records, prepare_row, tidy_steps_from
from oddpair.core.tidying.word_tables import TableKind, WordTable, checked_entries, looked_up

FORMS = WordTable(
    "forms",
    TableKind.SWAP_LIST,
    checked_entries([("ltd", "Limited"), ("& co", "and Company"), ("str", "Street"), ("new york", "NY")]),
)
LANDS = WordTable("lands", TableKind.VALUE_MAP, checked_entries([("norge", "NO"), ("Grossbritannien", "GB")]))
TABLES = {table.name: table for table in (FORMS, LANDS)}
FIELDS = ("name", "address.line", "address.country", "phone")


def done(value: str, row: dict[str, str] | None = None, **document: str) -> str:
    return application_of(step_from(document), TABLES)(value, row or {})


STEPS: list[tuple[dict[str, str], str, str]] = [
    ({"do": "spaces"}, "  Tern   Ltd ", "Tern Ltd"),
    ({"do": "case", "to": "capitals"}, "Ærø", "ÆRØ"),
    ({"do": "case", "to": "First word with a capital"}, "TERN LTD", "Tern ltd"),
    ({"do": "punctuation", "keep": "&"}, "Tern-Skua & Co., (UK)", "Tern Skua & Co    UK "),
    ({"do": "punctuation", "by": "nothing"}, "01632/960-001", "01632960001"),
    ({"do": "accents"}, "Łódź Ærø é ñ", "Łodz Ærø e n"),
    ({"do": "transliterate"}, "Αθήνα", "Athina"),
    ({"do": "part", "number": "2", "between": ","}, "Quay 1, Oban, GB", "Oban"),
    ({"do": "part", "number": "-1", "between": ","}, "Quay 1, Oban, GB", "GB"),
    ({"do": "part", "number": "5", "between": ","}, "Quay 1, Oban", "Quay 1, Oban"),
    ({"do": "letters", "which": "the last", "number": "3"}, "abcdef", "def"),
    ({"do": "pad", "width": "6"}, "42", "000042"),
    ({"do": "pad", "width": "4", "with": "-", "at": "the end"}, "42", "42--"),
    ({"do": "replace", "pattern": r"(\d+)\s*-\s*(\d+)", "with": r"\2/\1"}, "no 12 - 14", "no 14/12"),
    ({"do": "keep", "pattern": r"\d{4}"}, "N-5003 Bergen", "5003"),
    ({"do": "keep", "pattern": r"\d{9}"}, "N-5003 Bergen", "N-5003 Bergen"),
    (
        {"do": "swap words", "table": "forms"},
        "TERN & CO. LTD, Straw Str.",
        "TERN and Company Limited, Straw Street",
    ),
    ({"do": "swap words", "table": "lands"}, " Großbritannien", "GB"),
    ({"do": "swap words", "table": "lands"}, "Norge og Sverige", "Norge og Sverige"),
]
#: Those are tried with the field that they read.
READING_OTHERS = {"fill", "join"}


def test_every_step_is_in_the_table() -> None:
    assert {document["do"] for document, _, _ in STEPS} | READING_OTHERS == set(STEP_KINDS)


@pytest.mark.parametrize(("document", "before", "after"), STEPS)
def test_what_each_step_makes_of_a_value(document: dict[str, Any], before: str, after: str) -> None:
    assert done(before, **document) == after


def test_steps_that_read_another_field() -> None:
    assert done("", {"name": "Tern"}, do="fill", **{"from": "name"}) == "Tern"
    assert done("x", {"name": "Tern"}, do="fill", **{"from": "name"}) == "x"
    assert done("12", {"name": "Quay"}, do="join", **{"from": "name", "between": ", "}) == "12, Quay"


@pytest.mark.parametrize(
    ("document", "told"),
    [
        ({"do": "spces"}, "Did you mean 'spaces'"), ({"do": "case", "to": "CAPS"}, "not one of"), ({"do": "pad", "width": "x"}, "not a number"),
        ({"do": "pad", "width": "-3"}, "no length"), ({"do": "replace", "pattern": "("}, "is not a pattern"), ({"do": "keep"}, "is missing"),
        ({"do": "replace", "pattern": "a", "with": r"\1"}, "names group 1"), ({"do": "swap words", "table": "lnds"}, "Did you mean 'lands'"),
        ({"do": "fill", "from": "nme"}, "Did you mean 'name'"), ({"do": "spaces", "x": 1}, "has no 'x'"), ({"do": "part", "between": ""}, "is missing"),
    ],
)  # fmt: skip
def test_a_wrong_step_is_told_with_its_field_and_number(document: dict[str, str], told: str) -> None:
    with pytest.raises(InputError, match=told) as caught:
        tidy_steps_from({"name": [{"do": "spaces"}, document]}, TABLES, FIELDS)
    assert "name, step 2" in caught.value.column
    with pytest.raises(InputError, match="no field 'nam'"):
        tidy_steps_from({"nam": []}, TABLES, FIELDS)


@given(st.text(max_size=60), st.sampled_from(sorted(STEP_KINDS)))
def test_no_step_raises_on_any_text_and_documents_come_back(text: str, name: str) -> None:
    step = step_from(_document(name))
    assert step_from(document_of(step)) == step
    application_of(step, TABLES)(text, {"name": text})


def _document(name: str) -> dict[str, str]:
    wanted = {"table": "forms", "pattern": r"\w+", "from": "name"}
    return {"do": name, **{p.name: wanted[p.name] for p in STEP_KINDS[name].parameters if p.name in wanted}}


rows = st.lists(
    st.fixed_dictionaries(
        {},
        optional={
            name: st.sampled_from(["", " Tern  Ltd", "ltd", "x, y", "5"]) for name in ("name", "phone", "phone#2")
        },
    ),
    max_size=8,
)


@given(rows)
def test_one_record_columns_and_record_sets_are_prepared_alike(rows: list[dict[str, str]]) -> None:
    tidy_steps = tidy_steps_from(
        {"phone": [{"do": "spaces"}, {"do": "fill", "from": "name"}], "name": [{"do": "swap words", "table": "forms"}, {"do": "case", "to": "capitals"}]},
        TABLES, FIELDS,
    )  # fmt: skip
    one_by_one = [prepare_row(tidy_steps, row) for row in rows]
    names = sorted({name for row in rows for name in row})
    columns = prepare_columns(tidy_steps, {name: [row.get(name, "") for row in rows] for name in names}, len(rows))
    assert [{n: v[place] for n, v in columns.items() if v[place]} for place in range(len(rows))] == one_by_one
    builder = RecordSetBuilder()
    for place, row in enumerate(rows):
        builder.add("till", f"{place:03}", row)
    records = prepare_records(tidy_steps, builder.build())
    assert [records.row(place) for place in range(len(rows))] == one_by_one


def test_a_runaway_pattern_is_stopped_while_it_is_tried_and_never_skipped_where_it_counts() -> None:
    value = "a" * 40 + "!"
    steps = FieldSteps(
        [
            step_from({"do": "replace", "pattern": "(a|aa|aaa)+$b", "with": "x"}),
            step_from({"do": "case", "to": "capitals"}),
        ],
        {},
    )
    tried = steps.trace(value, {})
    assert (tried.after[-1], "takes too long" in tried.stopped) == (value.upper(), True)
    # It is not tried again on the next value: nothing is stopped any more.
    assert {(tried.after[-1], tried.stopped) for tried in (steps.trace(value, {}) for _ in range(5))} == {
        (value.upper(), "")
    }
    # Where the outcome is kept, a value is never left as it was because the machine was slow: the work fails.
    for _ in range(2):
        with pytest.raises(RunawayPattern, match="takes too long"):
            steps.apply(value, {}, patience_s=0.05)


def test_tables_refuse_what_contradicts_itself_and_keep_their_order() -> None:
    assert checked_entries([("b", "2"), ("a", "1"), (" A ", "1")]) == (("a", "1"), ("b", "2"))
    with pytest.raises(InputError, match="stands twice") as caught:
        checked_entries([("Str.", "Street"), ("str", "Strait")])
    assert caught.value.row == 2
    with pytest.raises(InputError, match="first half is empty"):
        checked_entries([(" . ", "x")])


@given(st.lists(st.sampled_from(["Tern", "LTD", "ltd.", "& Co", "New", "York", "Str", "x-y"]), max_size=6))
def test_swapping_touches_exactly_the_entries_that_it_names(words: list[str]) -> None:
    text = " ".join(words)
    touched = FORMS.touched_by(text)
    assert set(touched) <= set(FORMS.targets)
    assert (FORMS.apply(text) == text) == (not touched)
    assert looked_up("Str.") == "str"


def marked(text: str, part: str) -> MarkedExample:
    start = text.index(part) if part else 0
    return MarkedExample(text, start, start + len(part))


@pytest.mark.parametrize(
    ("examples", "others"),
    [
        ([("Depot 12, Oban", "12"), ("Depot 7, Wick", "7")], [("Quay 33, Bergen", "33")]),
        ([("N-5003 Bergen", "5003"), ("N-0150 Oslo", "0150")], [("N-9008 Tromsø", "9008")]),
        ([("Tern Ltd (Oban)", "Oban"), ("Skua (Wick)", "Wick")], [("x (Urk)", "Urk")]),
        ([("ref 77 / 2024-01", "2024-01"), ("ref 1234 / 2023-11", "2023-11")], [("ref 2 / 2020-07", "2020-07")]),
        ([("AB 12 x", "12"), ("no number", "")], [("CD 34 y", "34")]),
        ([("Harbour Street", "Street"), ("Quay Street", "Street")], [("Pier Street", "Street")]),
    ],
)
def test_a_pattern_is_built_from_marked_examples_and_fits_others(
    examples: list[tuple[str, str]], others: list[tuple[str, str]]
) -> None:
    pattern = pattern_from([marked(*example) for example in examples])
    for text, part in [*examples, *others]:
        found = patterns.compiled(pattern).search(text)
        assert (found.group() if found else "") == part, (pattern, text)


def test_examples_that_contradict_each_other_and_ones_without_a_mark_are_told() -> None:
    with pytest.raises(InputError, match="mark the part"):
        pattern_from([MarkedExample("abc", 0, 0)])
    with pytest.raises(InputError, match="no pattern fits"):
        pattern_from([MarkedExample("12 12", 0, 2), MarkedExample("12 12", 3, 5)])


@given(st.text(min_size=1, max_size=20), st.data())
def test_whatever_is_marked_the_pattern_finds_it_or_says_that_none_does(text: str, data: st.DataObject) -> None:
    start = data.draw(st.integers(0, len(text) - 1))
    example = MarkedExample(text, start, data.draw(st.integers(start + 1, len(text))))
    try:
        pattern = pattern_from([example])
    except InputError:
        return
    assert patterns.compiled(pattern).search(text).span() == (example.start, example.end)
