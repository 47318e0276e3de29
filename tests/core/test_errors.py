"""Messages hold the offending value and the way out; people read them."""

import inspect

import pytest

from oddpair.core import errors
from oddpair.core.errors import (
    Cancelled,
    InputError,
    MappingInvalid,
    NotFound,
    OddPairError,
    PlanInvalid,
    did_you_mean,
)


@pytest.mark.parametrize(
    ("error", "message"),
    [
        (InputError("the file is empty", file="a.csv"), "a.csv: the file is empty"),
        (
            InputError("the id is missing", file="a.csv", row=17, column="no"),
            "a.csv, row 17, column 'no': the id is missing",
        ),
        (InputError("too large"), "too large"),
        (InputError("odd", row=0), "row 0: odd"),
        (NotFound("register", "nope"), "There is no register 'nope'."),
        (NotFound("delivery", 7), "There is no delivery '7'."),
        (PlanInvalid(["a", "b"]), "The match plan is not valid: a; b"),
        (MappingInvalid(iter(["a"])), "The column mapping is not valid: a"),
        (Cancelled(), "Cancelled on request; nothing of this work was kept."),
    ],
)
def test_messages_name_the_place_and_the_trouble(error: OddPairError, message: str) -> None:
    assert str(error) == message


def test_errors_keep_their_parts_for_those_who_translate_them() -> None:
    error = InputError("the id is missing", file="a.csv", row=17, column="no")
    assert (error.problem, error.file, error.row, error.column) == ("the id is missing", "a.csv", 17, "no")
    assert PlanInvalid(["a", "b"]).problems == ("a", "b")
    assert (NotFound("x", 1).what, NotFound("x", 1).name) == ("x", "1")


@pytest.mark.parametrize(
    ("name", "known", "expected"),
    [
        ("nmae", ["name", "phone"], " Did you mean 'name'?"),
        ("fone", ["name", "phone"], " Did you mean 'phone'?"),
        ("zzzzzz", ["name", "phone"], ""),
        ("name", [], ""),
    ],
)
def test_a_near_miss_is_suggested(name: str, known: list[str], expected: str) -> None:
    assert did_you_mean(name, known) == expected


def test_suggestions_do_not_depend_on_the_order_of_what_is_known() -> None:
    known = ["name", "game", "same", "fame"]
    assert did_you_mean("xame", known) == did_you_mean("xame", list(reversed(known)))


def test_the_tree_at_the_top_of_the_module_shows_every_error() -> None:
    drawn = inspect.getdoc(errors) or ""
    for name, cls in vars(errors).items():
        if isinstance(cls, type) and issubclass(cls, OddPairError) and name != "ProblemList":
            assert name in drawn, f"{name} is missing in the tree"
            assert cls.__doc__


def test_every_error_of_ours_is_an_odd_pair_error() -> None:
    classes = [cls for cls in vars(errors).values() if isinstance(cls, type) and issubclass(cls, Exception)]
    assert classes
    assert all(issubclass(cls, OddPairError) for cls in classes)
