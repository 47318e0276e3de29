"""Where a match gets what is costly to make: block indexes and prepared comparisons, made afresh or kept from the last time.

A match of an edited plan over the same records needs most of them again. What is kept is told apart by all it was made from, so that
a match with a workshop that keeps things comes out exactly as one without.
"""

from collections import OrderedDict
from collections.abc import Callable
from hashlib import blake2b
from threading import Lock
from typing import TypeVar

import numpy as np
import orjson

from .blocking import BlockIndex, build_index
from .compare.base import Measure, Measured
from .plan import ComparisonRule, MatchPlan
from .records import IntArray, RecordSet
from .scoring import prepare_rule
from .sides import Sides
from .tidying import with_what_all_teach

Progress = Callable[[str, int, int], None]
Thing = TypeVar("Thing")


class Workshop:
    """Makes everything afresh."""

    def finished(self, tidy: RecordSet) -> RecordSet:
        """Return tidy records with what all of them together teach."""
        return with_what_all_teach(tidy)

    def index(self, records: RecordSet, plan: MatchPlan, sides: Sides, progress: Progress) -> BlockIndex:
        """Return the blocks of a plan of a single pass."""
        return build_index(
            records, plan.blocking_keys(), plan.narrowing_keys(), plan.blocking.most_records, progress,
            sides=None if sides.are_all else sides,
        )  # fmt: skip

    def measure_of(self, rule: ComparisonRule, records: RecordSet) -> Measure:
        """Return the comparison of a rule, prepared for the records."""
        return prepare_rule(rule, records)


def rule_identity(rule: ComparisonRule, records: RecordSet) -> bytes:
    """Return what the levels that a comparison gives for records depend on: not its label, nor what the levels are worth.

    Only where a field holds several values, which two of them count goes by what the levels are expected to be worth.
    """
    of_levels = {"field", "using", "options"}
    of_choice = {"among_same", "bits", "strength"} if records.places(rule.field) > 1 else set()
    return orjson.dumps(rule.model_dump(include=of_levels | of_choice), option=orjson.OPT_SORT_KEYS)


def digest(*arrays: IntArray) -> bytes:
    """Return a digest of what arrays hold."""
    taken = blake2b(digest_size=16)
    for array in arrays:
        taken.update(np.ascontiguousarray(array).data)
    return taken.digest()


class _Kept:
    """Measured pairs by what they were measured from, those used last; no more than fit into so many bytes."""

    def __init__(self, most_bytes: int) -> None:
        self._most, self._bytes = most_bytes, 0
        self._found: OrderedDict[tuple[bytes, bytes], Measured] = OrderedDict()
        self._lock = Lock()

    def get(self, key: tuple[bytes, bytes]) -> Measured | None:
        with self._lock:
            found = self._found.get(key)
            if found is not None:
                self._found.move_to_end(key)
            return found

    def put(self, key: tuple[bytes, bytes], measured: Measured) -> None:
        size = measured.levels.nbytes + measured.shared.nbytes
        with self._lock:
            if key in self._found or size > self._most:
                return
            while self._bytes + size > self._most:
                _, gone = self._found.popitem(last=False)
                self._bytes -= gone.levels.nbytes + gone.shared.nbytes
            self._found[key] = measured
            self._bytes += size

    @property
    def kept_bytes(self) -> int:
        return self._bytes


#: So many block indexes and prepared comparisons are kept of each of so many sets of records, those used last.
_MOST_INDEXES, _MOST_COMPARISONS, _MOST_SETS = 2, 24, 3


class _Shelf:
    """What is kept of one set of records, which it holds on to, so that no other takes its place in memory."""

    def __init__(self, records: RecordSet, number: int) -> None:
        self.records, self.number = records, number.to_bytes(8, "big")
        self.indexes: OrderedDict[bytes, BlockIndex] = OrderedDict()
        self.measures: OrderedDict[bytes, Measure] = OrderedDict()


class KeepingWorkshop(Workshop):
    """Keeps what it made, for the sets of records used last: safe to use from several threads, in bounded memory.

    ``most_bytes`` bounds the levels and shared information of pairs that are kept.
    """

    def __init__(self, most_bytes: int) -> None:
        self._finished: tuple[RecordSet, RecordSet] | None = None
        self._shelves: OrderedDict[int, _Shelf] = OrderedDict()
        self._made = 0
        self._kept = _Kept(most_bytes)
        self._lock = Lock()

    @property
    def kept_bytes(self) -> int:
        """Return how many bytes of measured pairs are kept."""
        return self._kept.kept_bytes

    def finished(self, tidy: RecordSet) -> RecordSet:
        """Return tidy records with what all of them together teach; of the same records the same set."""
        if self._finished is None or self._finished[0] is not tidy:
            self._finished = (tidy, super().finished(tidy))
        return self._finished[1]

    def index(self, records: RecordSet, plan: MatchPlan, sides: Sides, progress: Progress) -> BlockIndex:
        """Return the blocks of a plan, as kept where blocking is the same."""
        indexes = self._shelf(records).indexes
        blocking = plan.blocking.model_dump_json(include={"most_records", "keys", "narrow_by"}).encode()
        key = blocking + digest(sides.one.view(np.int8), sides.other.view(np.int8))
        return self._kept_or(indexes, key, _MOST_INDEXES, lambda: Workshop.index(self, records, plan, sides, progress))

    def measure_of(self, rule: ComparisonRule, records: RecordSet) -> Measure:
        """Return the prepared comparison of a rule, whose measurements are kept."""
        shelf, identity = self._shelf(records), rule_identity(rule, records)
        fresh = self._kept_or(
            shelf.measures, identity, _MOST_COMPARISONS, lambda: Workshop.measure_of(self, rule, records)
        )

        def measure(left: IntArray, right: IntArray) -> Measured:
            key = (shelf.number + identity, digest(left, right))
            found = self._kept.get(key)
            if found is None:
                found = fresh(left, right)
                self._kept.put(key, found)
            return found

        return measure

    def _shelf(self, records: RecordSet) -> _Shelf:
        with self._lock:
            shelf = self._shelves.get(id(records))
            if shelf is None:
                self._made += 1
                shelf = self._shelves[id(records)] = _Shelf(records, self._made)
            self._shelves.move_to_end(id(records))
            while len(self._shelves) > _MOST_SETS:
                self._shelves.popitem(last=False)
            return shelf

    def _kept_or(self, kept: OrderedDict[bytes, Thing], key: bytes, most: int, make: Callable[[], Thing]) -> Thing:
        with self._lock:
            found = kept.get(key)
        made = make() if found is None else found
        with self._lock:
            kept[key] = made
            kept.move_to_end(key)
            while len(kept) > most:
                kept.popitem(last=False)
        return made
