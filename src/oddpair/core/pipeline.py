"""The whole match as one function: records, plan and decisions in; pairs with verdicts and clusters out."""

from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from time import perf_counter

import numpy as np
import numpy.typing as npt

from .blocking import (
    BlockIndex,
    KeyCount,
    LeftOut,
    PairChunk,
    build_index,
    iterate_pairs,
    sample_pairs,
    with_every_pair,
)
from .clustering import Decisions, cluster_records
from .contest import Contest, Settled, SettledScores, room_for_contest, settle
from .fields import Layout, default_layout
from .plan import MatchPlan
from .records import IntArray, RecordSet
from .scoring import (
    Band,
    Calibration,
    Decided,
    ScoredPairs,
    Scorer,
    fit_calibration,
    learn_weights,
)
from .tidying import NOTHING, Progress, TidySteps, tidy_records

#: Scores are counted in bins of one bit from here to here; what lies outside goes into the outermost bins.
HISTOGRAM_FROM, HISTOGRAM_TO = -40, 60


@dataclass(frozen=True, slots=True)
class PairTable:
    """Pairs of records at or above the lower limit, in canonical order.

    ``scored`` are their scores; ``same`` tells whether the verdict is same (the two ended in one cluster) or unsure. Of the score
    ``calibrated`` bits are what lists of this kind taught of such odds, and ``rivals`` what other candidates took.
    """

    left: IntArray
    right: IntArray
    scored: ScoredPairs
    same: npt.NDArray[np.bool_]
    calibrated: npt.NDArray[np.float32]
    rivals: npt.NDArray[np.float32]

    def __len__(self) -> int:
        return len(self.left)

    def part(self, rows: slice) -> "PairTable":
        """Return some of the pairs."""
        scored = self.scored
        return PairTable(
            self.left[rows], self.right[rows],
            ScoredPairs(scored.bits[rows], scored.levels[:, rows], scored.vetoed[rows], scored.condition[rows]),
            self.same[rows], self.calibrated[rows], self.rivals[rows],
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class KeyReport:
    """What a blocking key brought: its counts, and the pairs no earlier key had brought."""

    count: KeyCount
    pairs_first_found: int


@dataclass(frozen=True, slots=True)
class MatchResult:
    """The outcome of a run.

    ``records`` are the tidy records, ``labels`` the cluster number of each. ``compared`` counts candidate pairs,
    ``calibration`` turns scores into probabilities as decided pairs say, ``histogram`` counts scores in bins of one bit
    from HISTOGRAM_FROM, ``seconds`` is the time per stage. ``contest`` tells what came of the contest for partners, where there was
    one, and ``free`` per source whether it was taken to be without duplicates of its own.
    """

    records: RecordSet
    pairs: PairTable
    labels: IntArray
    keys: tuple[KeyReport, ...]
    left_out: tuple[LeftOut, ...]
    blocks: BlockIndex
    compared: int
    bands: dict[str, int]
    histogram: npt.NDArray[np.int64]
    ignored_decisions: tuple[tuple[int, int], ...]
    scorer: Scorer
    calibration: Calibration
    contest: Contest | None
    free: npt.NDArray[np.bool_]
    seconds: dict[str, float]

    @property
    def cluster_count(self) -> int:
        """Return the number of clusters, single records included."""
        return int(self.labels.max(initial=-1)) + 1


@dataclass(slots=True)
class _Stages:
    """Measures the stages and reports progress."""

    progress: Progress | None
    seconds: dict[str, float] = field(default_factory=dict)

    def report(self, stage: str, done: int, total: int) -> None:
        if self.progress:
            self.progress(stage, done, total)

    @contextmanager
    def stage(self, name: str) -> Iterator[None]:
        started = perf_counter()
        yield
        self.seconds[name] = round(perf_counter() - started, 3)


@dataclass(frozen=True, slots=True)
class _ChunkResult:
    """What of a chunk is kept: pairs that may reach the lower limit, counts per key and per score, and how many a veto kept from it."""

    left: IntArray
    right: IntArray
    scored: ScoredPairs
    first_found: npt.NDArray[np.int64]
    histogram: npt.NDArray[np.int64]
    vetoed: int


def _histogram(bits: npt.NDArray[np.float32]) -> npt.NDArray[np.int64]:
    bins = np.clip(np.floor(bits), HISTOGRAM_FROM, HISTOGRAM_TO - 1).astype(np.int64) - HISTOGRAM_FROM
    return np.bincount(bins, minlength=HISTOGRAM_TO - HISTOGRAM_FROM).astype(np.int64)


def _score_chunk(scorer: Scorer, keys: int, room: float, chunk: PairChunk) -> _ChunkResult:
    scored = scorer.score(chunk.left, chunk.right)
    keep = scorer.kept(scored, room)
    vetoed = int(((scored.bits >= scorer.plan.limits.unsure) & scored.vetoed).sum())
    return _ChunkResult(
        chunk.left[keep], chunk.right[keep],
        ScoredPairs(scored.bits[keep], scored.levels[:, keep], scored.vetoed[keep], scored.condition[keep]),
        np.bincount(chunk.keys, minlength=keys).astype(np.int64),
        _histogram(scored.bits),
        vetoed,
    )  # fmt: skip


def _gather(chunks: list[_ChunkResult], comparisons: int) -> tuple[IntArray, IntArray, ScoredPairs]:
    none = np.zeros(0, dtype=np.int32)
    left = np.concatenate([none, *(chunk.left for chunk in chunks)])
    right = np.concatenate([none, *(chunk.right for chunk in chunks)])
    bits = np.concatenate([np.zeros(0, dtype=np.float32), *(chunk.scored.bits for chunk in chunks)])
    vetoed = np.concatenate([np.zeros(0, dtype=np.bool_), *(chunk.scored.vetoed for chunk in chunks)])
    levels = np.concatenate(
        [np.zeros((comparisons, 0), dtype=np.int8), *(chunk.scored.levels for chunk in chunks)], axis=1
    )
    condition = np.concatenate([np.zeros(0, dtype=np.int8), *(chunk.scored.condition for chunk in chunks)])
    order = np.lexsort((right, left))
    return left[order], right[order], ScoredPairs(bits[order], levels[:, order], vetoed[order], condition[order])


def _kept_pairs(scorer: Scorer, settled: Settled, labels: IntArray) -> PairTable:
    """Return the pairs that reach the lower limit."""
    keep = np.flatnonzero(scorer.kept(settled.scored))
    left, right, scored = settled.left[keep], settled.right[keep], settled.scored
    return PairTable(
        left, right,
        ScoredPairs(scored.bits[keep], scored.levels[:, keep], scored.vetoed[keep], scored.condition[keep]),
        labels[left] == labels[right], settled.calibrated[keep], settled.rivals[keep],
    )  # fmt: skip


def own_duplicates_of(records: RecordSet, without_duplicates: Iterable[str]) -> npt.NDArray[np.bool_]:
    """Return, per source number, whether records of that source may be duplicates of each other."""
    promised = set(without_duplicates)
    return np.array([source not in promised for source in records.sources], dtype=np.bool_)


def _decided_pairs(decisions: Decisions) -> Decided:
    pairs = np.concatenate((decisions.same, decisions.different))
    same = np.arange(len(pairs)) < len(decisions.same)
    return Decided(pairs[:, 0].astype(np.int32), pairs[:, 1].astype(np.int32), same)


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


def run(
    records: RecordSet, plan: MatchPlan, *, decisions: Decisions | None = None, without_duplicates: Iterable[str] = (),
    references: Iterable[str] = (), layout: Layout | None = None, tidy_steps: TidySteps = NOTHING, are_tidy: bool = False,
    progress: Progress | None = None,
) -> MatchResult:  # fmt: skip
    """Match ``records`` (delivered values) by ``plan`` and return pairs with verdicts and clusters.

    ``decisions`` hold pairs of record numbers; ``without_duplicates`` names sources that promise to have no duplicates
    of their own; where ``references`` names sources, records of the others are compared with theirs only.
    ``layout`` says what the fields are, where it is not the usual one of the plan's kind; ``tidy_steps`` holds the tidy steps
    that come before what is done by kind. Where the records ``are_tidy``, as they are kept beside the delivered ones,
    neither counts.
    ``progress(stage, done, total)`` may raise Cancelled. The result does not depend on the order in which records were
    added, since a RecordSet is in canonical order.
    """
    stages = _Stages(progress)
    decisions = decisions or Decisions.none()
    own_duplicates = own_duplicates_of(records, without_duplicates)
    with stages.stage("tidy"):
        tidy = records
        if not are_tidy:
            tidy = tidy_records(layout or default_layout(plan.kind), records, stages.report, tidy_steps)
    with stages.stage("block"):
        keys = plan.blocking_keys()
        index = build_index(tidy, keys, plan.narrowing_keys(), plan.blocking.most_records, stages.report)
    results: list[_ChunkResult] = []
    meets = sources_that_meet(tidy, plan, own_duplicates, set(references))
    with stages.stage("learn"):
        scorer = Scorer(tidy, plan)
        decided = _decided_pairs(decisions)
        if plan.weights.estimate:
            sampled = sample_pairs(index, tidy.source_codes, meets)
            learn_weights(scorer, *sampled, records=len(tidy), decided=decided)
        calibration = fit_calibration(scorer.score(decided.left, decided.right).bits, decided.same)
    if len(tidy) > 1 and len(tidy) * (len(tidy) - 1) // 2 <= plan.blocking.every_pair_up_to:
        index = with_every_pair(index, len(tidy))
    with stages.stage("compare"):
        room = room_for_contest(scorer, tidy.source_codes, meets)
        work = iterate_pairs(
            index, tidy.source_codes, meets, lambda pairs: _score_chunk(scorer, len(index.counts), room, pairs)
        )
        for share, chunk in work:
            results.append(chunk)
            stages.report("compare", int(share * 1000), 1000)
        left, right, scored = _gather(results, len(plan.comparisons))
    histogram = np.sum([_histogram(np.zeros(0, dtype=np.float32)), *(chunk.histogram for chunk in results)], axis=0)
    with stages.stage("contest"):
        stages.report("contest", 0, 1)
        settled = settle(
            scorer, left, right, scored, sources=tidy.source_codes, meets=meets, promised=~own_duplicates,
            decided=(decisions.same, decisions.different),
        )  # fmt: skip
        histogram += _histogram(settled.scored.bits) - _histogram(scored.bits)
    with stages.stage("cluster"):
        stages.report("cluster", 0, 1)
        linked = scorer.same(settled.scored)
        outcome = cluster_records(
            left[linked], right[linked], settled.scored.bits[linked], sources=tidy.source_codes, own_duplicates=own_duplicates,
            decisions=decisions, score=SettledScores(scorer, settled, len(tidy)).score, least_mean=plan.clustering.least_mean,
            least_link=plan.limits.same, may_be_vetoed=scorer.may_be_vetoed(),
        )  # fmt: skip

    found = np.sum([np.zeros(len(index.counts), dtype=np.int64), *(chunk.first_found for chunk in results)], axis=0)
    compared = int(histogram.sum())
    pairs = _kept_pairs(scorer, settled, outcome.labels)
    links = int(linked.sum())
    bands = {
        Band.SAME.value: links,
        Band.UNSURE.value: len(pairs) - links,
        Band.DIFFERENT.value: compared - len(pairs),
        "vetoed": sum(chunk.vetoed for chunk in results),
    }
    return MatchResult(
        records=tidy,
        pairs=pairs,
        labels=outcome.labels,
        keys=tuple(KeyReport(count, int(first)) for count, first in zip(index.counts, found, strict=True)),
        left_out=index.left_out,
        blocks=index,
        compared=compared,
        bands=bands,
        histogram=histogram,
        ignored_decisions=outcome.ignored,
        scorer=scorer,
        calibration=calibration,
        contest=settled.contest,
        free=settled.free,
        seconds=stages.seconds,
    )  # fmt: skip
