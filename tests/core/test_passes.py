from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.clustering import Decisions
from oddpair.core.errors import PlanInvalid
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.pass_table import Outcome, packed
from oddpair.core.pipeline import MatchResult, run
from oddpair.core.plan import MatchPlan, Pass, Scope, default_plan, parse_plan, plan_to_yaml
from oddpair.core.records import RecordSet
from oddpair.core.scope import Known

from .strategies import record_sets, records

PLAN = default_plan(RegisterKind.ORGANISATION)
STRICT = PLAN.limits.model_copy(update={"same": 20.0, "unsure": 8.0})
Rows = list[tuple[str, str, dict[str, str]]]

scopes = st.sampled_from(
    [Scope(), Scope(one_to_one=True), Scope(one_side={"address.city": ("Whitby",)}), Scope(one_to_one=True, margin=0.0)]
)
later_passes = st.lists(
    st.builds(
        Pass, title=st.just("x"), works_on=st.sampled_from(["everything", "unmatched", "one unmatched", "ambiguous"]),
        limits=st.sampled_from([None, STRICT]), scope=scopes,
    ),
    max_size=2,
)  # fmt: skip


#: Few pairs share these keys, and no small list is compared whole: a later pass compares again what it would not find itself.
FEW_KEYS = PLAN.blocking.model_copy(update={"keys": ("phone.end", "email"), "every_pair_up_to": 0})
later_passes = later_passes | later_passes.map(
    lambda passes: [one.model_copy(update={"blocking": FEW_KEYS}) for one in passes]
)


def plan_of(passes: list[Pass]) -> MatchPlan:
    titled = [one.model_copy(update={"title": f"pass {number}"}) for number, one in enumerate(passes)]
    return PLAN.model_copy(update={"passes": (Pass(title="strict", limits=STRICT), *titled)})


def told(result: MatchResult) -> tuple:
    pairs = result.pairs
    columns = (pairs.left, pairs.right, pairs.scored.bits.round(3), pairs.same, pairs.passed)
    outcomes = packed([one.outcomes for one in result.passes])
    return *(column.tolist() for column in columns), result.labels.tolist(), outcomes.tolist()


@given(record_sets(most=14), later_passes, st.randoms(use_true_random=False))
def test_passes_do_not_depend_on_the_order_of_rows_and_never_undo(
    rows: Rows, passes: list[Pass], random: Random
) -> None:
    plan = plan_of(passes)
    result = run(records(rows), plan)
    shuffled = rows.copy()
    random.shuffle(shuffled)
    assert told(run(records(shuffled), plan)) == told(result)
    together = result.labels[:, None] == result.labels[None, :]
    for number in range(1, len(plan.passes)):
        earlier = run(records(rows), plan.model_copy(update={"passes": plan.passes[:number]})).labels
        assert together[earlier[:, None] == earlier[None, :]].all()


@given(record_sets(most=14), later_passes)
def test_counts_of_passes_add_up_and_every_record_has_one_outcome(rows: Rows, passes: list[Pass]) -> None:
    result = run(records(rows), plan_of(passes))
    for one in result.passes:
        counts = one.counts()
        assert counts.pop("in") == sum(counts.values())
    # Who is the same was found so in one pass only, and is so at the end.
    found = sum((one.outcomes == Outcome.SAME).astype(int) for one in result.passes)
    assert found.tolist() == (np.bincount(result.labels)[result.labels] > 1).astype(int).tolist()


@given(record_sets(most=14))
def test_a_single_pass_that_says_nothing_is_the_plan_itself(rows: Rows) -> None:
    with_pass = PLAN.model_copy(update={"passes": (Pass(title="all"),)})
    assert told(run(records(rows), with_pass)) == told(run(records(rows), PLAN))


def firm(name: str, **fields: str) -> dict[str, str]:
    return {"name": name, **{key.replace("_", "."): value for key, value in fields.items()}}


def with_bystanders(rows: Rows) -> Rows:
    return rows + [
        ("till" if n % 2 else "webshop", f"b{n:03d}", firm(f"Bystander {n} Number{n * 7}")) for n in range(60)
    ]


def find(found: RecordSet, record: str) -> int:
    return found.ids.index(record)


def test_a_later_pass_settles_by_another_column_what_was_ambiguous() -> None:
    rows = with_bystanders(
        [
            ("till", "a", firm("Kestrel Rope Walk", phone="01632 960001")),
            ("webshop", "b", firm("Kestrel Rope Walk", phone="01632 960001")),
            ("webshop", "c", firm("Kestrel Rope Walk", phone="01632 960777")),
        ]
    )
    by_name = tuple(rule for rule in PLAN.comparisons if rule.field == "name")
    by_phone = tuple(rule for rule in PLAN.comparisons if rule.field == "phone")
    decisive = PLAN.limits.model_copy(update={"same": 5.0, "unsure": 0.0})
    names = PLAN.model_copy(update={
        "comparisons": by_name, "vetoes": (), "correlated": (), "conditions": (),
        "limits": PLAN.limits.model_copy(update={"same": 14.0, "unsure": -2.0}),
        "weights": PLAN.weights.model_copy(update={"contest": "none"}),
        "passes": (
            Pass(title="names"),
            Pass(title="phones", works_on="ambiguous", further=by_phone, limits=decisive),
        ),
    })  # fmt: skip
    result = run(records(rows), names)
    first, second = result.passes
    a, b, c = (find(result.records, record) for record in "abc")
    assert first.outcomes[a] == Outcome.SEVERAL
    assert second.counts()["in"] == int((first.outcomes >= Outcome.SEVERAL).sum()) - int(
        (first.outcomes == Outcome.LEFT).sum()
    )
    assert second.outcomes[a] == second.outcomes[b] == Outcome.SAME
    assert result.labels[a] == result.labels[b] != result.labels[c]
    of_phones = result.pairs.passed == 1
    assert of_phones.any()
    assert (result.pairs.scored.levels[-1, ~of_phones] == 0).all()


