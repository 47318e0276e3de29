"""Recognising: changed records are compared with those that are there, and only the clusters they touch are formed anew.

With what was learned before, whether two records are compared and what their score is hangs on these two alone. Clusters are formed
inside the components that pairs that are the same, and decisions, link; so it is enough to form those components anew that a changed
record stood in, or stands in now. The outcome is that of a match of everything, whatever came in which order.
"""

from collections.abc import Collection
from dataclasses import dataclass
from typing import Protocol

import numpy as np
import numpy.typing as npt

from .. import pipeline
from ..blocking.learned_blocks import BlockNumbers, block_numbers
from ..clustering import Decisions
from ..learned_match import LearnedMatch
from ..plan import MatchPlan
from ..records import RecordSet
from ..sides import Sides
from ..tidying import Progress

Ids = npt.NDArray[np.int64]
#: So many changed records are compared with what is there at a time, which bounds memory.
_AT_ONCE = 20_000


class Standing(Protocol):
    """What is there: records by their ids, the blocks they stand in, and what links them."""

    def present(self, ids: Ids) -> Ids:
        """Return those of some records that are in the register, ascending."""

    def everyone(self) -> Ids:
        """Return all records of the register, ascending."""

    def records(self, ids: Ids) -> tuple[RecordSet, Ids]:
        """Return tidy records, and the id of each in their order."""

    def sharing(self, numbers: BlockNumbers) -> Ids:
        """Return the records that stand in one of some blocks, each once, ascending."""

    def linked(self, ids: Collection[int]) -> Ids:
        """Return the records that a pair that is the same, or a decision that says so, links with some directly."""

    def decisions(self, ids: Ids) -> Decisions:
        """Return the decisions in force among records, by their places in ``ids``."""


@dataclass(frozen=True, slots=True)
class Recognised:
    """What came of changed records.

    ``formed`` is the match of the records ``formed_ids``, whose clusters were formed anew; ``doubts`` are matches of changed records with
    others, of which the pairs in doubt count that lead out of the formed ones. ``compared`` pairs were compared.
    """

    formed: pipeline.MatchResult | None
    formed_ids: Ids
    doubts: tuple[tuple[pipeline.MatchResult, Ids], ...]
    compared: int


@dataclass(frozen=True, slots=True)
class ByPlan:
    """By what is matched: the plan, what was learned with it, and which sources promise to be without duplicates of their own."""

    plan: MatchPlan
    learned: LearnedMatch
    without_duplicates: tuple[str, ...] = ()


def numbers_of(records: RecordSet, by: ByPlan) -> BlockNumbers:
    """Return the blocks in which tidy records stand."""
    [(_, own)] = by.plan.in_order()
    finished = by.learned.finished(records)
    return block_numbers(finished, own.blocking_keys(), own.narrowing_keys(), by.learned.large)


def _partners(changed: Ids, before: Ids, standing: Standing, by: ByPlan) -> tuple[pipeline.MatchResult, Ids]:
    """Match some changed records with all that stand in one of their blocks, but for those that had their turn ``before``."""
    if by.learned.every_pair:
        others = standing.everyone()
    else:
        fresh, _ = standing.records(changed)
        others = standing.sharing(numbers_of(fresh, by))
    records, ids = standing.records(np.union1d(changed, np.setdiff1d(others, before)))
    is_changed = np.isin(ids, changed)
    result = pipeline.run(
        records, by.plan, are_tidy=True, without_duplicates=by.without_duplicates, learned=by.learned,
        among=Sides(is_changed, np.ones(len(ids), dtype=np.bool_)),
    )  # fmt: skip
    return result, ids


def _linked_to(start: Ids, standing: Standing) -> Ids:
    """Return all that links lead to from some records, these among them, ascending."""
    reached, edge = set(start.tolist()), start
    while len(edge):
        further = [record for record in standing.linked(edge.tolist()).tolist() if record not in reached]
        reached.update(further)
        edge = np.array(further, dtype=np.int64)
    return np.array(sorted(reached), dtype=np.int64)


def recognise(changed: Ids, standing: Standing, by: ByPlan, progress: Progress | None = None) -> Recognised:
    """Return what comes of records that are new, changed, gone, or decided about since the clusters were formed.

    What links ``standing`` tells are those of the clusters as they are; ``changed`` holds everything that is not as it was then.
    """
    here = standing.present(changed)
    doubts: list[tuple[pipeline.MatchResult, Ids]] = []
    touched = [changed]
    compared = 0
    for first in range(0, len(here), _AT_ONCE):
        if progress:
            progress("recognise", first, len(here))
        result, ids = _partners(here[first : first + _AT_ONCE], here[:first], standing, by)
        compared += result.compared
        links = result.scorer.same(result.first.settled.scored)
        settled = result.first.settled
        touched += [ids[settled.left[links]], ids[settled.right[links]]]
        doubts.append((result, ids))
    if progress:
        progress("form clusters", 0, 1)
    formed = standing.present(_linked_to(np.unique(np.concatenate(touched)), standing))
    if not len(formed):
        return Recognised(None, formed, tuple(doubts), compared)
    records, ids = standing.records(formed)
    result = pipeline.run(
        records, by.plan, are_tidy=True, without_duplicates=by.without_duplicates, learned=by.learned, decisions=standing.decisions(ids)
    )  # fmt: skip
    return Recognised(result, ids, tuple(doubts), compared)
