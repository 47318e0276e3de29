"""Hidden values in documents of any shape."""

from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.masking import MASK, Masks, masked, masked_row, masks_for

LAYOUT = default_layout(RegisterKind.PERSON)
MASKS = masks_for(LAYOUT, ["name.family", "phone"])
SECRET = "quillfeather"

leaves = st.none() | st.booleans() | st.integers() | st.text("abcdefg ", max_size=8)
documents = st.recursive(
    leaves,
    lambda inner: (
        st.lists(inner, max_size=4) | st.dictionaries(st.sampled_from(["id", "phone", "score", "email", "says"]), inner)
    ),
)


@given(documents)
def test_where_nothing_is_hidden_nothing_changes(document: Any) -> None:
    assert masked(document, Masks(frozenset())) == document


@given(documents)
def test_masking_again_changes_nothing_and_the_shape_stays(document: Any) -> None:
    once = masked(document, MASKS)
    assert masked(once, MASKS) == once
    assert _shape(once) == _shape(document)


def _shape(part: Any) -> Any:
    if isinstance(part, dict):
        return {key: _shape(value) for key, value in part.items()}
    return [_shape(value) for value in part] if isinstance(part, list) else type(part)


@given(documents, st.sampled_from(["phone", "phone#2", "phone.end", "name.family", "name", "Family name"]))
def test_a_value_is_hidden_wherever_it_is_cited(document: Any, key: str) -> None:
    whole = {
        "values": {key: f"{SECRET}"},
        "more": document,
        "says": f"The name is {SECRET.upper()}-like.",
        "list": [{"a": SECRET}],
    }
    shown = repr(masked(whole, MASKS)).lower()
    assert SECRET not in shown


def test_what_names_a_field_stays_and_what_stands_beside_it_goes() -> None:
    document = {
        "changed": [{"field": "phone", "was": "01632 960001", "now": "01632 960002", "side": "left"}],
        "evidence": [{"field": "email", "level": "equal"}],
        "origins": [{"unit": "phone", "rule": "consensus", "losers": [{"values": {"phone": "1"}, "source": "till"}]}],
    }
    assert masked(document, MASKS) == {
        "changed": [{"field": "phone", "was": MASK, "now": MASK, "side": "left"}],
        "evidence": [{"field": "email", "level": "equal"}],
        "origins": [{"unit": "phone", "rule": "consensus", "losers": [{"values": {"phone": MASK}, "source": "till"}]}],
    }


def test_names_of_records_and_words_of_people_go_where_names_are_hidden() -> None:
    document = {
        "doubts": [{"left_name": "Ann Ness", "right_name": "A. Ness", "score": 1.5}],
        "members": [{"source": "till", "source_key": "7", "name": "Ann Ness"}],
        "register": {"slug": "boat-owners", "name": "Boat owners"},
        "entries": [{"summary": "Decided same: Ann Ness", "actor": "maren", "reason": "she said so", "kind": "decide"}],
    }
    hidden = masked(document, MASKS)
    assert hidden["doubts"] == [{"left_name": MASK, "right_name": MASK, "score": 1.5}]
    assert hidden["members"] == [{"source": "till", "source_key": "7", "name": MASK}]
    assert hidden["register"] == document["register"]
    assert hidden["entries"] == [{"summary": MASK, "actor": "maren", "reason": MASK, "kind": "decide"}]


def test_columns_of_tables() -> None:
    row = {
        "golden_key": "BO-1",
        "phone": "1",
        "phone (all)": "1; 2",
        "email": "x@y.example",
        "name": "Ann",
        "birth_date": "",
    }
    assert masked_row(list(row), row, MASKS) == {**row, "phone": MASK, "phone (all)": MASK, "name": MASK}
