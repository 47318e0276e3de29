"""Measuring by decided pairs: samples are fair, margins hold, and what is known for certain counts as it is."""

import numpy as np
import numpy.typing as npt
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from oddpair.core.bench import Bench, BenchInput
from oddpair.core.bench.fair_sample import STRATA_FROM, draw_fairly, strata_drawn_from, strata_of
from oddpair.core.bench.measure import DecidedPlaces, Measured, measure
from oddpair.core.bench.outside import look_outside, missed_pairs
from oddpair.core.blocking import keys_that_bring, parse_key
from oddpair.core.blocking.largest import largest_blocks
from oddpair.core.clustering import Decisions
from oddpair.core.evaluation import Stratum, decisions_needed, estimate_quality, f1_gained
from oddpair.core.fields import RegisterKind, default_layout
from oddpair.core.plan import MatchPlan, default_plan
from oddpair.core.records import RecordSet
from oddpair.core.spot import keys_of_pair
from oddpair.core.tidying import tidy_records
from oddpair.demo import make_demo
from oddpair.services.offline.match_files import read_columns
from oddpair.services.offline.read_files import read_files
from tests.sizes import size

from .strategies import record_sets, records

PLAN = default_plan(RegisterKind.ORGANISATION)
Flags = npt.NDArray[np.bool_]
NOTHING = DecidedPlaces(np.zeros(0, dtype=np.intp), np.zeros(0, dtype=np.bool_))


@st.composite
def strata(draw: st.DrawFn) -> list[Stratum]:
    found = []
    for _ in range(draw(st.integers(1, 6))):
        decided = draw(st.integers(0, 20))
        same = draw(st.integers(0, decided))
        found.append(
            Stratum(
                draw(st.booleans()), decided + draw(st.integers(0, 500)), decided, same, draw(st.floats(0.05, 0.95))
            )
        )
    return found


@given(strata())
def test_figures_are_shares_with_the_value_inside_the_interval(cells: list[Stratum]) -> None:
    quality = estimate_quality(cells)
    for one in (quality.precision, quality.recall, quality.f1):
        assert 0 <= one.low <= one.value <= one.high <= 1 + 1e-9


@given(strata())
def test_a_plan_gains_nothing_over_itself_and_what_is_gained_is_lost_the_other_way_round(cells: list[Stratum]) -> None:
    now = [cell.called_same for cell in cells]
    none = f1_gained(cells, now)
    assert (none.value, none.low, none.high) == (0, 0, 0)
    other = [not called for called in now]
    turned = [Stratum(not cell.called_same, cell.pairs, cell.decided, cell.same, cell.expected) for cell in cells]
    there, back = f1_gained(cells, other), f1_gained(turned, now)
    assert there.value == pytest.approx(-back.value, abs=1e-9)
    assert there.low == pytest.approx(-back.high, abs=1e-9)


@given(strata())
def test_what_is_all_decided_is_known_exactly(cells: list[Stratum]) -> None:
    known = [Stratum(cell.called_same, cell.decided, cell.decided, cell.same) for cell in cells]
    quality = estimate_quality(known)
    right = sum(cell.same for cell in known if cell.called_same)
    claimed = sum(cell.decided for cell in known if cell.called_same)
    true = sum(cell.same for cell in known)
    if claimed:
        assert quality.precision.value == pytest.approx(right / claimed)
        assert quality.precision.low == pytest.approx(right / claimed)
    if true:
        assert quality.recall.value == pytest.approx(right / true)


def test_more_decisions_are_needed_for_a_smaller_margin_and_none_where_all_is_known() -> None:
    cells = [Stratum(True, 4000, 30, 28), Stratum(False, 900, 30, 6)]
    wide, narrow = decisions_needed(cells, 0.05), decisions_needed(cells, 0.01)
    assert 0 <= wide < narrow <= 4900
    assert decisions_needed([Stratum(True, 30, 30, 28), Stratum(False, 30, 30, 6)], 0.01) == 0
    assert decisions_needed([], 0.01) == 0


