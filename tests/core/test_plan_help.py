"""What helps to write a plan: problems at their place in the text, differences in words, ready-made plans, and one proposed from data."""

from collections.abc import Callable

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.fields import Field, FieldKind, Layout, RegisterKind, default_layout
from oddpair.core.pipeline import run
from oddpair.core.plan import MatchPlan, Pass, default_plan, parse_plan, plan_to_yaml
from oddpair.core.plan.difference import plan_changes
from oddpair.core.plan.places import placed_problems
from oddpair.core.plan.starting import starting_plans
from oddpair.core.plan.text import default_plan_text
from oddpair.core.proposal import propose_plan
from oddpair.core.records import RecordSet
from oddpair.core.tidying import tidy_records

from .strategies import records

KINDS = list(RegisterKind)
TEXT = default_plan_text(RegisterKind.ORGANISATION)
LAYOUT = default_layout(RegisterKind.ORGANISATION)
PLAN = default_plan(RegisterKind.ORGANISATION)


def line_of(text: str, part: str) -> int:
    """The number of the first line, from 1, that holds a part."""
    return next(number for number, line in enumerate(text.splitlines(), start=1) if part in line)


@pytest.mark.parametrize(
    ("old", "new", "says", "stands_at"),
    [
        ("  same: 1.0", "  same: much", "limits.same", "same: much"),
        ("  same: 1.0", "  same: -9", "unsure (-6.0) must not be above same", "unsure: -6.0"),
        (
            "using: organisation_name",
            "using: organisation_nam",
            "no comparison 'organisation_nam'",
            "using: organisation_nam",
        ),
        ("    - phone.end", "    - fone.end", "no tidy field 'fone.end'", "fone.end"),
        ("most_records:", "most_record:", "most_record", "most_record:"),
    ],
)
def test_a_problem_is_told_at_its_line(old: str, new: str, says: str, stands_at: str) -> None:
    text = TEXT.replace(old, new, 1)
    assert text != TEXT
    found = placed_problems(text, LAYOUT)
    problem = next(one for one in found if says in one.says)
    assert problem.line == line_of(text, stands_at)
    assert (problem.last_line, problem.last_column) >= (problem.line, problem.column)


def test_a_right_plan_has_no_problems_and_a_text_that_is_no_yaml_has_one_at_the_break() -> None:
    assert placed_problems(TEXT, LAYOUT) == []
    broken = TEXT.replace("limits:", "limits: {same: 4", 1)
    (problem,) = placed_problems(broken, LAYOUT)
    assert 1 <= problem.line <= len(broken.splitlines()) + 1
    for text in ("", "- a\n- b\n", "just words", "[" * 5000):
        (problem,) = placed_problems(text, LAYOUT)
        assert problem.line == 1


def test_several_problems_are_told_at_once_each_at_its_own_line() -> None:
    text = TEXT.replace("using: phone", "using: fone", 1).replace("    - phone.end", "    - fone.end", 1)
    lines = [problem.line for problem in placed_problems(text, LAYOUT)]
    assert len(lines) == len(set(lines)) == 2


@given(st.text(alphabet="{}[]:-#'\"\n ab1&*!|>%@", max_size=60))
def test_whatever_is_typed_is_answered_with_problems_inside_the_text(text: str) -> None:
    for problem in placed_problems(text, LAYOUT):
        assert problem.says
        assert 1 <= problem.line <= text.count("\n") + 2


def changed(**parts: object) -> MatchPlan:
    return PLAN.model_copy(update=parts)


def phone_with(**parts: object) -> MatchPlan:
    return changed(
        comparisons=tuple(one.model_copy(update=parts) if one.name == "phone" else one for one in PLAN.comparisons)
    )


EDITS: list[tuple[Callable[[], MatchPlan], str]] = [
    (lambda: changed(limits=PLAN.limits.model_copy(update={"same": 2.5})), "limits, same: 1 → 2.5."),
    (lambda: phone_with(strength=0.5), "comparisons 'phone', strength: 1 → 0.5."),
    (lambda: phone_with(learned={"equal": 1.5}), "comparisons 'phone', learned, equal: 1.5, new."),
    (lambda: changed(conditions=PLAN.conditions[:1]), "gone."),
    (lambda: changed(conditions=PLAN.conditions[::-1]), "conditions, order:"),
    (lambda: changed(comparisons=PLAN.comparisons[1:]), "comparisons 'name'"),
    (lambda: changed(passes=(Pass(title="strict"),)), "passes 'strict'"),
    (lambda: changed(title="Others"), "title: "),
]


