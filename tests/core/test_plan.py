import pytest

from oddpair.core.errors import PlanInvalid
from oddpair.core.fields import RegisterKind
from oddpair.core.plan import default_plan, parse_plan, plan_to_yaml
from oddpair.core.plan.text import default_plan_text


@pytest.mark.parametrize("kind", list(RegisterKind))
def test_default_plans_are_valid_and_survive_a_round_trip(kind: RegisterKind) -> None:
    plan = default_plan(kind)
    assert parse_plan(plan_to_yaml(plan)) == plan


def test_every_problem_is_reported_at_once_with_near_misses() -> None:
    text = default_plan_text(RegisterKind.ORGANISATION)
    text = (
        text.replace("- phone.end", "- phon.end")
        .replace("using: phone", "using: fone")
        .replace("unsure: -6.0", "unsure: 33.0")
    )
    text = text.replace("level: contradicting", "level: contradictng", 1)
    with pytest.raises(PlanInvalid) as caught:
        parse_plan(text)
    told = "; ".join(caught.value.problems)
    for part in (
        "'phon.end'",
        "Did you mean 'phone.end'",
        "no comparison 'fone'",
        "unsure (33.0) must not be above same",
        "Did you mean 'contradicting'",
    ):
        assert part in told


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("title: [", "not readable as YAML"),
        ("- 1", "must be a mapping"),
        ("title: x\nkind: boat", "kind"),
        ("{}", "Field required"),
    ],
)
def test_broken_documents_get_a_clear_message(text: str, told: str) -> None:
    with pytest.raises(PlanInvalid, match=told):
        parse_plan(text)
