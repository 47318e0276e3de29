"""The whole match as one function: records, plan and decisions in; pairs with verdicts and clusters out."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .blocking import BlockIndex, KeyCount, LeftOut
from .clustering import Decisions, cluster_records, pairs_within_clusters
from .contest import Contest, SettledScores, is_little_known
from .fields import Layout, default_layout
from .matching_round import Given, Round, Stages, match_once
from .plan import MatchPlan
from .records import IntArray, RecordSet
from .scoring import Band, Calibration, ScoredPairs, Scorer
from .tidying import NOTHING, Progress, TidySteps, tidy_records, with_learned_towns
from .wording import WordHabit, best_of_both, find_word_habits, reworded

#: How names of organisations are compared, in whose words sources have habits of their own.
_NAMES_WITH_HABITS = "organisation_name"
#: How often names are reworded and matched again, at most: what is found then may tell more habits.
_ROUNDS = 3
#: Habits of words that are told by a smaller share of the likely pairs are told, but nothing is matched again for them.
_LEAST_TOLD = 0.002


@dataclass(frozen=True, slots=True)
class PairTable:
    """Pairs of records at or above the lower limit, and all pairs inside clusters, in canonical order.

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
            scored.at(rows),
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
    from ``matching_round.HISTOGRAM_FROM``, ``seconds`` is the time per stage. ``contest`` tells what came of the contest for
    partners, where there was one, ``habits`` which words sources write differently, and ``free`` per source whether it was taken to be
    without duplicates of its own.
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
    habits: tuple[WordHabit, ...]
    free: npt.NDArray[np.bool_]
    seconds: dict[str, float]

    @property
    def cluster_count(self) -> int:
        """Return the number of clusters, single records included."""
        return int(self.labels.max(initial=-1)) + 1


def _kept_pairs(matched: Round, given: Given, labels: IntArray, kept: npt.NDArray[np.bool_]) -> PairTable:
    """Return the pairs that reach the lower limit (``kept`` of the settled ones), and all others inside clusters, compared or not,
    of sources that meet."""
    scorer, settled, sources = matched.scorer, matched.settled, matched.records.source_codes
    codes = settled.left.astype(np.int64) * len(labels) + settled.right
    inside = np.stack(pairs_within_clusters(labels))
    inside = inside[:, given.meets[sources[inside[0]], sources[inside[1]]]]
    inside_codes = inside[0].astype(np.int64) * len(labels) + inside[1]
    keep = np.flatnonzero(kept | np.isin(codes, inside_codes))
    further = inside[:, ~np.isin(inside_codes, codes)]
    more = scorer.score(further[0], further[1])
    nothing = np.zeros(further.shape[1], dtype=np.float32)
    left, right = np.concatenate((settled.left[keep], further[0])), np.concatenate((settled.right[keep], further[1]))
    order = np.lexsort((right, left))
    scored = settled.scored
    return PairTable(
        left[order], right[order],
        ScoredPairs(
            np.concatenate((scored.bits[keep], more.bits))[order],
            np.concatenate((scored.levels[:, keep], more.levels), axis=1)[:, order],
            np.concatenate((scored.vetoed[keep], more.vetoed))[order],
            np.concatenate((scored.condition[keep], more.condition))[order],
        ),
        (labels[left] == labels[right])[order],
        np.concatenate((settled.calibrated[keep], nothing))[order], np.concatenate((settled.rivals[keep], nothing))[order],
    )  # fmt: skip


def _habits(matched: Round) -> dict[str, tuple[WordHabit, ...]]:
    """Return, per field with names of organisations, the words that sources write differently."""
    settled, sources = matched.settled, matched.records.source_codes
    likely = np.flatnonzero(matched.scorer.kept(settled.scored) & (sources[settled.left] != sources[settled.right]))
    left, right = settled.left[likely], settled.right[likely]
    best = best_of_both(left, right, settled.scored.bits[likely], sources)
    names = {rule.field for rule in matched.scorer.plan.comparisons if rule.using == _NAMES_WITH_HABITS}
    found = {name: find_word_habits(matched.records, name, left[best], right[best]) for name in sorted(names)}
    return {name: habits for name, habits in found.items() if habits}


def _are_worth_a_round(habits: Mapping[str, Sequence[WordHabit]], matched: Round) -> bool:
    """Whether words that sources write differently are found in enough of the likely pairs to match everything again."""
    likely = int(matched.scorer.kept(matched.settled.scored).sum())
    return sum(habit.times for found in habits.values() for habit in found) > _LEAST_TOLD * likely


def _reworded(records: RecordSet, habits: Mapping[str, Sequence[WordHabit]]) -> RecordSet:
    for name, found in habits.items():
        records = reworded(records, name, found)
    return records


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
    stages = Stages(progress)
    decisions = decisions or Decisions.none()
    own_duplicates = own_duplicates_of(records, without_duplicates)
    with stages.stage("tidy"):
        tidy = records
        if not are_tidy:
            tidy = tidy_records(layout or default_layout(plan.kind), records, stages.report, tidy_steps)
        tidy = with_learned_towns(tidy)
    meets = sources_that_meet(tidy, plan, own_duplicates, set(references))
    given = Given(plan, meets, own_duplicates, decisions)
    matched = match_once(tidy, given, stages)
    with stages.stage("contest"):
        habits = fresh = _habits(matched)
    rounds = _ROUNDS if plan.weights.wording == "used" and is_little_known(matched.settled.scored) else 0
    while rounds and _are_worth_a_round(fresh, matched):
        matched = match_once(_reworded(matched.records, fresh), given, stages)
        fresh = _habits(matched)
        habits, rounds = (
            {**habits, **{name: (*habits.get(name, ()), *found) for name, found in fresh.items()}},
            rounds - 1,
        )
    settled, scorer = matched.settled, matched.scorer
    with stages.stage("cluster"):
        stages.report("cluster", 0, 1)
        linked = scorer.same(settled.scored)
        outcome = cluster_records(
            settled.left[linked], settled.right[linked], settled.scored.bits[linked],
            sources=tidy.source_codes, own_duplicates=own_duplicates,
            decisions=decisions, score=SettledScores(scorer, settled, len(tidy)).score, least_mean=plan.clustering.least_mean,
            least_link=plan.limits.same, may_be_vetoed=scorer.may_be_vetoed(),
        )  # fmt: skip

    compared = int(matched.histogram.sum())
    kept = scorer.kept(settled.scored)
    pairs = _kept_pairs(matched, given, outcome.labels, kept)
    links, reaching = int(linked.sum()), int(kept.sum())
    bands = {
        Band.SAME.value: links,
        Band.UNSURE.value: reaching - links,
        Band.DIFFERENT.value: compared - reaching,
        "vetoed": matched.vetoed,
    }
    return MatchResult(
        records=matched.records,
        pairs=pairs,
        labels=outcome.labels,
        keys=tuple(KeyReport(count, int(first)) for count, first in zip(matched.index.counts, matched.found, strict=True)),
        left_out=matched.index.left_out,
        blocks=matched.index,
        compared=compared,
        bands=bands,
        histogram=matched.histogram,
        ignored_decisions=outcome.ignored,
        scorer=scorer,
        calibration=matched.calibration,
        contest=settled.contest,
        habits=tuple(habit for found in habits.values() for habit in found),
        free=settled.free,
        seconds=stages.seconds,
    )  # fmt: skip
