"""Looking up whom records may be among those that are there, by what a match learned: the same score as recognising them would give.

Many records are looked up at a time: preparing comparisons takes as long for fifty records as for one.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from ..explain import Beside, explain_pair, sentence_of
from ..learned_round import settled_by_learning
from ..records import RecordSet, RecordSetBuilder
from ..scoring import Scorer
from .recognise import ByPlan, Ids

#: Under this name, which comes before every other, the records that are asked for stand among the others.
_ASKED = "\0asked"
Tidy = Mapping[str, str]
#: A record that is there: its id, its source, the source's id, its tidy values, and the group of records it belongs to.
Other = tuple[int, str, str, Tidy, int]


@dataclass(frozen=True, slots=True)
class FoundRecord:
    """A record that the one asked for may be: its id, the score in bits, the probability that the two are one, the verdict, and one
    sentence why."""

    id: int
    score: float
    probability: float
    verdict: Literal["same", "unsure"]
    reason: str


@dataclass(frozen=True, slots=True)
class Near:
    """Which records are to be compared with which asked ones: ``asked[k]`` by its place with the record ``ids[k]``."""

    asked: npt.NDArray[np.int64]
    ids: Ids


def _add_asked(builder: RecordSetBuilder, asked: Sequence[Tidy]) -> None:
    for place, tidy in enumerate(asked):
        builder.add(_ASKED, f"{place:06d}", tidy)


def asked_records(asked: Sequence[Tidy]) -> RecordSet:
    """Return the records that are asked for, given by their tidy values, in their order."""
    builder = RecordSetBuilder()
    _add_asked(builder, asked)
    return builder.build()


def look_up(
    asked: Sequence[Tidy], others: Sequence[Other], near: Near, by: ByPlan, best: int
) -> list[list[FoundRecord]]:
    """Return whom each of some records, given by their tidy values, may be among ``others``, of those ``near`` it: the likeliest record of
    each of up to ``best`` groups, the likeliest first."""
    builder = RecordSetBuilder()
    _add_asked(builder, asked)
    for _, source, own, tidy, _ in others:
        builder.add(source, own, tidy)
    nobody, order = np.full(len(asked), -1, dtype=np.int64), builder.order()
    ids, groups = (
        np.concatenate((nobody, np.array([other[place] for other in others], dtype=np.int64)))[order]
        for place in (0, 4)
    )
    records = by.learned.finished(builder.build())
    left, right = _pairs(near, ids, len(asked))
    found = _found(records, ids, left, right, groups, by, best)
    return [found.get(place, []) for place in range(len(asked))]


def _pairs(near: Near, ids: Ids, asked: int) -> tuple[npt.NDArray[np.int32], npt.NDArray[np.int32]]:
    """Return the pairs of record numbers that are near each other; asked records have the first numbers."""
    by_id = np.argsort(ids, kind="stable")
    places = np.minimum(np.searchsorted(ids, near.ids, sorter=by_id), len(ids) - 1)
    numbers = by_id[places]
    here = (ids[numbers] == near.ids) & (numbers >= asked)
    return near.asked[here].astype(np.int32), numbers[here].astype(np.int32)


def _found(
    records: RecordSet, ids: Ids, left: npt.NDArray[np.int32], right: npt.NDArray[np.int32], groups: Ids, by: ByPlan, best: int
) -> dict[int, list[FoundRecord]]:  # fmt: skip
    [(_, plan)] = by.plan.in_order()
    scorer = by.learned.scorer(records, plan)
    settled = settled_by_learning(scorer, left, right, records, by.learned)
    bits = settled.scored.bits
    kept = np.flatnonzero(scorer.kept(settled.scored))
    kept = kept[np.lexsort((ids[right[kept]], -bits[kept], left[kept]))]
    # Of each group the likeliest, which comes first.
    _, first = np.unique(np.stack((left[kept], groups[right[kept]])), axis=1, return_index=True)
    kept = kept[np.sort(first)]
    # How many of the same asked record stand before each.
    starts = np.searchsorted(left[kept], left[kept])
    chosen = kept[np.arange(len(kept)) - starts < best]
    same = scorer.same(settled.scored)
    chances = by.learned.calibration.probability(bits)
    found: dict[int, list[FoundRecord]] = {}
    for pair, reason in zip(
        chosen.tolist(), _reasons(scorer, left, right, settled.calibrated, bits, chosen), strict=True
    ):
        verdict: Literal["same", "unsure"] = "same" if same[pair] else "unsure"
        score, chance = round(float(bits[pair]), 2), round(float(chances[pair]), 4)
        one = FoundRecord(int(ids[right[pair]]), score, chance, verdict, reason)
        found.setdefault(int(left[pair]), []).append(one)
    return found


def _reasons(
    scorer: Scorer, left: npt.NDArray[np.int32], right: npt.NDArray[np.int32], calibrated: npt.NDArray[np.float32],
    scores: npt.NDArray[np.float32], chosen: npt.NDArray[np.intp],
) -> list[str]:  # fmt: skip
    parts = scorer.parts(left[chosen], right[chosen])
    conditions = scorer.scored(parts).condition
    return [
        sentence_of(
            explain_pair(
                scorer.plan, parts.levels[:, row].tolist(), np.round(parts.evidence[:, row].astype(np.float64), 2).tolist(),
                beside=Beside(float(parts.starting[row]), float(parts.relatives[row]), float(calibrated[pair])),
                score=float(scores[pair]), condition=int(conditions[row]),
            )
        )
        for row, pair in enumerate(chosen.tolist())
    ]  # fmt: skip
