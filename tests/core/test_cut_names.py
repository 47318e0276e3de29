"""Names that a narrow column cuts, and that go on in the next one."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.errors import MappingInvalid
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.mapping import (
    Assignment,
    ColumnSample,
    apply_mapping,
    assignment_from,
    join_continued,
    propose_mapping,
    proposed_mapping,
    with_names_that_go_on,
)
from oddpair.core.mapping.cut_names import joined

WIDTH = 20
WORDS = st.text("bcdklmnt", min_size=2, max_size=WIDTH - 1)
NAMES = [
    "Skua Harbour Instruments Ltd", "Tern Rope Works and Sons GmbH", "Gannet Chandlers over Northern Isles", "Petrel Paint",
    "Otter Boatyard Maintenance Services Ltd", "Dunlin Charts",
]  # fmt: skip


def cut(name: str, within_words: bool) -> tuple[str, str]:
    """Return a name as a file of narrow columns holds it."""
    at = WIDTH if within_words or len(name) <= WIDTH else name.rfind(" ", 0, WIDTH + 1)
    return name[:at].strip(), name[at:].strip()


def proposed(rows: list[tuple[str, str]]) -> tuple[Assignment, ...]:
    samples = []
    for header, values in (("NAME1", [one for one, _ in rows]), ("NAME2", [two for _, two in rows])):
        places = tuple(place for place, value in enumerate(values) if value)
        samples.append(ColumnSample(header, tuple(values[place] for place in places), len(rows), places))
    mapping = proposed_mapping(propose_mapping(default_layout(RegisterKind.ORGANISATION), samples))
    assert with_names_that_go_on(mapping, samples) == mapping
    return mapping


@given(st.lists(WORDS, min_size=1, max_size=6).map(" ".join), st.booleans())
def test_a_cut_name_is_joined_as_it_was(name: str, within_words: bool) -> None:
    before, behind = cut(name, within_words)
    whole = joined(before, behind, WIDTH)
    assert (whole or before).replace(" ", "") == name.replace(" ", "")
    if not within_words:
        assert (whole or before).split() == name.split() or len(before) == WIDTH


@pytest.mark.parametrize("within_words", [True, False])
def test_names_that_go_on_are_found_by_their_rows_and_joined(within_words: bool) -> None:
    rows = [cut(name, within_words) for name in NAMES]
    mapping = proposed(rows)
    assert [(item.column, item.continues) for item in mapping] == [("NAME1", 0), ("NAME2", WIDTH)]
    read = [apply_mapping(mapping, {"NAME1": one, "NAME2": two})[1] for one, two in rows]
    assert read == [{"name": name} for name in NAMES]


def test_a_second_name_behind_one_that_is_not_full_is_another_name() -> None:
    traded = [
        ("Skua Instruments Ltd", "Harbour Charts"),
        ("Tern & Sons", "Rope House"),
        ("Gannet", "The Lamp"),
        ("Otter", ""),
    ]
    mapping = proposed(traded)
    assert [item.continues for item in mapping] == [0, 0]
    assert apply_mapping(mapping, {"NAME1": "Gannet", "NAME2": "The Lamp"})[1] == {
        "name": "Gannet",
        "name#2": "The Lamp",
    }
    among_cut = proposed([cut(name, True) for name in NAMES])
    assert apply_mapping(among_cut, {"NAME1": "Gannet", "NAME2": "The Lamp"})[1]["name#2"] == "The Lamp"


def test_a_second_column_of_names_may_be_empty_and_a_told_width_stays() -> None:
    mapping = proposed([(name, "") for name in NAMES])
    assert all(item.continues == 0 for item in mapping)
    told = (Assignment("name", "NAME1"), Assignment("name", "NAME2", continues=35))
    samples = [ColumnSample("NAME1", ("Tern", "Skua"), 2, (0, 1)), ColumnSample("NAME2", (), 2)]
    assert with_names_that_go_on(told, samples) == told


def test_a_name_may_go_on_twice() -> None:
    mapping = (Assignment("name", "1"), Assignment("name", "2", continues=10), Assignment("name", "3", continues=10))
    row = {"1": "Skua Harbo", "2": "ur Instrum", "3": "ents Ltd"}
    assert apply_mapping(mapping, row)[1] == {"name": "Skua Harbour Instruments Ltd"}


def test_a_file_may_lack_the_column_in_which_names_go_on() -> None:
    mapping = (Assignment("name", "1"), Assignment("name", "2", continues=10))
    values = {"name": ["Skua Harbo"]}
    join_continued(mapping, values)
    assert values == {"name": ["Skua Harbo"]}


@pytest.mark.parametrize("wrong", [-1, 1001, "20", True])
def test_how_many_letters_a_column_holds_is_a_number(wrong: object) -> None:
    with pytest.raises(MappingInvalid, match="continues"):
        assignment_from({"field": "name", "column": "NAME2", "continues": wrong})