@pytest.mark.parametrize(("edit", "says"), EDITS)
def test_a_difference_is_told_in_words(edit: Callable[[], MatchPlan], says: str) -> None:
    there = [change.sentence for change in plan_changes(PLAN, edit())]
    assert any(says in sentence for sentence in there), there
    back = plan_changes(edit(), PLAN)
    # The other way round it is as many changes, before and after exchanged.
    assert len(back) == len(there)
    assert {(change.part, change.before, change.after) for change in back} == {
        (change.part, change.after, change.before) for change in plan_changes(PLAN, edit())
    }


@given(st.sampled_from(EDITS), st.sampled_from(EDITS))
def test_a_plan_is_like_itself_and_each_change_is_told_once(
    one: tuple[Callable[[], MatchPlan], str], other: tuple[Callable[[], MatchPlan], str]
) -> None:
    assert plan_changes(one[0](), one[0]()) == ()
    told = plan_changes(one[0](), other[0]())
    assert len(set(told)) == len(told)
    assert bool(told) == (one[0]() != other[0]())


@pytest.mark.parametrize("kind", KINDS)
def test_ready_made_plans_are_right_different_and_say_for_what_they_are(kind: RegisterKind) -> None:
    plans = starting_plans(kind)
    assert [one.name for one in plans] == ["Cautious", "Balanced", "Eager", "Names only", "Contact points first"]
    parsed = {one.name: parse_plan(one.yaml, default_layout(kind)) for one in plans}
    assert parsed["Balanced"] == default_plan(kind)
    limits = [parsed[name].limits.same for name in ("Cautious", "Balanced", "Eager")]
    assert limits == sorted(limits, reverse=True)
    assert len(set(limits)) == 3
    assert len({plan_to_yaml(plan) for plan in parsed.values()}) == 5
    names_only = {rule.field.split(".")[0] for rule in parsed["Names only"].comparisons}
    assert names_only <= {"name", "address"}
    assert [one.title for one in parsed["Contact points first"].passes] == ["contact points", "names and addresses"]
    assert all(one.about and one.about.endswith(".") for one in plans)


ROWS = [
    (
        "till",
        f"{number}",
        {"name": f"{word} Ropes", "phone": f"01632 960{number:03d}", "membership": f"M-{1000 + number // 2}"},
    )
    for number, word in enumerate(["Tern", "Tern", "Skua", "Skua", "Eider", "Petrel", "Gannet", "Fulmar"] * 4)
]


def tidy_of(layout: Layout, rows: list[tuple[str, str, dict[str, str]]] = ROWS) -> RecordSet:
    return tidy_records(layout, records(rows))


def with_membership() -> Layout:
    added = Field(name="membership", label="Membership", kind=FieldKind.IDENTIFIER)
    return Layout(kind=LAYOUT.kind, fields=(*LAYOUT.fields, added))


def test_a_proposed_plan_leaves_out_what_nobody_holds_and_takes_in_what_tells_records_apart() -> None:
    layout = with_membership()
    sample = tidy_of(layout)
    proposal = propose_plan(sample, len(sample), layout, [])
    compared = {rule.name for rule in proposal.plan.comparisons}
    assert {"name", "phone", "membership"} <= compared
    assert not compared & {"email", "tax_number", "web_site"}
    assert parse_plan(proposal.yaml, layout) == proposal.plan
    told = {reason.part for reason in proposal.reasons}
    assert any("membership" in part for part in told)
    # Every reason stands in the text, as a comment.
    assert all(
        f"# {reason.says[:20]}" in proposal.yaml or reason.says[:20] in proposal.yaml for reason in proposal.reasons
    )
    assert run(sample, proposal.plan, are_tidy=True).cluster_count < len(sample)


def test_a_proposed_plan_of_sources_that_promise_no_duplicates_matches_across_them_only() -> None:
    rows = [*ROWS, *(("webshop", f"w{number}", fields) for number, (_, _, fields) in enumerate(ROWS))]
    sample = tidy_of(LAYOUT, [(source, key, {"name": f["name"], "phone": f["phone"]}) for source, key, f in rows])
    both = propose_plan(sample, len(sample), LAYOUT, ["till", "webshop"])
    assert both.plan.blocking.scope == "across sources"
    assert propose_plan(sample, len(sample), LAYOUT, ["till"]).plan.blocking.scope == "all"


def test_a_plan_is_proposed_for_next_to_nothing_too() -> None:
    sample = tidy_of(LAYOUT, [("till", "1", {"name": "Tern"})])
    proposal = propose_plan(sample, 1, LAYOUT, [])
    assert parse_plan(proposal.yaml, LAYOUT) == proposal.plan
    assert proposal.plan.blocking.keys
