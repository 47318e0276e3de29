"""Finds counterparts: the rows of a list held against a reference, pass by pass, and nothing else against anything."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from ..clustering import Decisions
from ..contest import Twins
from ..explain import distinct_sentences
from ..matching_round import Given, Round, Stages
from ..plan import MatchPlan, Pass
from ..records import IntArray, RecordSet
from ..rounds import match_in_rounds
from ..scope import sides_of_scope
from ..scoring import ScoredPairs
from ..sides import Flags, Sides
from ..tidying import Progress, with_what_all_teach
from .verdicts import VERDICTS, Counterpart, Limits, Verdict, ranked


@dataclass(frozen=True, slots=True)
class Asked:
    """What is asked: tidy ``records``, of which those of the source ``asking`` are the rows and all others the reference.

    ``groups`` says, per record, what it stands for: records of one golden record have the same number (every record its own, where it is
    not given). ``decisions`` are pairs of record numbers that a person confirmed or rejected. ``without_duplicates`` names sources that
    promise to have none of their own.
    """

    records: RecordSet
    asking: str
    groups: IntArray | None = None
    decisions: Decisions | None = None
    without_duplicates: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Found:
    """What was found: the candidates that are told, with ``scores`` in bits, probabilities and reasons (texts, and per candidate the
    number of its text), and per row the verdict. ``first`` is the record number of the first row; rows count from there.

    ``settled_in`` is the number of the pass that said the verdict of each row, ``counts`` what each pass made of its rows.
    """

    counterparts: Counterpart
    first: int
    scores: npt.NDArray[np.float32]
    probabilities: npt.NDArray[np.float64]
    reasons: tuple[tuple[str, ...], npt.NDArray[np.int64]]
    settled_in: npt.NDArray[np.int8]
    counts: tuple[Mapping[str, int], ...]
    compared: int
    seconds: Mapping[str, float]

    def verdict(self, row: int) -> Verdict:
        """Return the verdict of a row."""
        return VERDICTS[int(self.counterparts.verdicts[row])]


@dataclass(frozen=True, slots=True)
class _PassFound:
    """What one pass found: told candidates with scores, probabilities and reasons, and the verdicts of the rows that took part."""

    told: Counterpart
    scores: npt.NDArray[np.float32]
    probabilities: npt.NDArray[np.float64]
    texts: tuple[str, ...]
    which: npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class _SettledPairs:
    """Settled pairs as explanations read them."""

    left: IntArray
    right: IntArray
    scored: ScoredPairs
    calibrated: npt.NDArray[np.float32]
    rivals: npt.NDArray[np.float32]


def find_counterparts(
    asked: Asked, plan: MatchPlan, *, limits: Limits | None = None, progress: Progress | None = None
) -> Found:
    """Return the counterparts of the asking rows by ``plan``; of a plan of several passes, each settles what those before left open.

    ``limits`` hold for all passes; without them those of each pass's plan do. ``progress(stage, done, total)`` may raise Cancelled. The
    result does not depend on the order of rows, since a RecordSet is in canonical order.
    """
    stages = Stages(progress)
    number = asked.records.sources.index(asked.asking) if asked.asking in asked.records.sources else -1
    is_asked = asked.records.source_codes == number
    # How common a name is, the reference tells: a list may hold it in every row.
    records = with_what_all_teach(replace(asked.records, counted=~is_asked))
    first, count = int(np.argmax(is_asked)) if is_asked.any() else 0, int(is_asked.sum())
    verdicts = np.full(count, VERDICTS.index(Verdict.NONE), dtype=np.int8)
    settled_in = np.zeros(count, dtype=np.int8)
    parts: list[_PassFound] = []
    counts: list[Mapping[str, int]] = []
    compared = 0
    for place, (one, own) in enumerate(plan.in_order()):
        working = _works_on(one, verdicts)
        rows = np.zeros(len(records), dtype=np.bool_)
        rows[first : first + count] = working
        matched = _match(asked, records, own, Sides(rows, ~is_asked), number, stages)
        compared += int(matched.histogram.sum())
        own_limits = limits or Limits(own.limits.same, own.limits.unsure)
        found = _told(matched, asked, first, count, own_limits)
        # A later pass says more of a row it works on; where it finds nothing, what an earlier one said stands.
        better = working & ((found.told.verdicts != VERDICTS.index(Verdict.NONE)) | (place == 0))
        parts = [_without(part, better) for part in parts] + [_without(found, ~better)]
        verdicts[better], settled_in[better] = found.told.verdicts[better], place
        counts.append(_counted(verdicts, working))
    return _joined(parts, verdicts, first, settled_in, tuple(counts), compared, stages.seconds)


def _works_on(one: Pass, verdicts: npt.NDArray[np.int8]) -> Flags:
    """Return which rows a pass works on."""
    if one.works_on == "everything":
        return np.ones(len(verdicts), dtype=np.bool_)
    if one.works_on == "ambiguous":
        return np.isin(verdicts, [VERDICTS.index(Verdict.SEVERAL), VERDICTS.index(Verdict.UNSURE)])
    unmatched: Flags = verdicts != VERDICTS.index(Verdict.MATCHED)
    return unmatched


def _counted(verdicts: npt.NDArray[np.int8], working: Flags) -> Mapping[str, int]:
    counted = np.bincount(verdicts[working], minlength=len(VERDICTS)).tolist()
    return {"in": int(working.sum()), **{verdict.value: counted[place] for place, verdict in enumerate(VERDICTS)}}


def _match(asked: Asked, records: RecordSet, plan: MatchPlan, sides: Sides, number: int, stages: Stages) -> Round:
    meets = np.zeros((len(records.sources),) * 2, dtype=np.bool_)
    if number >= 0:
        meets[number, :] = meets[:, number] = True
        meets[number, number] = False
    promised = np.array([source in asked.without_duplicates for source in records.sources], dtype=np.bool_)
    if plan.scope.one_to_one:
        promised[:] = True
    decisions = asked.decisions or Decisions.none()
    again = _ordered(decisions.same)
    twins = Twins(np.arange(len(records.sources)) != number, asked.groups) if asked.groups is not None else None
    scope = sides.both(sides_of_scope(records, plan.scope, None))
    given = Given(
        plan, meets, ~promised, decisions, scope, again, twins, repeating=None if plan.scope.one_to_one else number
    )
    return match_in_rounds(records, given, stages)[0]


def _told(matched: Round, asked: Asked, first: int, count: int, limits: Limits) -> _PassFound:
    """Return what a round found of every row; what a person decided stands."""
    decisions = asked.decisions or Decisions.none()
    pairs = _with_confirmed(matched, decisions)
    is_left = (pairs.left >= first) & (pairs.left < first + count)
    rows = np.where(is_left, pairs.left, pairs.right) - np.int32(first)
    others = np.where(is_left, pairs.right, pairs.left)
    bits = pairs.scored.bits.astype(np.float64)
    bits[pairs.scored.vetoed] = -np.inf
    codes = _codes(pairs.left, pairs.right, len(matched.records))
    bits[np.isin(codes, _codes(*_ordered(decisions.different), len(matched.records)))] = -np.inf
    bits[np.isin(codes, _codes(*_ordered(decisions.same), len(matched.records)))] = np.inf
    groups = others if asked.groups is None else asked.groups[others]
    told = ranked(rows, others, bits, groups, count=count, limits=limits)
    chosen = told.pairs
    scored = pairs.scored.at(chosen)
    shown = _SettledPairs(
        pairs.left[chosen], pairs.right[chosen], scored, pairs.calibrated[chosen], pairs.rivals[chosen]
    )
    texts, which = distinct_sentences(matched.scorer, shown)
    return _PassFound(told, scored.bits, matched.calibration.probability(scored.bits), tuple(texts), which)


def _with_confirmed(matched: Round, decisions: Decisions) -> _SettledPairs:
    """Return the settled pairs, and with them those that a person confirmed although too little speaks for them."""
    settled, count = matched.settled, len(matched.records)
    left, right = _ordered(decisions.same)
    missing = ~np.isin(_codes(left, right, count), _codes(settled.left, settled.right, count))
    left, right = left[missing], right[missing]
    more = matched.scorer.score(left, right)
    scored, nothing = settled.scored.joined(more), np.zeros(len(left), dtype=np.float32)
    return _SettledPairs(
        np.concatenate((settled.left, left)), np.concatenate((settled.right, right)), scored,
        np.concatenate((settled.calibrated, nothing)), np.concatenate((settled.rivals, nothing)),
    )  # fmt: skip


def _ordered(pairs: IntArray) -> tuple[IntArray, IntArray]:
    """Return pairs of records, rows in either order, as (smaller, larger)."""
    ordered = np.sort(pairs, axis=1)
    return ordered[:, 0].astype(np.int32), ordered[:, 1].astype(np.int32)


def _codes(left: IntArray, right: IntArray, count: int) -> npt.NDArray[np.int64]:
    return left.astype(np.int64) * count + right


def _without(part: _PassFound, rows: Flags) -> _PassFound:
    """Return what a pass found without some rows."""
    told = part.told
    stays = ~rows[told.rows] if len(told.rows) else np.zeros(0, dtype=np.bool_)
    kept = Counterpart(told.rows[stays], told.records[stays], told.ranks[stays], told.pairs[stays], told.verdicts)
    return _PassFound(kept, part.scores[stays], part.probabilities[stays], part.texts, part.which[stays])


def _joined(
    parts: list[_PassFound], verdicts: npt.NDArray[np.int8], first: int, settled_in: npt.NDArray[np.int8],
    counts: tuple[Mapping[str, int], ...], compared: int, seconds: Mapping[str, float],
) -> Found:  # fmt: skip
    rows = np.concatenate([part.told.rows for part in parts])
    ranks = np.concatenate([part.told.ranks for part in parts])
    order = np.lexsort((ranks, rows))
    offsets = np.cumsum([0, *(len(part.texts) for part in parts)])
    which = np.concatenate([part.which + offset for part, offset in zip(parts, offsets[:-1], strict=True)])
    told = Counterpart(
        rows[order], np.concatenate([part.told.records for part in parts])[order], ranks[order],
        np.concatenate([part.told.pairs for part in parts])[order], verdicts,
    )  # fmt: skip
    return Found(
        told, first, np.concatenate([part.scores for part in parts])[order],
        np.concatenate([part.probabilities for part in parts])[order],
        (tuple(text for part in parts for text in part.texts), which[order]), settled_in, counts, compared, seconds,
    )  # fmt: skip
