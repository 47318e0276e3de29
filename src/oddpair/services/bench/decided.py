"""What people decided, as the bench reads it: by the places of pairs among the held ones, and by the numbers of their records."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from sqlalchemy.orm import Session

from ...core.bench import HeldPairs
from ...core.bench.held import Codes, pair_codes
from ...core.bench.measure import DecidedPlaces
from ...core.records import IntArray
from ..match.run_plan import decisions_for
from .benches import BenchOfRegister


@dataclass(frozen=True, slots=True)
class DecidedPairs:
    """Decided pairs of records of the bench (``left`` < ``right``), and whether each is the same."""

    left: IntArray
    right: IntArray
    same: npt.NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.left)

    @property
    def codes(self) -> Codes:
        """Return a number for each of the pairs."""
        return pair_codes(self.left, self.right)


def decided_pairs(session: Session, register_id: int, own: BenchOfRegister) -> DecidedPairs:
    """Return the decisions in force about records of the bench, as they are now."""
    found = decisions_for(session, register_id, own.ids)
    pairs = np.concatenate((found.same, found.different)).astype(np.int32)
    same = np.arange(len(pairs)) < len(found.same)
    return DecidedPairs(pairs[:, 0].copy(), pairs[:, 1].copy(), same)


def decided_places(held: HeldPairs, decided: DecidedPairs) -> DecidedPlaces:
    """Return the decided pairs that are held."""
    places, which = held.places_of(decided.codes)
    return DecidedPlaces(places, decided.same[which])


def numbers_of(own: BenchOfRegister, pairs: list[tuple[int, int]]) -> tuple[IntArray, IntArray, npt.NDArray[np.intp]]:
    """Return (left, right, which pairs), as record numbers of the bench, of pairs of ids that it knows."""
    wanted = np.array(pairs, dtype=np.int64).reshape(-1, 2)
    order = np.argsort(own.ids)
    at = np.minimum(np.searchsorted(own.ids[order], wanted), max(len(own.ids) - 1, 0))
    numbers = order[at]
    known = np.flatnonzero((own.ids[numbers] == wanted).all(axis=1))
    left, right = numbers[known].min(axis=1, initial=2**31 - 1), numbers[known].max(axis=1, initial=0)
    return left.astype(np.int32), right.astype(np.int32), known
