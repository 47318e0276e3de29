"""The whole match as one function: records, plan and decisions in; pairs with verdicts and clusters out."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .blocking import BlockIndex, KeyCount, LeftOut
from .clustering import Decisions, cluster_records, pairs_within_clusters
from .contest import Contest, Settled, SettledScores
from .fields import Layout, default_layout
from .learned_match import LearnedMatch
from .learned_round import match_learned
from .matching_round import Given, Round, Stages
from .pair_sample import PairSample, PairSampling
from .pass_table import Outcome, StandingPairs, after_pass, ambiguous, outcomes, unmatched, unsure_pairs, with_levels
from .plan import MatchPlan, Pass
from .records import IntArray, RecordSet
from .rounds import Rounds, match_in_rounds
from .scope import Known, sides_of_scope
from .scoring import Band, Calibration, ScoredPairs, Scorer
from .sides import Sides
from .tidying import NOTHING, Progress, TidySteps, tidy_records
from .wording import Rewording, WordHabit
from .workshop import Workshop


@dataclass(frozen=True, slots=True)
class PairTable:
    """Pairs of records at or above the lower limit, and all pairs inside clusters, in canonical order.

    ``scored`` are their scores; ``same`` tells whether the verdict is same (the two ended in one cluster) or unsure. Of the score
    ``calibrated`` bits are what lists of this kind taught of such odds, and ``rivals`` what other candidates took. ``passed`` is the
    number of the pass that said so; what it does not compare is missing among the ``levels``.
    """

    left: IntArray
    right: IntArray
    scored: ScoredPairs
    same: npt.NDArray[np.bool_]
    calibrated: npt.NDArray[np.float32]
    rivals: npt.NDArray[np.float32]
    passed: npt.NDArray[np.int8]

    def __len__(self) -> int:
        return len(self.left)

    def part(self, rows: slice | npt.NDArray[np.intp]) -> "PairTable":
        """Return some of the pairs."""
        return PairTable(
            self.left[rows], self.right[rows],
            self.scored.at(rows),
            self.same[rows], self.calibrated[rows], self.rivals[rows], self.passed[rows],
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class KeyReport:
    """What a blocking key brought: its counts, and the pairs no earlier key had brought."""

    count: KeyCount
    pairs_first_found: int


@dataclass(frozen=True, slots=True)
class PassResult:
    """What came of one pass: the plan it amounts to, and how it found what it found.

    ``compared`` counts candidate pairs, ``calibration`` turns scores into probabilities as decided pairs say, ``histogram`` counts
    scores in bins of one bit from ``matching_round.HISTOGRAM_FROM``. ``contest`` tells what came of the contest for partners, where there
    was one, ``habits`` which words sources write differently, ``rewordings`` those that each further round began with, and ``free`` per
    source whether it was taken to be without duplicates of its own. ``outcomes`` says what the pass made of every record (see
    ``pass_table.Outcome``). ``settled`` are the candidate pairs that may count with their
    scores, ``sample`` those that were held for a closer look, where that was asked for.
    """

    title: str
    keys: tuple[KeyReport, ...]
    left_out: tuple[LeftOut, ...]
    blocks: BlockIndex
    bands: dict[str, int]
    histogram: npt.NDArray[np.int64]
    scorer: Scorer
    calibration: Calibration
    contest: Contest | None
    habits: tuple[WordHabit, ...]
    rewordings: tuple[Rewording, ...]
    free: npt.NDArray[np.bool_]
    outcomes: npt.NDArray[np.int8]
    settled: Settled
    sample: PairSample

    @property
    def compared(self) -> int:
        """Return how many pairs were compared."""
        return int(self.histogram.sum())

    @property
    def plan(self) -> MatchPlan:
        """Return the plan of a single pass that this one amounted to."""
        return self.scorer.plan

    def counts(self) -> dict[str, int]:
        """Return how many records took part and what came of them, by the word of each outcome; the latter add up to the former."""
        counted = np.bincount(self.outcomes, minlength=len(Outcome)).tolist()
        told = {outcome.word: counted[outcome] for outcome in Outcome if outcome is not Outcome.NOT_IN}
        return {"in": sum(told.values()), **told}


@dataclass(frozen=True, slots=True)
class MatchResult:
    """The outcome of a run.

    ``records`` are the tidy records, ``labels`` the cluster number of each, ``seconds`` is the time per stage, ``passes`` what came of
    every pass of the plan, in order. What is told of how pairs were found is that of the first pass, where it is not a sum over all.
    """

    records: RecordSet
    pairs: PairTable
    labels: IntArray
    passes: tuple[PassResult, ...]
    ignored_decisions: tuple[tuple[int, int], ...]
    seconds: dict[str, float]

    @property
    def cluster_count(self) -> int:
        """Return the number of clusters, single records included."""
        return int(self.labels.max(initial=-1)) + 1

    @property
    def first(self) -> PassResult:
        """Return what came of the first pass: of the only one, in most plans."""
        return self.passes[0]

    @property
    def scorer(self) -> Scorer:
        """Return the scorer of the first pass."""
        return self.first.scorer

    @property
    def calibration(self) -> Calibration:
        """Return the calibration of the first pass."""
        return self.first.calibration

    @property
    def compared(self) -> int:
        """Return how many pairs were compared, over all passes."""
        return sum(one.compared for one in self.passes)

    @property
    def bands(self) -> dict[str, int]:
        """Return how many compared pairs fell into each band, over all passes."""
        return {name: sum(one.bands[name] for one in self.passes) for name in self.first.bands}

    def by_pass(self, pairs: PairTable) -> Iterator[tuple[PassResult, npt.NDArray[np.intp], PairTable]]:
        """Yield, for every pass that some of the pairs come from, (pass, which pairs, these pairs with its levels only)."""
        for number, one in enumerate(self.passes):
            rows = np.flatnonzero(pairs.passed == number)
            if len(rows) or not number:
                own = pairs.part(rows)
                scored = own.scored
                levels = scored.levels[: len(one.plan.comparisons)]
                scored = ScoredPairs(scored.bits, levels, scored.vetoed, scored.condition)
                yield (
                    one,
                    rows,
                    PairTable(own.left, own.right, scored, own.same, own.calibrated, own.rivals, own.passed),
                )

    def probabilities(self) -> npt.NDArray[np.float64]:
        """Return the probability that each of the pairs is the same."""
        chances = np.zeros(len(self.pairs), dtype=np.float64)
        for one, rows, pairs in self.by_pass(self.pairs):
            chances[rows] = one.calibration.probability(pairs.scored.bits)
        return chances


def _told_pairs(
    standing: StandingPairs, scorer: Scorer, sources: IntArray, meets: npt.NDArray[np.bool_], labels: IntArray
) -> PairTable:
    """Return the standing pairs that reach the lower limit, and all others inside clusters, compared or not, of sources that meet."""
    inside = np.stack(pairs_within_clusters(labels))
    inside = inside[:, meets[sources[inside[0]], sources[inside[1]]]]
    inside_codes = inside[0].astype(np.int64) * len(labels) + inside[1]
    codes = standing.codes(len(labels))
    kept = standing.at(standing.kept | np.isin(codes, inside_codes))
    left, right = inside[:, ~np.isin(inside_codes, codes)]
    scored = with_levels(scorer.score(left, right), len(standing.scored.levels))
    nothing = np.zeros(len(left), dtype=np.float32)
    further = StandingPairs(
        left, right, scored, nothing.astype(np.bool_), nothing, nothing, np.zeros(len(left), dtype=np.int8)
    )
    told = kept.joined(further)
    same = labels[told.left] == labels[told.right]
    return PairTable(told.left, told.right, told.scored, same, told.calibrated, told.rivals, told.passed)


def own_duplicates_of(records: RecordSet, without_duplicates: Iterable[str]) -> npt.NDArray[np.bool_]:
    """Return, per source number, whether records of that source may be duplicates of each other."""
    promised = set(without_duplicates)
    return np.array([source not in promised for source in records.sources], dtype=np.bool_)


def sources_that_meet(
    records: RecordSet, plan: MatchPlan, own_duplicates: npt.NDArray[np.bool_], references: set[str]
) -> npt.NDArray[np.bool_]:
    """Return, for every two sources, whether their records are compared: a symmetric matrix."""
    count = len(records.sources)
    meets = np.zeros((count, count), dtype=np.bool_)
    if plan.blocking.scope != "across sources":
        meets |= np.diag(own_duplicates)
    if plan.blocking.scope != "within sources":
        meets |= ~np.eye(count, dtype=np.bool_)
    if references:
        is_reference = np.array([source in references for source in records.sources], dtype=np.bool_)
        meets &= is_reference[:, None] != is_reference[None, :]
    return meets


@dataclass(slots=True)
class _SoFar:
    """What the passes so far have left behind."""

    standing: StandingPairs
    labels: IntArray
    ignored: tuple[tuple[int, int], ...] = ()

    def sides(self, one: Pass, scope: Sides) -> Sides:
        """Return the sides of a pass: those of its scope, as far as it works on them."""
        if one.works_on == "everything":
            return scope
        if one.works_on == "ambiguous":
            among = ambiguous(self.standing, self.labels)
            return scope.both(Sides(among, among))
        among = unmatched(self.labels)
        return scope.both(Sides(among, among if one.works_on == "unmatched" else np.ones_like(among)))

    def joined(self) -> IntArray:
        """Return pairs that hold the clusters together: every record with the first one of its cluster."""
        _, first, which = np.unique(self.labels, return_index=True, return_inverse=True)
        pairs = np.stack([first[which], np.arange(len(self.labels))], axis=1).astype(np.int32)
        with_another: IntArray = pairs[pairs[:, 0] != pairs[:, 1]]
        return with_another


def _clustered(matched: Round, given: Given, so_far: _SoFar, one_to_one: bool) -> IntArray:
    """Return the clusters after a pass, and note which decisions could not be followed."""
    settled, scorer, plan = matched.settled, matched.scorer, given.plan
    linked = scorer.same(settled.scored)
    sources = matched.records.source_codes
    decided = given.decisions
    together = Decisions(np.concatenate((so_far.joined(), decided.same)), decided.different)
    outcome = cluster_records(
        settled.left[linked], settled.right[linked], settled.scored.bits[linked], sources=sources,
        own_duplicates=given.own_duplicates & ~np.bool_(one_to_one), decisions=together,
        score=SettledScores(scorer, settled, len(sources)).score, least_mean=plan.clustering.least_mean,
        least_link=plan.limits.same, may_be_vetoed=scorer.may_be_vetoed(),
    )  # fmt: skip
    so_far.ignored = outcome.ignored
    return outcome.labels


def _pass_result(title: str, rounds: Rounds, told: npt.NDArray[np.int8]) -> PassResult:
    matched = rounds.last
    settled, scorer = matched.settled, matched.scorer
    compared, reaching = int(matched.histogram.sum()), int(scorer.kept(settled.scored).sum())
    links = int(scorer.same(settled.scored).sum())
    bands = {
        Band.SAME.value: links,
        Band.UNSURE.value: reaching - links,
        Band.DIFFERENT.value: compared - reaching,
        "vetoed": matched.vetoed,
    }
    keys = tuple(KeyReport(count, int(first)) for count, first in zip(matched.index.counts, matched.found, strict=True))
    return PassResult(
        title=title, keys=keys, left_out=matched.index.left_out, blocks=matched.index, bands=bands, histogram=matched.histogram,
        scorer=scorer, calibration=matched.calibration, contest=settled.contest, habits=rounds.habits,
        rewordings=rounds.rewordings, free=settled.free, outcomes=told, settled=settled, sample=matched.sample,
    )  # fmt: skip


def run(
    records: RecordSet, plan: MatchPlan, *, decisions: Decisions | None = None, without_duplicates: Iterable[str] = (),
    references: Iterable[str] = (), layout: Layout | None = None, tidy_steps: TidySteps = NOTHING, are_tidy: bool = False,
    known: Known | None = None, progress: Progress | None = None, workshop: Workshop | None = None, sampling: PairSampling | None = None,
    learned: LearnedMatch | None = None, among: Sides | None = None,
) -> MatchResult:  # fmt: skip
    """Match ``records`` (delivered values) by ``plan``, pass by pass, and return pairs with verdicts and clusters.

    ``decisions`` hold pairs of record numbers; ``without_duplicates`` names sources that promise to have no duplicates
    of their own; where ``references`` names sources, records of the others are compared with theirs only.
    ``layout`` says what the fields are, where it is not the usual one of the plan's kind; ``tidy_steps`` holds the tidy steps
    that come before what is done by kind. Where the records ``are_tidy``, as they are kept beside the delivered ones,
    neither counts. ``known`` is what else is known of the records, by which the scope of a pass may choose; their golden records are
    the clusters to begin with. ``workshop`` keeps what is costly to make between matches of the same records; ``sampling`` asks for
    candidate pairs to be held. With what was ``learned`` before nothing is learned anew; ``among`` says which records meet at all.
    ``progress(stage, done, total)`` may raise Cancelled. The result does not depend on the order in which records were
    added, since a RecordSet is in canonical order. What a pass joined, a later one may extend, never undo.
    """
    stages, workshop = Stages(progress), workshop or Workshop()
    decisions = decisions or Decisions.none()
    own_duplicates = own_duplicates_of(records, without_duplicates)
    with stages.stage("tidy"):
        tidy = records
        if not are_tidy:
            tidy = tidy_records(layout or default_layout(plan.kind), records, stages.report, tidy_steps)
        tidy = workshop.finished(tidy.with_census(learned.census if learned else records.census))
    passes = plan.in_order()
    comparisons = max(len(own.comparisons) for _, own in passes)
    alone = np.arange(len(tidy), dtype=np.int32)
    so_far = _SoFar(StandingPairs.none(comparisons), alone if known is None else known.labels())
    results: list[PassResult] = []
    first_records: RecordSet | None = None
    every_meets = np.zeros((len(tidy.sources),) * 2, dtype=np.bool_)
    for number, (one, own) in enumerate(passes):
        free = own_duplicates & ~np.bool_(own.scope.one_to_one)
        meets = sources_that_meet(tidy, own, free, set(references))
        scope = sides_of_scope(tidy, own.scope, known)
        sides = so_far.sides(one, scope.both(among) if among else scope)
        doubtful = unsure_pairs(so_far.standing, so_far.labels)
        given = Given(own, meets, free, decisions, sides, (doubtful.left, doubtful.right), None, workshop, sampling)
        rounds = (
            Rounds(match_learned(tidy, given, learned, stages), (), ())
            if learned
            else match_in_rounds(tidy, given, stages)
        )
        matched = rounds.last
        with stages.stage("cluster"):
            stages.report("cluster", 0, 1)
            before, kept = so_far.labels, matched.scorer.kept(matched.settled.scored)
            fresh = StandingPairs.of(matched.settled, kept, number, comparisons)
            so_far.standing = after_pass(so_far.standing, fresh, sides, before)
            so_far.labels = _clustered(matched, given, so_far, own.scope.one_to_one)
        told = outcomes(so_far.standing, before, so_far.labels, sides)
        results.append(_pass_result(one.title, rounds, told))
        first_records = first_records or matched.records
        every_meets |= meets
    return MatchResult(
        records=first_records or tidy,
        pairs=_told_pairs(so_far.standing, results[0].scorer, tidy.source_codes, every_meets, so_far.labels),
        labels=so_far.labels, passes=tuple(results), ignored_decisions=so_far.ignored, seconds=stages.seconds,
    )  # fmt: skip
