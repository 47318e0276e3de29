"""The evidence of pairs of a run, made into sentences when somebody reads them."""

import numpy as np
from sqlalchemy.orm import Session

from ...core.explain import Beside, Evidence, explain_pair, sentence_of
from ...core.kinds_of_doubt import doubt_in_words
from ...core.plan import parse_plan
from ...core.scoring import Calibration
from ...store.matching import pair_of_run
from ...store.tables import Plan, Register, Run, RunPair
from .layouts import layout_of


class EvidenceReader:
    """Reads the pairs of one run by the plan that it followed."""

    def __init__(self, session: Session, register: Register, run: Run) -> None:
        self._session, self._run = session, run
        self.plan = parse_plan(run.yaml or session.get_one(Plan, run.plan_id).yaml, layout_of(register))
        # Runs of earlier versions knew one pass, told in the report itself.
        passes = run.report.get("passes", [run.report])
        self._calibrations = [
            Calibration(**told["calibration"]) if "calibration" in told else Calibration() for told in passes
        ]

    def pair(self, left_id: int, right_id: int) -> RunPair | None:
        """Return a pair that the run kept, or None."""
        return pair_of_run(self._session, self._run.id, min(left_id, right_id), max(left_id, right_id))

    def evidence(self, pair: RunPair) -> tuple[Evidence, ...]:
        """Return what each comparison said of a pair, so that all bits add up to its score."""
        bits = (np.frombuffer(pair.bits, dtype="<i2") / 100).tolist()
        compared = len(pair.levels)
        # Runs of earlier versions kept where scores start once, and knew nothing else beside the evidence.
        beside = Beside(*bits[compared:]) if len(bits) > compared else Beside(self._run.report.get("starting", 0.0))
        return explain_pair(
            self.plan.of_pass(pair.passed),
            list(pair.levels),
            bits[:compared],
            beside=beside,
            score=pair.score,
            condition=pair.condition,
        )

    def reason(self, pair: RunPair) -> str:
        """Return one sentence that says why a pair scored as it did."""
        return sentence_of(self.evidence(pair))

    def probability(self, pair: RunPair) -> float:
        """Return how likely a pair is the same, by the decisions that the run knew."""
        return round(float(self._calibrations[pair.passed].probability(np.array([pair.score], dtype=np.float32))[0]), 4)

    def kind_in_words(self, kind: str) -> str:
        """Return a kind of doubt as a person says it."""
        return doubt_in_words(kind, self.plan)
