"""What a merge would do: the clusters of the standing run, with the decisions made since, against membership as it is."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import inf

import numpy as np
import numpy.typing as npt
from sqlalchemy.orm import Session

from ...core.clustering import recut
from ...core.clustering.decided import apply_decisions
from ...core.errors import Refused
from ...core.golden_keys import Changes, plan_changes
from ...store import journal
from ...store.decisions import decided_among, decisions_in_force, sides_among
from ...store.matching import pairs_among
from ...store.membership import (
    belonging_together,
    cluster_arrays,
    membership,
    newcomers_of,
    present_of_run,
    unrecognisable,
)  # fmt: skip
from ...store.registers import standing_run
from ...store.tables import Register
from .newcomers import NEVER, UNLESS_KNOWN, left_out

Numbers = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class MergePlan:
    """The changes that a merge would make. ``contradicting`` decided pairs cannot be followed, since decisions contradict each
    other; clusters that hold a pair decided as different (``torn``) since the run come apart along their weakest links.
    ``seen`` names the state that this was planned on.
    """

    run_id: int
    changes: Changes
    contradicting: list[tuple[int, int]]
    torn: list[tuple[int, int]]
    seen: str


class _Sorted:
    """Numbers of records, ascending, with what each belongs to."""

    def __init__(self, records: Numbers, owners: Numbers) -> None:
        self.records, self.owners = records, owners

    def place(self, wanted: Iterable[int]) -> Numbers:
        """Return where records stand, -1 for those that are not here."""
        asked = np.fromiter(wanted, dtype=np.int64)
        if not len(self.records):
            return np.full(len(asked), -1)
        places = np.minimum(np.searchsorted(self.records, asked), len(self.records) - 1)
        return np.where(self.records[places] == asked, places, -1)

    def of(self, wanted: Iterable[int]) -> Numbers:
        """Return what records belong to, -1 for those that are not here."""
        places = self.place(wanted)
        return np.where(places >= 0, self.owners[places] if len(self.owners) else -1, -1)


def seen_state(session: Session, register_id: int, run_id: int) -> str:
    """Return a name of all that a merge hangs on: the standing run and every act in the register up to now."""
    return f"{run_id}.{journal.latest_position(session, register_id)}"


def plan_merge(session: Session, register: Register, among: Numbers | None = None) -> MergePlan:
    """Return what merging now would do, to all records or to those that belong together with some; raise Refused if there is no run yet."""
    run = standing_run(session, register.id)
    if run is None:
        raise Refused("There is no run to merge yet. Run the match first.")
    seen = seen_state(session, register.id, run.id)
    if among is None:
        clusters = _Sorted(*cluster_arrays(session, run.id))
        present = present_of_run(session, run.id)
        if len(present) < len(clusters.records):
            clusters = _Sorted(present, clusters.of(present))
        golden = _Sorted(*membership(session, register.id))
        decided = decisions_in_force(session, register.id)
    else:
        around = belonging_together(session, run.id, among.tolist())
        clusters, golden = _Sorted(*around.clusters), _Sorted(*around.golden)
        decided = decided_among(session, register.id, clusters.records.tolist())
    same = [(item.left_id, item.right_id) for item in decided if item.verdict == "same"]
    different = [(item.left_id, item.right_id) for item in decided if item.verdict == "different"]
    contradicting = _join_decided(clusters, same, different)
    torn = _recut(session, run.id, clusters, same, different)
    _part_unrecognisable(session, register, clusters, golden)
    clusters = _without_refused(session, register.id, clusters, golden)
    return MergePlan(run.id, _changes(clusters, golden), contradicting, torn, seen)


def _without_refused(session: Session, register_id: int, clusters: _Sorted, golden: _Sorted) -> _Sorted:
    """Return the clusters without the records that may not join them, or make golden records."""
    records, creates = newcomers_of(session, register_id)
    places = clusters.place(records)
    if not (places >= 0).any():
        return clusters
    flags = np.zeros((2, len(clusters.records)), dtype=np.bool_)
    for row, word in enumerate((NEVER, UNLESS_KNOWN)):
        flags[row, places[(places >= 0) & (creates == word)]] = True
    held = golden.of(clusters.records) >= 0
    stays = ~left_out(clusters.owners, held, *(flags & ~held))
    return _Sorted(clusters.records[stays], clusters.owners[stays])


#: Records of a golden record that may not be recognised are called by its number below this one, which nobody else is called by.
_APART = -(2**40)


def _part_unrecognisable(session: Session, register: Register, clusters: _Sorted, golden: _Sorted) -> None:
    """Take the records of golden records that may not be recognised out of clusters with newcomers, who would join them."""
    if not register.recognisable:
        return
    belongs = golden.of(clusters.records)
    with_newcomers = np.isin(clusters.owners, clusters.owners[belongs < 0]) & (belongs >= 0)
    apart = unrecognisable(session, np.unique(belongs[with_newcomers]).tolist(), register.recognisable)
    rows = np.flatnonzero(with_newcomers & np.isin(belongs, apart))
    clusters.owners[rows] = _APART - belongs[rows]


def _members_of(clusters: _Sorted, chosen: Numbers) -> npt.NDArray[np.intp]:
    return np.flatnonzero(np.isin(clusters.owners, chosen))


def _join_decided(
    clusters: _Sorted, same: Sequence[tuple[int, int]], different: Sequence[tuple[int, int]]
) -> list[tuple[int, int]]:
    """Join clusters by decided pairs; return those that other decisions forbid."""
    if not same:
        return []
    ends = clusters.of(record for pair in same for record in pair)
    touched = _members_of(clusters, ends[ends >= 0])
    owners = dict(zip(clusters.records[touched].tolist(), clusters.owners[touched].tolist(), strict=True))
    joined, ignored = apply_decisions(owners, same, different)
    clusters.owners[touched] = [joined[record] for record in clusters.records[touched].tolist()]
    return ignored


def _recut(
    session: Session,
    run_id: int,
    clusters: _Sorted,
    same: Sequence[tuple[int, int]],
    different: Sequence[tuple[int, int]],
) -> list[tuple[int, int]]:
    """Take clusters that hold a pair decided as different apart along their weakest links; return those pairs."""
    left, right = clusters.of(a for a, _ in different), clusters.of(b for _, b in different)
    torn = [pair for pair, a, b in zip(different, left.tolist(), right.tolist(), strict=True) if a == b and a >= 0]
    if not torn:
        return []
    rows = _members_of(clusters, clusters.of(a for a, _ in torn))
    records = clusters.records[rows].tolist()
    within = dict(zip(records, clusters.owners[rows].tolist(), strict=True))
    links = [
        (pair.left_id, pair.right_id, pair.score)
        for pair in pairs_among(session, run_id, records)
        if within[pair.left_id] == within[pair.right_id]
    ]
    links += [(a, b, inf) for a, b in same if a in within and b in within]
    # Groups that a person told apart stay together by what else holds them, or by that alone.
    links += [(a, b, -inf) for side in sides_among(session, records) for a, b in pairwise(side)]
    parts = recut(records, links, torn)
    # Records of one cluster are called by their smallest one, which no other cluster is called by.
    clusters.owners[rows] = [parts[record] for record in records]
    return torn


def _changes(clusters: _Sorted, golden: _Sorted) -> Changes:
    """Return the changes that make golden records equal to clusters; what agrees already is passed over as whole arrays.

    Records that the run did not see stay with their golden record, wherever most of its other records go.
    """
    belongs = golden.of(clusters.records)
    _, number = np.unique(clusters.owners, return_inverse=True)
    count = int(number.max(initial=-1)) + 1
    sizes = np.bincount(number, minlength=count)
    least, most = np.full(count, np.iinfo(np.int64).max), np.full(count, -1, dtype=np.int64)
    np.minimum.at(least, number, belongs)
    np.maximum.at(most, number, belongs)
    keys, key_sizes = np.unique(golden.owners, return_counts=True)
    owner = _Sorted(keys, key_sizes)
    settled = (least == most) & (least >= 0) & (owner.of(least) == sizes)
    new = most < 0
    rows = np.flatnonzero(~(settled | new)[number])
    cluster_of = dict(zip(clusters.records[rows].tolist(), clusters.owners[rows].tolist(), strict=True))
    concerned = np.unique(belongs[rows][belongs[rows] >= 0])
    of_concerned = np.flatnonzero(np.isin(golden.owners, concerned))
    golden_of = dict(zip(golden.records[of_concerned].tolist(), golden.owners[of_concerned].tolist(), strict=True))
    unseen = [record for record in golden_of if record not in cluster_of]
    cluster_of |= _with_their_golden(unseen, golden_of, cluster_of)
    fresh = np.flatnonzero(new[number])
    return Changes(clusters.records[fresh], clusters.owners[fresh], plan_changes(cluster_of, golden_of))


def _with_their_golden(unseen: Sequence[int], golden_of: dict[int, int], cluster_of: dict[int, int]) -> dict[int, int]:
    """Return the clusters of records that the run did not see: that of most known records of their golden record."""
    wanted = {golden_of[record] for record in unseen}
    votes: dict[int, dict[int, int]] = {}
    for record, golden in golden_of.items():
        if golden in wanted and record in cluster_of:
            counts = votes.setdefault(golden, {})
            counts[cluster_of[record]] = counts.get(cluster_of[record], 0) + 1
    best = {golden: min(counts, key=lambda cluster: (-counts[cluster], cluster)) for golden, counts in votes.items()}
    return {record: best.get(golden_of[record], -1 - golden_of[record]) for record in unseen}