def test_one_to_one_gives_every_record_one_counterpart_or_several_where_it_is_close() -> None:
    rows = with_bystanders(
        [
            ("till", "a", firm("Kestrel Rope Walk", address_line="1 Quay Street", address_city="Whitby")),
            ("webshop", "b", firm("Kestrel Rope Walk", address_line="1 Quay Street", address_city="Whitby")),
            ("till", "c", firm("Marram Sail Loft", address_line="2 Quay Street", address_city="Whitby")),
            ("webshop", "d", firm("Marram Sail Loft", address_line="2 Quay Street", address_city="Whitby")),
            ("webshop", "e", firm("Marram Sail Loft", address_line="2 Quay Street", address_city="Whitby")),
        ]
    )
    plan = PLAN.model_copy(update={"scope": Scope(one_to_one=True)})
    result = run(records(rows), plan)
    a, b, c, d, e = (find(result.records, record) for record in "abcde")
    assert result.labels[a] == result.labels[b]
    assert len({int(result.labels[one]) for one in (c, d, e)}) == 3
    assert result.first.outcomes[[c, d]].tolist() == [Outcome.SEVERAL, Outcome.UNSURE]
    decided = {find(result.records, "c"), find(result.records, "d")}
    same = Decisions(np.array([sorted(decided)], dtype=np.int32), np.zeros((0, 2), dtype=np.int32))
    settled = run(records(rows), plan, decisions=same)
    assert settled.labels[c] == settled.labels[d] != settled.labels[e]
    assert settled.first.outcomes[e] == Outcome.LEFT


def test_a_scope_lets_only_two_sides_meet() -> None:
    rows = [
        (source, f"{n}", firm("Tern Rope Works", phone="01632 960001"))
        for n, source in enumerate(["till", "webshop"] * 3)
    ]
    count = len(rows)
    known = Known(
        np.where(np.arange(count) < 3, 5, -1).astype(np.int64), np.array(["2026-01-01"] * 4 + ["2026-11-01"] * 2, dtype="datetime64[us]")
    )  # fmt: skip
    incoming = run(records(rows), PLAN.model_copy(update={"scope": Scope(incoming="golden records")}), known=known)
    assert incoming.compared == 9
    # Golden records stay together although their records met nobody of their own.
    assert len({int(incoming.labels[place]) for place in range(3)}) == 1
    since = PLAN.model_copy(update={"scope": Scope.model_validate({"since": "2026-11-01T01:00:00+01:00"})})
    assert run(records(rows), since, known=known).compared == 9
    with pytest.raises(PlanInvalid, match="files alone"):
        run(records(rows), since)


def test_a_filter_on_either_side() -> None:
    rows = [
        ("till", f"{n}", firm("Tern Rope Works", address_city=city))
        for n, city in enumerate(["Whitby", "Bergen", "Bergen"])
    ]
    plan = PLAN.model_copy(update={"scope": Scope(one_side={"address.city": ("WHITBY",)})})
    assert run(records(rows), plan).compared == 2
    both = PLAN.model_copy(
        update={"scope": Scope(one_side={"address.city": ("bergen",)}, other_side={"address.city": ("bergen",)})}
    )
    result = run(records(rows), both)
    assert result.compared == 1
    assert result.first.counts()["in"] == 2


def test_plans_with_passes_are_read_written_and_checked() -> None:
    plan = plan_of([Pass(title="loose", works_on="unmatched", scope=Scope(one_to_one=True))])
    again = parse_plan(plan_to_yaml(plan))
    assert again == plan.model_copy(update={"passes": again.passes})
    assert [one.title for one, _ in again.in_order()] == ["strict", "pass 0"]
    document = plan_to_yaml(plan)
    wrong = {
        "title: strict": ("title: strict\n  works_on: unmatched", "first pass works on everything"),
        "title: pass 0": ("title: strict", "two are called 'strict'"),
        "one_to_one: true": ("one_side: {address.cit: [Whitby]}", "no tidy field 'address.cit'"),
    }
    for old, (new, problem) in wrong.items():
        with pytest.raises(PlanInvalid, match=problem):
            parse_plan(
                document.replace(old, new, 1) if "works_on" in old else new.join(document.rsplit(old, 1)),
                default_layout(RegisterKind.ORGANISATION),
            )
