"""Two records compared on the spot: the same from both sides, what was learned of others beside, and where they were lost."""

from itertools import combinations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.plan import default_plan
from oddpair.core.records import RecordSet, RecordSetBuilder
from oddpair.core.spot import LostAt, OnTheSpot, compare_on_the_spot
from oddpair.core.tidying import tidy_records

from .strategies import row

KIND = RegisterKind.ORGANISATION
PLAN = default_plan(KIND)
ROWS = [
    {
        "name": "Skua Rope Works Ltd",
        "address.line": "14 Harbour Street",
        "address.city": "Oban",
        "phone": "01631 960001",
    },
    {"name": "SKUA ROPE WORKS", "address.line": "14 HARBOUR ST", "address.city": "OBAN", "phone": "+44 1631 960001"},
    {"name": "Tern Sails", "address.line": "3 Quay Road", "address.city": "Wick", "phone": "01955 960002"},
    {"name": "Kittiwake Chandlery", "address.city": "Whitby", "email": "office@kittiwake.example"},
    {"name": "Razorbill Marine Paints", "address.city": "Leith"},
]


def tidy(rows: list[dict[str, str]]) -> RecordSet:
    builder = RecordSetBuilder()
    for number, values in enumerate(rows):
        builder.add("till", f"{number:04}", values)
    return tidy_records(default_layout(KIND), builder.build(), lambda *_: None)


def compared(one: int, other: int, *, may_meet: bool = True, total: int = 10**6) -> OnTheSpot:
    return compare_on_the_spot(tidy(ROWS), PLAN, one, other, may_meet=may_meet, total=total)


def test_records_that_a_run_would_bring_together_say_so() -> None:
    found = compared(0, 1)
    assert found.lost_at is LostAt.NOWHERE
    assert found.score > PLAN.limits.same
    assert "phone.end" in found.keys
    assert "phone is the same" in found.reason


@pytest.mark.parametrize(
    ("one", "other", "asked", "lost_at", "says"),
    [
        (0, 2, {}, LostAt.KEYS, "no blocking key"),
        (0, 2, {"total": 500}, LostAt.SCORE, "too little"),
        (0, 1, {"may_meet": False}, LostAt.SOURCES, "not compared with each other"),
    ],
)
def test_it_is_told_where_records_were_lost(
    one: int, other: int, asked: dict[str, int], lost_at: LostAt, says: str
) -> None:
    found = compared(one, other, **asked)  # type: ignore[arg-type]
    assert found.lost_at is lost_at
    assert says in found.says
    assert found.among == len(ROWS)


@pytest.mark.parametrize(("one", "other"), list(combinations(range(len(ROWS)), 2)))
def test_all_evidence_adds_up_and_sides_do_not_count(one: int, other: int) -> None:
    found = compared(one, other)
    assert sum(item.bits for item in found.evidence) == pytest.approx(found.score, abs=0.1)
    assert compared(other, one) == found


@given(st.lists(row(), min_size=2, max_size=6), st.data())
def test_any_two_records_can_be_compared(rows: list[dict[str, str]], data: st.DataObject) -> None:
    records = tidy(rows)
    one = data.draw(st.integers(0, len(rows) - 2))
    other = data.draw(st.integers(one + 1, len(rows) - 1))
    found = compare_on_the_spot(records, PLAN, one, other, may_meet=True, total=len(rows))
    assert found.says
    assert found.reason.endswith((".", "vetoes"))
    assert compare_on_the_spot(records, PLAN, other, one, may_meet=True, total=len(rows)) == found
