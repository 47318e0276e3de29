"""What a match learned of its records, so that others can be matched alike without learning anything anew.

It holds how common values were, what levels are worth, where scores start, which blocks are too large, and how sources write words. With
it the score of a pair hangs on its two records alone, and so do the verdicts on which clusters rest: a delivery that is recognised
record by record ends where a match of everything would.
"""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from io import BytesIO
from typing import Any

import numpy as np
import numpy.typing as npt
import orjson

from .blocking.learned_blocks import LargeBlocks
from .census import Counted, LearnedCensus
from .contest import OddsCurve
from .plan import MatchPlan
from .records import RecordSet
from .scoring import Calibration, Correction, LevelShares, Scorer
from .tidying import with_what_all_teach
from .wording import Rewording, WordHabit, reworded_fields


@dataclass(frozen=True, slots=True)
class BetweenSources:
    """What was learned between sources: by their names where scores ``start`` (rows and columns), between which they contest, and in
    which of them no two records are the same; with the contest's ``correction`` and ``curve``."""

    sources: tuple[str, ...]
    starts: npt.NDArray[np.float32]
    contested: npt.NDArray[np.bool_]
    free: npt.NDArray[np.bool_]
    slopes: npt.NDArray[np.float32]
    offsets: npt.NDArray[np.float32]
    curve: OddsCurve


@dataclass(frozen=True, slots=True)
class LearnedMatch:
    """All that a match learned; ``records`` it learned from, ``every_pair`` of which it compared, whatever keys they share."""

    census: LearnedCensus
    large: LargeBlocks
    every_pair: bool
    shares: tuple[LevelShares, ...]
    matches_per_record: float
    relatives_per_record: float
    records: int
    between: BetweenSources
    calibration: Calibration
    rewordings: tuple[Rewording, ...]

    def finished(self, tidy: RecordSet) -> RecordSet:
        """Return tidy records with what those that were learned from teach of them."""
        return self.prepared(with_what_all_teach(tidy.with_census(self.census)))

    def prepared(self, records: RecordSet) -> RecordSet:
        """Return tidy records, their names in the words that were found to mean the same."""
        for rewording in self.rewordings:
            records = reworded_fields(records, rewording)
        return records

    def scorer(self, records: RecordSet, plan: MatchPlan) -> Scorer:
        """Return a scorer of prepared records."""
        scorer = Scorer(records, plan, taking_part=self.records, shares=self.shares)
        scorer.learn(self.shares, self.matches_per_record, self.relatives_per_record)
        starts, contested = self._between(records.sources, scorer.starts)
        if contested.any():
            scorer.correct(starts, Correction(self.between.slopes, self.between.offsets, contested))
        return scorer

    def _between(
        self, sources: Sequence[str], usual: npt.NDArray[np.float32]
    ) -> tuple[npt.NDArray[np.float32], npt.NDArray[np.bool_]]:
        """Return where scores start between ``sources`` and which of them contest; those unknown start as ``usual``."""
        known = {name: place for place, name in enumerate(self.between.sources)}
        places = np.array([known.get(name, -1) for name in sources], dtype=np.intp)
        both = (places[:, None] >= 0) & (places[None, :] >= 0)
        starts = np.where(both, self.between.starts[np.ix_(places, places)], usual) if len(known) else usual
        contested = both & self.between.contested[np.ix_(places, places)] if len(known) else both
        return starts.astype(np.float32), contested

    def free(self, sources: Sequence[str]) -> npt.NDArray[np.bool_]:
        """Return in which of some sources no two records are the same."""
        known = dict(zip(self.between.sources, self.between.free.tolist(), strict=True))
        return np.array([known.get(name, False) for name in sources], dtype=np.bool_)

    def contested(self, sources: Sequence[str]) -> npt.NDArray[np.bool_]:
        """Return between which of some sources records choose their partners."""
        return self._between(sources, np.zeros((len(sources),) * 2, dtype=np.float32))[1]


def _blocks_as_arrays(large: LargeBlocks) -> dict[str, npt.NDArray[Any]]:
    return {f"large {key} {stage}": hashes for (key, stage), hashes in large.items()}


def to_bytes(learned: LearnedMatch) -> bytes:
    """Return what was learned as bytes, in NumPy's open archive form."""
    between, census = learned.between, learned.census
    arrays: dict[str, npt.NDArray[Any]] = _blocks_as_arrays(learned.large)
    for number, table in enumerate(census.tables.values()):
        arrays[f"hashes {number}"], arrays[f"figures {number}"] = table.hashes, table.figures
    for number, shares in enumerate(learned.shares):
        arrays[f"same {number}"], arrays[f"different {number}"] = shares.same, shares.different
        arrays[f"related {number}"] = shares.related
    arrays |= {
        "starts": between.starts, "contested": between.contested, "free": between.free, "slopes": between.slopes,
        "offsets": between.offsets, "points": between.curve.points, "values": between.curve.values,
    }  # fmt: skip
    rewordings = [
        {field: [asdict(habit) for habit in habits] for field, habits in one.items()} for one in learned.rewordings
    ]
    told = {
        "tables": list(census.tables), "numbers": census.numbers, "words": census.words, "every_pair": learned.every_pair,
        "shares": len(learned.shares), "matches_per_record": learned.matches_per_record,
        "relatives_per_record": learned.relatives_per_record, "records": learned.records, "sources": between.sources,
        "sure": between.curve.sure, "calibration": asdict(learned.calibration), "rewordings": rewordings,
    }  # fmt: skip
    arrays["told"] = np.frombuffer(orjson.dumps(told), dtype=np.uint8)
    written = BytesIO()
    np.savez_compressed(written, allow_pickle=False, **arrays)
    return written.getvalue()


def from_bytes(kept: bytes) -> LearnedMatch:
    """Return what ``to_bytes`` wrote."""
    with np.load(BytesIO(kept), allow_pickle=False) as archive:
        arrays = {name: archive[name] for name in archive.files}
    told = orjson.loads(arrays["told"].tobytes())
    tables = {
        name: Counted(arrays[f"hashes {number}"], arrays[f"figures {number}"])
        for number, name in enumerate(told["tables"])
    }
    large = {
        (int(key), int(stage)): hashes
        for name, hashes in arrays.items() if name.startswith("large ")
        for _, key, stage in [name.split()]
    }  # fmt: skip
    shares = tuple(
        LevelShares(arrays[f"same {number}"], arrays[f"different {number}"], arrays[f"related {number}"])
        for number in range(told["shares"])
    )
    between = BetweenSources(
        tuple(told["sources"]), arrays["starts"], arrays["contested"], arrays["free"], arrays["slopes"], arrays["offsets"],
        OddsCurve(arrays["points"], arrays["values"], told["sure"]),
    )  # fmt: skip
    rewordings = tuple(
        {field: tuple(WordHabit(**habit) for habit in habits) for field, habits in one.items()}
        for one in told["rewordings"]
    )
    return LearnedMatch(
        LearnedCensus(tables, told["numbers"], told["words"]), large, told["every_pair"], shares, told["matches_per_record"],
        told["relatives_per_record"], told["records"], between, Calibration(**told["calibration"]), rewordings,
    )  # fmt: skip
