"""What the bench learns and measures, on a register in the database: edits that make the learned plan, passes, samples that outlive their plan."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import yaml
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy.orm import Session

from oddpair.core.fields import RegisterKind
from oddpair.core.learning import as_untaught
from oddpair.core.plan import Learning, Limits, MatchPlan, Pass, Probabilities, default_plan, parse_plan, plan_to_yaml
from oddpair.services.bench import lessons, measuring, one_pair, tries
from oddpair.services.bench.benches import Benches, BenchOfRegister
from oddpair.services.bench.lessons import PlanEdit, edits_between
from oddpair.services.bench.whole import effect_of
from oddpair.services.match import plans
from oddpair.store import bench as store
from oddpair.store.database import SessionFactory
from oddpair.store.registers import register_by_slug
from tests.sizes import size

PLAN = default_plan(RegisterKind.ORGANISATION)


def with_edits(text: str, edits: list[PlanEdit]) -> str:
    """A plan's text after edits, as the screen makes them."""
    document = yaml.safe_load(text)
    for edit in edits:
        part: Any = document
        for step in edit.place[:-1]:
            part = part[step]
        if edit.value is None:
            part.pop(edit.place[-1], None)
        else:
            part[edit.place[-1]] = edit.value
    return yaml.safe_dump(document, sort_keys=False)


@st.composite
def learned_plans(draw: st.DrawFn) -> tuple[MatchPlan, MatchPlan]:
    """A plan, in one pass or two, and one that says it has learned something of it."""
    in_passes = draw(st.booleans())
    passes = (Pass(title="sure"), Pass(title="rest", works_on="unmatched", comparisons=PLAN.comparisons))
    plan = PLAN.model_copy(update={"passes": passes}) if in_passes else PLAN
    number = draw(st.integers(0, 1)) if in_passes else 0
    same = draw(st.floats(-5, 5).map(lambda value: round(value, 2)))
    limits = Limits(same=same, unsure=same - 3)
    bits = draw(
        st.dictionaries(
            st.sampled_from(["equal", "different"]), st.floats(0.1, 5).map(lambda value: round(value, 2)), max_size=2
        )
    )
    drop = draw(st.booleans())
    present = plan.of_pass(number)
    clustering = present.clustering.model_copy(update={"least_mean": min(present.clustering.least_mean, same - 1)})
    before = Learning(
        decisions=draw(st.integers(0, 90)), of_pass=number, limits=present.limits, probabilities=plan.probabilities,
        clustering=present.clustering, conditions=present.conditions if drop else None,
    )  # fmt: skip
    own: dict[str, Any] = {"limits": limits, "clustering": clustering}
    if drop:
        own["conditions"] = present.conditions[1:]

    def taught(rules: Any) -> Any:
        return tuple(
            rule.model_copy(update={"learned": bits}) if rule.name in ("name", "phone") else rule for rule in rules
        )

    if not in_passes:
        parts = {**own, "comparisons": taught(plan.comparisons)}
    elif number == 1:
        parts = {
            "passes": (
                plan.passes[0],
                plan.passes[1].model_copy(update={**own, "comparisons": taught(PLAN.comparisons)}),
            )
        }
    else:
        parts = {
            "passes": (plan.passes[0].model_copy(update=own), plan.passes[1]),
            "comparisons": taught(plan.comparisons),
        }
    return plan, plan.model_copy(
        update={**parts, "probabilities": Probabilities(slope=0.8, shift=0.5), "learning": before}
    )


@settings(max_examples=size(everyday=12, long=100))
@given(learned_plans())
def test_edits_make_of_the_one_plan_the_other_and_back(both: tuple[MatchPlan, MatchPlan]) -> None:
    plan, learned = both
    there = with_edits(plan_to_yaml(plan), list(edits_between(plan, learned)))
    assert parse_plan(there) == parse_plan(plan_to_yaml(learned))
    untaught = as_untaught(learned)
    back = with_edits(there, list(edits_between(learned, untaught)))
    assert parse_plan(back) == parse_plan(plan_to_yaml(untaught))
    assert edits_between(plan, plan) == []


@pytest.fixture
def benches(sessions: SessionFactory, tmp_path: Path) -> Iterator[Benches]:
    found = Benches(sessions, tmp_path / "kept")
    yield found
    found.close()


def ready(benches: Benches, sessions: SessionFactory, slug: str, text: str = "") -> BenchOfRegister:
    """A warm bench on which decisions can tell of a plan."""
    benches.settle(slug, text)
    while benches.doing(slug).running:
        pass
    assert not benches.doing(slug).error
    own = benches.needed(slug)
    with sessions() as session:
        own.bench.settle_undecided(as_untaught(tries.asked_for(session, slug, "").against))
    return own


def asked(session: Session, slug: str, text: str = "", number: int = 0) -> tries.Asked:
    return tries.asked_for(session, slug, text, number=number)


