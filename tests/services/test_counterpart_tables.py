"""Rows with their counterparts beside them as a table, and how lists are set."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.errors import PlanInvalid, Refused
from oddpair.core.fields import Field, FieldKind, Layout, RegisterKind, default_layout
from oddpair.core.plan import Pass, Scope, default_plan
from oddpair.services.counterparts.settings import ListSettings, settings_of
from oddpair.services.offline.counterpart_table import SAID, Candidate, CounterpartColumns

names = st.sampled_from(
    ["id", "name", "counterpart_id", "counterpart_score", "counterpart_name", "counterpart_id_2", "badge"]
)
LAYOUT = default_layout(RegisterKind.ORGANISATION)
PLAN = default_plan(RegisterKind.ORGANISATION)


@given(st.lists(names, unique=True), st.lists(names, unique=True))
def test_no_column_of_the_file_is_overwritten_and_all_names_differ(own: list[str], kept: list[str]) -> None:
    columns = CounterpartColumns.beside(own, kept)
    assert columns.all[: len(own)] == tuple(own)
    assert len(set(columns.all)) == len(columns.all) == len(own) + len(SAID) + len(kept)
    cells = {name: f"cell of {name}" for name in own}
    told = [
        Candidate(rank, f"CU-{rank}", 9.5, 0.98, "the names are the same", dict.fromkeys(kept, "kept"))
        for rank in (1, 2)
    ]
    lines = list(columns.lines(cells, "several", told))
    assert len(lines) == 2
    for rank, line in enumerate(lines, start=1):
        assert {name: line[name] for name in own} == cells
        assert set(line) <= set(columns.all)
        assert line[columns.said["rank"]] == f"{rank}"
        assert all(line[columns.kept[name]] == "kept" for name in kept)
    assert list(columns.lines(cells, "none", [])) == [{**cells, columns.said["outcome"]: "none"}]


settings = st.builds(
    ListSettings, st.integers(1, 9), st.lists(st.sampled_from(LAYOUT.names), max_size=3).map(tuple),
    st.one_of(st.none(), st.floats(0, 40)), st.one_of(st.none(), st.floats(-40, -1)), st.floats(0, 20), st.booleans(),
)  # fmt: skip


@given(settings)
def test_settings_are_kept_as_they_were_and_fill_up_from_the_plan(chosen: ListSettings) -> None:
    assert settings_of(chosen.document()) == chosen
    assert settings_of({**chosen.document(), "of a later version": 1}) == chosen
    chosen.check(LAYOUT)
    limits = chosen.limits(PLAN)
    assert limits.matched == (PLAN.limits.same if chosen.matched_from is None else chosen.matched_from)
    assert limits.none == (PLAN.limits.unsure if chosen.none_below is None else chosen.none_below)
    assert chosen.plan(LAYOUT, PLAN).scope.one_to_one == chosen.one_to_one


def test_what_cannot_be_set_is_refused() -> None:
    with pytest.raises(Refused, match="Did you mean 'phone'"):
        ListSettings(keep=("fone",)).check(LAYOUT)
    with pytest.raises(Refused, match="above"):
        ListSettings(matched_from=1.0, none_below=2.0).check(LAYOUT)
    with pytest.raises(PlanInvalid):
        ListSettings(yaml="title: x").check(LAYOUT)


def test_a_further_field_becomes_a_pass_on_what_is_ambiguous() -> None:
    layout = Layout(LAYOUT.kind, (*LAYOUT.fields, Field("register_no", FieldKind.IDENTIFIER, "Register number")))
    plan = ListSettings(further=("register_no", "phone")).plan(layout, PLAN)
    assert [one.works_on for one in plan.passes] == ["everything", "ambiguous"]
    # The telephone is compared anyway.
    assert [(rule.field, rule.using) for rule in plan.passes[1].further] == [("register_no", "identifier")]
    assert ListSettings(further=("phone",)).plan(layout, PLAN).passes == ()


def test_a_scope_of_deliveries_does_not_hold_for_rows_of_a_file() -> None:
    strict = Pass(title="strict", scope=Scope(incoming="golden records"))
    in_force = PLAN.model_copy(update={"scope": Scope(incoming="golden records", one_to_one=True), "passes": (strict,)})
    plan = ListSettings().plan(LAYOUT, in_force)
    assert plan.scope == Scope(one_to_one=True)
    assert [own.scope.incoming for _, own in plan.in_order()] == ["anything"]
