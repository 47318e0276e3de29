"""One round of matching: tidy records in, candidate pairs with settled scores out."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from time import perf_counter

import numpy as np
import numpy.typing as npt

from .blocking import BlockIndex, PairChunk, iterate_pairs, sample_pairs, with_every_pair
from .clustering import Decisions
from .contest import Settled, SettledScores, Twins, paired_one_to_one, room_for_contest, settle
from .pair_sample import PairSample, PairSampling
from .pair_sample import joined as joined_samples
from .plan import MatchPlan
from .records import IntArray, RecordSet
from .scoring import Calibration, Decided, ScoredPairs, Scorer, fit_calibration, learn_weights
from .sides import Sides
from .sorting import stable_order
from .tidying import Progress
from .workshop import Workshop

#: Scores are counted in bins of one bit from here to here; what lies outside goes into the outermost bins.
HISTOGRAM_FROM, HISTOGRAM_TO = -40, 60
#: The key of pairs that no blocking key brought up.
_NO_KEY = -1


@dataclass(slots=True)
class Stages:
    """Measures the stages and reports progress."""

    progress: Progress | None
    seconds: dict[str, float] = field(default_factory=dict)

    def report(self, stage: str, done: int, total: int) -> None:
        """Report how far a stage is; may raise Cancelled."""
        if self.progress:
            self.progress(stage, done, total)

    @contextmanager
    def stage(self, name: str) -> Iterator[None]:
        """Measure a stage; the seconds of one that comes again add up."""
        started = perf_counter()
        yield
        self.seconds[name] = round(self.seconds.get(name, 0.0) + perf_counter() - started, 3)


@dataclass(frozen=True, slots=True)
class Given:
    """What a round works with besides the records: which sources meet and which may hold duplicates, what is decided, which records meet,
    pairs to be compared ``again``, whatever keys they share, which records are known to be duplicates (``twins``), where it gets what
    is costly to make (``workshop``), whether candidate pairs are held for a closer look (``sampling``), and the number of the source whose
    records do not compete, since any number of them may mean one of another (``repeating``)."""

    plan: MatchPlan
    meets: npt.NDArray[np.bool_]
    own_duplicates: npt.NDArray[np.bool_]
    decisions: Decisions
    sides: Sides
    again: tuple[IntArray, IntArray]
    twins: Twins | None = None
    workshop: Workshop = field(default_factory=Workshop)
    sampling: PairSampling | None = None
    repeating: int | None = None


@dataclass(frozen=True, slots=True)
class Round:
    """What came of a round: candidate pairs that may count, with settled scores, and how they were found.

    ``found`` counts per blocking key the pairs that no earlier key had brought, ``vetoed`` those that only a veto kept below the limit;
    ``sample`` holds the candidate pairs asked for.
    """

    records: RecordSet
    index: BlockIndex
    scorer: Scorer
    calibration: Calibration
    settled: Settled
    histogram: npt.NDArray[np.int64]
    found: npt.NDArray[np.int64]
    vetoed: int
    sample: PairSample


@dataclass(frozen=True, slots=True)
class _ChunkResult:
    """What of a chunk is kept: pairs that may reach the lower limit, counts per key and per score, and how many a veto kept from it."""

    left: IntArray
    right: IntArray
    scored: ScoredPairs
    first_found: npt.NDArray[np.int64]
    histogram: npt.NDArray[np.int64]
    vetoed: int
    sample: PairSample | None


def _histogram(bits: npt.NDArray[np.float32]) -> npt.NDArray[np.int64]:
    bins = np.clip(np.floor(bits), HISTOGRAM_FROM, HISTOGRAM_TO - 1).astype(np.int64) - HISTOGRAM_FROM
    return np.bincount(bins, minlength=HISTOGRAM_TO - HISTOGRAM_FROM).astype(np.int64)


def _score_chunk(scorer: Scorer, index: BlockIndex, room: float, given: Given, chunk: PairChunk) -> _ChunkResult:
    if not given.sides.are_all:
        meet = given.sides.meet(chunk.left, chunk.right)
        chunk = PairChunk(chunk.left[meet], chunk.right[meet], chunk.keys[meet])
    scored = scorer.score(chunk.left, chunk.right)
    keep = scorer.kept(scored, room)
    vetoed = int(((scored.bits >= scorer.plan.limits.unsure) & scored.vetoed).sum())
    sample = None
    if given.sampling:
        share = given.sampling.share_of(index)
        sample = given.sampling.draw(chunk, scored.bits, scorer.plan.limits.unsure - room, share)
    return _ChunkResult(
        chunk.left[keep], chunk.right[keep],
        scored.at(keep),
        np.bincount(chunk.keys[chunk.keys != _NO_KEY], minlength=len(index.counts)).astype(np.int64),
        _histogram(scored.bits),
        vetoed,
        sample,
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
    order = stable_order(left, right)
    return left[order], right[order], ScoredPairs(bits[order], levels[:, order], vetoed[order], condition[order])


def _decided_pairs(decisions: Decisions) -> Decided:
    pairs = np.concatenate((decisions.same, decisions.different))
    same = np.arange(len(pairs)) < len(decisions.same)
    return Decided(pairs[:, 0].astype(np.int32), pairs[:, 1].astype(np.int32), same)


def _not_among(given: Given, results: list[_ChunkResult], records: int) -> tuple[IntArray, IntArray]:
    """Return the pairs to be compared again that no blocking key brought up."""
    left, right = given.again
    known = np.concatenate(
        [np.zeros(0, dtype=np.int64), *(chunk.left.astype(np.int64) * records + chunk.right for chunk in results)]
    )
    fresh = given.sides.meet(left, right) & ~np.isin(left.astype(np.int64) * records + right, known)
    return left[fresh], right[fresh]


@dataclass(frozen=True, slots=True)
class Compared:
    """Candidate pairs that may count, in canonical order, with their scores; and what is told of all of them (see ``Round``)."""

    left: IntArray
    right: IntArray
    scored: ScoredPairs
    histogram: npt.NDArray[np.int64]
    found: npt.NDArray[np.int64]
    vetoed: int
    sample: PairSample


def compare_candidates(
    records: RecordSet, scorer: Scorer, index: BlockIndex, given: Given, stages: Stages, *, room: float
) -> Compared:
    """Compare every pair that blocking brings up, and those to be compared again; keep those within ``room`` bits of the lower limit."""
    results: list[_ChunkResult] = []

    def score(pairs: PairChunk) -> _ChunkResult:
        return _score_chunk(scorer, index, room, given, pairs)

    for share, chunk in iterate_pairs(index, records.source_codes, given.meets, score):
        results.append(chunk)
        stages.report("compare", int(share * 1000), 1000)
    if len(given.again[0]):
        more = _not_among(given, results, len(records))
        results.append(score(PairChunk(*more, np.full(len(more[0]), _NO_KEY, dtype=np.int16))))
    left, right, scored = _gather(results, len(given.plan.comparisons))
    histogram = np.sum([_histogram(np.zeros(0, dtype=np.float32)), *(chunk.histogram for chunk in results)], axis=0)
    found = np.sum([np.zeros(len(index.counts), dtype=np.int64), *(chunk.first_found for chunk in results)], axis=0)
    vetoed = sum(chunk.vetoed for chunk in results)
    sample = joined_samples([chunk.sample for chunk in results if chunk.sample is not None])
    return Compared(left, right, scored, histogram, found, vetoed, sample)


def match_once(records: RecordSet, given: Given, stages: Stages) -> Round:
    """Block, learn, compare and settle; see ``pipeline.run``."""
    plan, decisions, sides = given.plan, given.decisions, given.sides
    among = np.flatnonzero(sides.taking_part).astype(np.int32)
    with stages.stage("block"):
        index = given.workshop.index(records, plan, sides, stages.report)
    with stages.stage("learn"):
        scorer = Scorer(records, plan, taking_part=len(among), prepare=given.workshop.measure_of)
        decided = _decided_pairs(decisions)
        if plan.weights.estimate:
            left, right, share = sample_pairs(index, records.source_codes, given.meets)
            meet = sides.meet(left, right)
            learn_weights(scorer, left[meet], right[meet], share, records=len(among), decided=decided)
    if len(among) > 1 and len(among) * (len(among) - 1) // 2 <= plan.blocking.every_pair_up_to:
        index = with_every_pair(index, among, len(records))
    sizes = np.bincount(records.source_codes[among], minlength=len(given.meets)).astype(np.float64)
    with stages.stage("compare"):
        room = room_for_contest(scorer, sizes, given.meets)
        compared = compare_candidates(records, scorer, index, given, stages, room=room)
    with stages.stage("contest"):
        stages.report("contest", 0, 1)
        settled = settle(
            scorer, compared.left, compared.right, compared.scored, sources=records.source_codes, sizes=sizes, meets=given.meets,
            promised=~given.own_duplicates,
            decided=(decisions.same, decisions.different), twins=given.twins, repeating=given.repeating,
        )  # fmt: skip
        if plan.scope.one_to_one:
            settled = paired_one_to_one(
                scorer, settled, records.source_codes, (decisions.same, decisions.different), plan.scope.margin
            )
        histogram = compared.histogram + _histogram(settled.scored.bits) - _histogram(compared.scored.bits)
        decided_bits = SettledScores(scorer, settled, len(records)).score(decided.left, decided.right).bits
        expected = Calibration(**plan.probabilities.model_dump())
        calibration = fit_calibration(decided_bits, decided.same, expected)
    return Round(
        records, index, scorer, calibration, settled, histogram, compared.found, compared.vetoed, compared.sample
    )