TWO_PASSES = plan_to_yaml(
    PLAN.model_copy(
        update={
            "passes": (
                Pass(title="sure", limits=Limits(same=14.0, unsure=10.0)),
                Pass(title="rest", works_on="unmatched"),
            )
        }
    )
)


def test_each_pass_is_tried_measured_and_taught_by_itself(
    customers: str, sessions: SessionFactory, benches: Benches
) -> None:
    own = ready(benches, sessions, customers, TWO_PASSES)
    with sessions() as session:
        for number, title in enumerate(("sure", "rest")):
            wanted = asked(session, customers, TWO_PASSES, number)
            tried = tries.try_plan(own, wanted)
            assert (tried.number, tried.passes) == (number, ("sure", "rest"))
            assert tried.same_limit == wanted.plan.of_pass(number).limits.same
            assert measuring.measure_plan(session, customers, own, wanted).own.limit == tried.same_limit
            pairs = lessons.pairs_to_ask(session, customers, own, wanted, many=5, wrong_weighs=1.0)
            assert len(pairs) == 5
            lesson = lessons.learn(session, customers, own, wanted, 1.0)
            learned = parse_plan(lesson.yaml)
            assert learned.learning is not None
            assert learned.learning.of_pass == number
            assert learned.passes[number].title == title
            assert learned.of_pass(number).limits.same == lesson.same_from


def test_a_sample_outlives_the_plan_it_was_drawn_by(customers: str, sessions: SessionFactory, benches: Benches) -> None:
    own = ready(benches, sessions, customers)
    with sessions.begin() as session:
        drawn = measuring.draw_sample(
            session, customers, own, asked(session, customers), many=20, anew=False, actor="ann"
        )
        looser = plan_to_yaml(PLAN.model_copy(update={"limits": Limits(same=0.5, unsure=-6.0)}))
        plans.save_plan(session, customers, yaml=looser, seen_version=1, note="", actor="ann")
    with sessions.begin() as session:
        measured = measuring.measure_plan(session, customers, own, asked(session, customers))
        assert (measured.drawn, measured.drawn_by, measured.against_version) == (drawn, "ann", 2)
        # What the sample was drawn by is no plan of this register any more: another one is begun.
        register = register_by_slug(session, customers)
        row = store.sample_of(session, register.id, measuring.MEASURE)
        assert row is not None
        row.yaml = row.yaml.replace("kind: organisation", "kind: person")
    with sessions.begin() as session:
        assert measuring.measure_plan(session, customers, own, asked(session, customers)).drawn == 0
        again = measuring.draw_sample(
            session, customers, own, asked(session, customers), many=10, anew=False, actor="bo"
        )
        assert measuring.measure_plan(session, customers, own, asked(session, customers)).drawn == again


def test_the_effect_of_a_plan_is_told_without_a_bench_that_is_kept(customers: str, sessions: SessionFactory) -> None:
    loose = plan_to_yaml(PLAN.model_copy(update={"limits": Limits(same=-3.0, unsure=-6.0)}))
    stages: list[str] = []
    effect = effect_of(sessions, customers, loose, 0, lambda stage, done, total: stages.append(stage))
    assert "compare" in stages
    same = effect_of(sessions, customers, plan_to_yaml(PLAN), 0, lambda *_: None)
    assert effect.pairs["same"] == same.pairs["same"] + effect.against["gained"] - effect.against["lost"]
    assert effect.golden_records <= same.golden_records
    assert set(same.against.values()) == {0, 1}
    assert (same.f1_gained["low"], same.f1_gained["high"]) == (0, 0)
    assert effect.report()["quality"]["recall"]["value"] >= same.report()["quality"]["recall"]["value"] - 0.02


def test_one_pair_is_told_the_same_from_either_side(customers: str, sessions: SessionFactory, benches: Benches) -> None:
    own = ready(benches, sessions, customers)
    with sessions() as session:
        wanted = asked(session, customers)
        ids = own.ids[:6].tolist()
        for left in ids[:3]:
            for right in ids[3:]:
                one, other = one_pair.Side(left, {}), one_pair.Side(right, {})
                there = one_pair.one_pair(session, customers, own, wanted, one, other)
                back = one_pair.one_pair(session, customers, own, wanted, other, one)
                assert (there.score, there.verdict, there.lost_at) == (back.score, back.verdict, back.lost_at)
                assert [(key.left, key.right) for key in there.keys] == [(key.right, key.left) for key in back.keys]
                assert {form.field: (form.left, form.right) for form in there.tidy} == {
                    form.field: (form.right, form.left) for form in back.tidy
                }
        # A record beside itself, and one that is typed, are judged beside a part of the register.
        alike = one_pair.one_pair(
            session, customers, own, wanted, one_pair.Side(ids[0], {}), one_pair.Side(None, {"name": "Tern"})
        )
        assert not alike.by_register
