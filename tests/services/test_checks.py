"""What a check finds by its index is what a person would find who looked at every record."""

from collections.abc import Mapping, Sequence
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from oddpair.core.fields import RegisterKind
from oddpair.core.tidying import tidy_row
from oddpair.services.entering.checks import HOWS, Part, look_into, put_in_force, remove
from oddpair.services.golden import merge
from oddpair.services.match import run_plan
from oddpair.services.registers import registers
from oddpair.services.standing.look_up import Candidate
from oddpair.store.database import SessionFactory

from ..states.registers import bring, nothing

FIELDS = ("name", "phone", "email", "address.city", "tax_number")
NAMES = ("Kestrel Ropes", "Kestrel Rope's & Søn", "ÅRLIG Båt", "O'Hara: Sails", "100% Knots", "back\\slash", "ΣΑΛΠΙΓΞ")
TOWNS = ("Oban", "Ø", "Port 1", "")
VALUES = {
    "name": st.sampled_from(NAMES), "phone": st.sampled_from(("01632 960001", "+44 1632 960001", "960002", "")),
    "email": st.sampled_from(("a@x.example", "A@X.example", "b:c@x.example", "")), "address.city": st.sampled_from(TOWNS),
    "tax_number": st.sampled_from(("GB980780684", "980780684", "1'2", "")),
}  # fmt: skip
RECORDS = st.fixed_dictionaries(VALUES)
PARTS = st.builds(
    Part, st.sampled_from([how for how in HOWS if not how.startswith("plan")]), st.sampled_from(FIELDS), st.integers(1, 8)
)  # fmt: skip


@pytest.fixture(scope="module")
def rows() -> list[dict[str, str]]:
    found = []
    for number, name in enumerate(NAMES * 3):
        phone = f"01632 96000{number % 4}" if number % 3 else ""
        mail = f"{'ab'[number % 2]}@X.example" if number % 5 else "b:c@x.example"
        tax = ("GB980780684", "1'2", "")[number % 3]
        found.append(
            {"name": name, "phone": phone, "email": mail, "address.city": TOWNS[number % 4], "tax_number": tax}
        )
    return found


@pytest.fixture
def slug(sessions: SessionFactory, deliveries: Path, tmp_path: Path, rows: list[dict[str, str]]) -> str:
    with sessions.begin() as session:
        slug = registers.make_register(session, "Customers", RegisterKind.ORGANISATION).slug
    import csv

    path = tmp_path / "till.csv"
    with path.open("w", encoding="utf-8", newline="") as out:
        csv.writer(out).writerows([["id", "company", "phone", "email", "town", "tax number"], *(
            [f"t{n}", *row.values()] for n, row in enumerate(rows)
        )])  # fmt: skip
    bring(sessions, slug, path, deliveries)
    run_plan.run_plan(sessions, slug, nothing)
    merge.merge(sessions, slug, actor="ann")
    return slug


def taken(part: Part, tidy: Mapping[str, str], fields: Mapping[str, str]) -> str | None:
    """Return what a part takes of a record, None where it says nothing."""
    value = (tidy.get(part.field) or fields.get(part.field) or "").lower()
    if part.how == "same":
        return value or None
    letters = value.replace(" ", "")
    if not value or len(letters) < part.letters:
        return None
    return letters[: part.letters] if part.how == "first" else letters[-part.letters :]


def agrees(parts: Sequence[Part], *sides: tuple[Mapping[str, str], Mapping[str, str]]) -> bool:
    one, other = ([taken(part, *side) for part in parts] for side in sides)
    return one == other and None not in one


def test_a_check_finds_whoever_agrees_in_all_its_parts(
    sessions: SessionFactory, slug: str, rows: list[dict[str, str]]
) -> None:
    with sessions() as session:
        _, layout = registers.register_with_layout(session, slug)
    records = [(tidy_row(layout, row), row) for row in rows]

    @settings(max_examples=80, deadline=None)
    @given(st.lists(PARTS, min_size=1, max_size=3), RECORDS)
    def finds(parts: list[Part], asked: dict[str, str]) -> None:
        asked = {name: value for name, value in asked.items() if value}
        side = tidy_row(layout, asked), asked
        expected = any(agrees(parts, side, record) for record in records)
        with sessions() as session:
            check = put_in_force(session, slug, parts, forbids=False, actor="ann")
            register, _ = registers.register_with_layout(session, slug)
            told = look_into(session, register, asked, [])
            assert bool(told) == expected, (parts, asked)
            remove(session, slug, check.id, actor="ann")
            assert look_into(session, register, asked, []) == []

    finds()


def test_a_check_by_the_plan_goes_by_what_the_look_up_says(sessions: SessionFactory, slug: str) -> None:
    empty: dict[str, str] = {}
    sure = Candidate("CU-00001", 1, 9.0, 0.99, "same", "", empty, empty, empty, {})
    unsure = Candidate("CU-00002", 1, 1.0, 0.5, "unsure", "", empty, empty, empty, {})
    with sessions.begin() as session:
        put_in_force(session, slug, [Part("plan same")], forbids=True, actor="ann")
        put_in_force(session, slug, [Part("plan unsure")], forbids=False, actor="ann")
        register, _ = registers.register_with_layout(session, slug)
        told = [
            (list(one.golden_keys), one.forbids) for one in look_into(session, register, {"name": "x"}, [sure, unsure])
        ]
        assert told == [(["CU-00001"], True), (["CU-00001", "CU-00002"], False)]
        assert [one.forbids for one in look_into(session, register, {"name": "x"}, [unsure])] == [False]