class Made:
    """A made register on the bench, with the truth of every pair that is held."""

    def __init__(self, folder: object, kind: RegisterKind, name: str) -> None:
        files = [file for file in make_demo(folder, scale=0.4, difficulty=1.5, seed=4) if file.register == name]  # type: ignore[arg-type]
        rows = read_columns(files[0].path.parent / "truth.csv", ("source", "source_id", "entity"))
        entity = {row[:2]: row[2] for row in rows}
        self.records: RecordSet = tidy_records(
            default_layout(kind), read_files([file.path for file in files], kind).records
        )
        self.plan = default_plan(kind)
        self.bench = Bench(BenchInput(self.records, Decisions.none(), (), None))
        self.bench.settle(self.plan)
        drawn = self.bench.redraw(self.plan)
        self.held, self.rescored = drawn.held, drawn.rescored
        truth = np.array(
            [entity[self.records.source_of(place), self.records.ids[place]] for place in range(len(self.records))]
        )
        self.entities = truth
        self.true: Flags = truth[self.held.left] == truth[self.held.right]
        self.strata = strata_of(self.rescored)
        self.lowest, self.told = strata_drawn_from(self.held, self.rescored)

    def measured(self, sample: DecidedPlaces, known: DecidedPlaces = NOTHING) -> Measured:
        before = self.rescored.same
        return measure(
            self.held, self.rescored, before, strata=self.strata, lowest=self.lowest, sample=sample, known=known
        )

    def sample(self, many: int, seed: int) -> DecidedPlaces:
        every = np.ones(len(self.held), dtype=np.bool_)
        places = draw_fairly(self.held, self.rescored, every, np.zeros(len(STRATA_FROM), dtype=np.int32), many, seed)
        return DecidedPlaces(places, self.true[places])


