from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddpair.core.clustering import Decisions
from oddpair.core.counterparts import Asked, Found, Limits, Verdict, find_counterparts
from oddpair.core.counterparts.verdicts import VERDICTS, ranked
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.pipeline import run
from oddpair.core.plan import Pass, default_plan
from oddpair.core.records import RecordSet
from oddpair.core.tidying import tidy_records

from .strategies import record_sets, records

PLAN = default_plan(RegisterKind.ORGANISATION)
Rows = list[tuple[str, str, dict[str, str]]]


def tidy(rows: Rows) -> RecordSet:
    return tidy_records(default_layout(RegisterKind.ORGANISATION), records(rows))


def told(found: Found, names: RecordSet) -> list[tuple]:
    told = found.counterparts
    texts, which = found.reasons
    verdicts = [(names.ids[found.first + row], found.verdict(row)) for row in range(len(told.verdicts))]
    lines = zip(told.rows, told.records, told.ranks, found.scores.round(3), which, strict=True)
    return verdicts + [
        (names.ids[found.first + a], names.ids[b], int(rank), float(s), texts[w]) for a, b, rank, s, w in lines
    ]


def firm(name: str, phone: str = "", city: str = "") -> dict[str, str]:
    return {"name": name, "phone": phone, "address.city": city}


def others(count: int = 40) -> Rows:
    return [("webshop", f"x{n:02d}", firm(f"Bystander {n} Number{n * 7}")) for n in range(count)]


@given(record_sets(most=16), st.integers(1, 3), st.randoms(use_true_random=False))
def test_counterparts_do_not_depend_on_the_order_of_rows(rows: Rows, best: int, random: Random) -> None:
    limits = Limits(4.0, -4.0, 3.0, best)
    shuffled = rows.copy()
    random.shuffle(shuffled)
    one, other = tidy(rows), tidy(shuffled)
    asked = [told(find_counterparts(Asked(each, "till"), PLAN, limits=limits), each) for each in (one, other)]
    assert asked[0] == asked[1]


@given(record_sets(most=16))
def test_every_row_has_one_verdict_and_candidates_that_fit_it(rows: Rows) -> None:
    names = tidy(rows)
    found = find_counterparts(Asked(names, "till"), PLAN, limits=Limits(4.0, -4.0, best=9))
    told, asking = found.counterparts, sum(source == "till" for source, _, _ in rows)
    assert len(told.verdicts) == asking == found.counts[-1]["in"] == sum(list(found.counts[-1].values())[1:])
    assert all(names.source_of(record) == "webshop" for record in told.records.tolist())
    counted = np.bincount(told.rows, minlength=asking) if asking else np.zeros(0, int)
    for row in range(asking):
        assert (counted[row] == 0) == (found.verdict(row) is Verdict.NONE)
        assert told.ranks[told.rows == row].tolist() == list(range(1, counted[row] + 1))
        scores = found.scores[told.rows == row].tolist()
        assert scores == sorted(scores, reverse=True)


candidates = st.lists(
    st.tuples(st.integers(0, 3), st.integers(0, 5), st.integers(-20, 40).map(lambda bits: bits / 2)),
    unique_by=lambda pair: pair[:2], max_size=16,
)  # fmt: skip


@given(candidates, st.lists(st.integers(0, 3), min_size=6, max_size=6), st.integers(0, 5))
def test_verdicts_are_what_their_words_say(pairs: list, groups: list[int], margin: int) -> None:
    columns = [np.array(column) for column in zip(*pairs, strict=True)] if pairs else [np.zeros(0, int)] * 3
    rows, others = columns[0].astype(np.int32), columns[1].astype(np.int32)
    of = np.array(groups, dtype=np.int32)[others]
    limits = Limits(5.0, -2.0, float(margin), 2)
    outcome = ranked(rows, others, columns[2].astype(float), of, count=4, limits=limits)
    for row in range(4):
        best: dict[int, float] = {}
        for a, b, bits in pairs:
            if a == row and bits >= -2.0:
                best[groups[b]] = max(best.get(groups[b], -99.0), bits)
        scores = [*sorted(best.values(), reverse=True), -np.inf, -np.inf]
        clear = scores[0] - scores[1] >= margin if len(best) else False
        expected = (
            Verdict.NONE if not best
            else Verdict.MATCHED if clear and scores[0] >= 5.0
            else Verdict.UNSURE if clear or len(best) == 1
            else Verdict.SEVERAL
        )  # fmt: skip
        assert VERDICTS[outcome.verdicts[row]] is expected
        assert (outcome.rows == row).sum() == min(len(best), 2)