@pytest.fixture(scope="module", params=size(everyday=["Customers"], long=["Customers", "Boat owners"]))
def made(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Made:
    kind = RegisterKind.ORGANISATION if request.param == "Customers" else RegisterKind.PERSON
    return Made(tmp_path_factory.mktemp("demo"), kind, request.param)


def true_figures(made: Made) -> tuple[float, float]:
    seen = made.strata >= made.lowest
    called, true = made.rescored.same & seen, made.true & seen
    right = float((called & true).sum())
    return right / float(called.sum()), right / float(true.sum())


def test_margins_hold_the_truth_about_as_often_as_they_say(made: Made) -> None:
    precision, recall = true_figures(made)
    held = [made.measured(made.sample(60, seed)).own.quality for seed in range(20)]
    # Of a thousand pairs called the same one is wrong: a sample that draws it has its upper end a hair too low.
    assert sum(one.precision.low <= precision <= one.precision.high + 0.003 for one in held) >= 17
    assert sum(one.recall.low <= recall <= one.recall.high for one in held) >= 17
    # A sample twice as large tells more.
    wide = np.mean([one.recall.high - one.recall.low for one in held])
    more = [made.measured(made.sample(240, seed)).own.quality for seed in range(5)]
    assert np.mean([one.recall.high - one.recall.low for one in more]) < wide


def test_where_everything_is_decided_the_figures_are_the_true_ones(made: Made) -> None:
    every = np.flatnonzero(made.strata >= made.lowest)
    precision, recall = true_figures(made)
    for sample, known in ((every, every[:0]), (every[:0], every)):
        quality = made.measured(
            DecidedPlaces(sample, made.true[sample]), DecidedPlaces(known, made.true[known])
        ).own.quality
        assert quality.precision.value == pytest.approx(precision, abs=0.002)
        assert quality.recall.value == pytest.approx(recall, abs=0.002)


def test_what_others_decided_does_not_count_for_more_than_itself(made: Made) -> None:
    """A hundred certain pairs that somebody picked leave recall where a fair sample sees it."""
    sample = made.sample(120, 1)
    easy = np.flatnonzero((made.strata == len(STRATA_FROM) - 1) & made.true)[:100]
    easy = easy[~np.isin(easy, sample.places)]
    alone = made.measured(sample).own.quality.recall
    beside = made.measured(sample, DecidedPlaces(easy, made.true[easy])).own.quality.recall
    assert beside.value == pytest.approx(alone.value, abs=(alone.high - alone.low) / 2)


def test_a_sample_takes_open_pairs_once_from_the_strata_that_are_drawn_from(made: Made) -> None:
    still = np.random.default_rng(3).random(len(made.held)) < 0.5
    drawn = np.zeros(len(STRATA_FROM), dtype=np.int32)
    first = draw_fairly(made.held, made.rescored, still, drawn, 50, 1)
    assert len(set(first.tolist())) == len(first)
    assert still[first].all()
    assert (made.strata[first] >= made.lowest).all()
    assert 35 <= len(first) <= 65
    # What is drawn further goes where less is drawn so far.
    counts = np.bincount(made.strata[first], minlength=len(STRATA_FROM)).astype(np.int32)
    still[first] = False
    second = draw_fairly(made.held, made.rescored, still, counts, 50, 2)
    assert not set(first.tolist()) & set(second.tolist())
    assert [one.odds_from for one in made.told] == list(STRATA_FROM)
    assert sum(one.pairs for one in made.told) <= made.held.standing_for + 0.5


def test_a_looser_plan_gains_recall_and_is_compared_by_the_same_decisions(made: Made) -> None:
    loose = made.plan.model_copy(update={"limits": made.plan.limits.model_copy(update={"same": -1.0})})
    redrawn = made.bench.redraw(loose)
    sample = made.sample(200, 5)
    found = measure(
        redrawn.held, redrawn.rescored, made.rescored.same, strata=made.strata, lowest=made.lowest, sample=sample, known=NOTHING
    )  # fmt: skip
    own = {one.limit: one.quality for one in found.along}
    assert own[-1.0].recall.value >= own[4.0].recall.value
    assert found.f1_gained.low <= found.f1_gained.value <= found.f1_gained.high
    truly = (made.true & redrawn.rescored.same).sum() - (made.true & made.rescored.same).sum()
    assert truly > 0
    assert found.f1_gained.high > 0


NARROW = PLAN.model_copy(
    update={"blocking": PLAN.blocking.model_copy(update={"keys": ("tax_number",), "every_pair_up_to": 0})}
)


def outside_of(made: Made, plan: MatchPlan) -> tuple[Bench, npt.NDArray[np.int32], npt.NDArray[np.int32]]:
    bench = Bench(BenchInput(made.records, Decisions.none(), (), None))
    bench.settle(plan)
    sources = made.records.source_codes
    look = look_outside(bench.scorer(plan), bench.blocks(plan), sources, bench.meets(plan), 1, lambda *_: None)
    assert (look.drawn, look.records) == (len(made.records), len(made.records))
    return bench, look.left, look.right


def test_what_lies_outside_the_blocks_is_found_and_nothing_that_they_bring_together(made: Made) -> None:
    if made.plan.kind is not RegisterKind.ORGANISATION:
        pytest.skip("one kind tells")
    bench, left, right = outside_of(made, NARROW)
    assert not keys_that_bring(bench.blocks(NARROW), left, right).any()
    assert (left < right).all()
    truly = made.entities[left] == made.entities[right]
    assert truly.sum() > 100
    assert truly[:50].mean() > 0.9
    _, left, _ = outside_of(made, made.plan)
    assert len(left) < 0.05 * len(truly)


@given(st.integers(2, 10_000), st.data())
def test_missed_pairs_are_told_with_a_margin_that_is_none_where_everything_was_looked_at(
    count: int, data: st.DataObject
) -> None:
    drawn = data.draw(st.integers(1, count))
    true = data.draw(st.integers(0, 20))
    missed = missed_pairs(count, drawn, [1.0] * true)
    assert 0 <= missed.low <= missed.value + 1e-9
    assert missed.value <= missed.high + 1e-9
    if drawn >= count - 1:
        assert missed.value == missed.low == missed.high == true
    else:
        assert missed.value >= true


def test_half_of_the_records_see_about_three_quarters_of_the_pairs() -> None:
    assert missed_pairs(1000, 500, [1.0] * 75).value == pytest.approx(100, rel=0.01)


@settings(max_examples=size(everyday=10, long=25))
@given(record_sets())
def test_the_keys_of_a_pair_are_shared_where_a_block_would_bring_it_together(
    rows: list[tuple[str, str, dict[str, str]]],
) -> None:
    tidy = tidy_records(
        default_layout(RegisterKind.ORGANISATION), records([*rows, ("till", "998", {"name": "tern rope"})])
    )
    bench = Bench(BenchInput(tidy, Decisions.none(), (), None))
    index = bench.blocks(PLAN)
    last = len(tidy) - 1
    for other in range(last):
        told = keys_of_pair(bench.records, PLAN, other, last)
        brought = keys_that_bring(index, np.array([other], np.int32), np.array([last], np.int32))[:, 0]
        assert [key.shared for key in told] == brought.tolist()
        turned = keys_of_pair(bench.records, PLAN, last, other)
        assert [(key.left, key.right) for key in told] == [(key.right, key.left) for key in turned]


def test_the_largest_blocks_come_first_with_records_that_hold_the_value() -> None:
    towns = ["Whitby"] * 5 + ["Bergen"] * 3 + ["Narvik"]
    rows = [("till", f"{place}", {"name": "Tern", "address.city": town}) for place, town in enumerate(towns)]
    tidy = tidy_records(default_layout(RegisterKind.ORGANISATION), records(rows))
    found = largest_blocks(tidy, parse_key("address.city"), 10, 2)
    assert [(block.value, block.records) for block in found] == [("whitby", 5), ("bergen", 3)]
    assert all(tidy.row(number)["address.city"] == block.value for block in found for number in block.first)
    assert [len(block.first) for block in found] == [2, 2]
    assert largest_blocks(tidy, parse_key("phone"), 10, 2) == ()