def test_records_of_one_golden_record_are_no_rivals() -> None:
    rows: Rows = [
        ("till", "a", firm("Kestrel Rope Walk", "01632 960001", "Whitby")),
        ("webshop", "b", firm("Kestrel Rope Walk", "01632 960001", "Whitby")),
        ("webshop", "c", firm("Kestrel Rope Walk Ltd", "01632 960001", "Whitby")),
        *others(),
    ]
    names = tidy(rows)
    assert find_counterparts(Asked(names, "till"), PLAN).verdict(0) is Verdict.SEVERAL
    groups = np.arange(len(names), dtype=np.int32)
    groups[names.ids.index("c")] = groups[names.ids.index("b")]
    found = find_counterparts(Asked(names, "till", groups), PLAN, limits=Limits(4.0, -6.0, best=5))
    assert found.verdict(0) is Verdict.MATCHED
    assert len(found.counterparts.records) == 1


def test_what_a_person_confirmed_or_rejected_stands() -> None:
    rows: Rows = [
        ("till", "a", firm("Kestrel Rope Walk", "01632 960001")),
        ("webshop", "b", firm("Kestrel Rope Walk", "01632 960001")),
        ("webshop", "c", firm("Marram Sail Loft", "01632 960777")),
        *others(),
    ]
    names = tidy(rows)
    a, b, c = (names.ids.index(one) for one in "abc")
    nothing = np.zeros((0, 2), dtype=np.int32)
    linked = Decisions(np.array([[a, c]], dtype=np.int32), nothing)
    found = find_counterparts(Asked(names, "till", decisions=linked), PLAN)
    assert found.verdict(0) is Verdict.MATCHED
    assert found.counterparts.records.tolist() == [c]
    refused = Decisions(nothing, np.array([[b, a]], dtype=np.int32))
    assert find_counterparts(Asked(names, "till", decisions=refused), PLAN).verdict(0) is Verdict.NONE


def test_passes_settle_what_those_before_left_open() -> None:
    rows: Rows = [
        ("till", "a", firm("Kestrel Rope Walk", "01632 960001", "Whitby")),
        ("webshop", "b", firm("Kestrel Rope Walk", "01632 960001", "Whitby")),
        ("webshop", "c", firm("Kestrel Rope Walk", "01632 960777", "Whitby")),
        *others(),
    ]
    by_name = tuple(rule for rule in PLAN.comparisons if rule.field == "name")
    by_phone = tuple(rule for rule in PLAN.comparisons if rule.field == "phone")
    plan = PLAN.model_copy(
        update={
            "comparisons": by_name,
            "vetoes": (),
            "correlated": (),
            "conditions": (),
            "passes": (Pass(title="names"),),
        }
    )
    names = tidy(rows)
    assert find_counterparts(Asked(names, "till"), plan).verdict(0) is Verdict.SEVERAL
    further = Pass(title="phones", works_on="ambiguous", further=by_phone)
    found = find_counterparts(Asked(names, "till"), plan.model_copy(update={"passes": (*plan.passes, further)}))
    assert found.verdict(0) is Verdict.MATCHED
    assert names.ids[int(found.counterparts.records[0])] == "b"
    assert found.settled_in.tolist() == [1]
    assert [counts["in"] for counts in found.counts] == [1, 1]


def verdicts_by_name(rows: Rows) -> dict[str, set[Verdict]]:
    names = tidy(rows)
    found = find_counterparts(Asked(names, "till"), PLAN)
    by_name: dict[str, set[Verdict]] = {}
    for row in range(len(found.counterparts.verdicts)):
        by_name.setdefault(names.column("name").at(found.first + row), set()).add(found.verdict(row))
    return by_name


def coined(count: int) -> list[str]:
    random = Random(7)
    syllables = "ka lo mi ter van sol bri nek dor ful gos per tin mar".split()
    return ["".join(random.choices(syllables, k=3)).title() + " Foods" for _ in range(count)]


@pytest.mark.parametrize(("register", "times"), [(5, 20), (11, 3), (5, 40), (2000, 40)])
def test_what_a_list_holds_often_is_found_each_time(register: int, times: int) -> None:
    names = ["Alder Tools Ltd", *coined(register - 1)]
    asked = names[:5] if times < 40 else names[:1]
    rows: Rows = [("webshop", f"w{n}", firm(name)) for n, name in enumerate(names)]
    rows += [("till", f"t{n}-{time}", firm(name)) for n, name in enumerate(asked) for time in range(times)]
    assert all(found == {Verdict.MATCHED} for found in verdicts_by_name(rows).values())


@pytest.mark.parametrize("sources", [1, 2])
def test_names_that_repeat_in_a_match_are_one_each(sources: int) -> None:
    rows = [
        (("till", "webshop")[time % sources], f"{n}-{time}", {"name": name})
        for n, name in enumerate(coined(30)) for time in range(10)
    ]  # fmt: skip
    result = run(records(rows), PLAN)
    assert len(set(result.labels.tolist())) == len({name for _, _, fields in rows for name in fields.values()})
