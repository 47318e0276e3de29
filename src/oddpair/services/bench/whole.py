"""The effect of a plan without a bench that is kept: both plans are matched wholly, once, and held against each other."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ...core.bench import Bench, BenchInput
from ...core.learning import as_untaught
from ...core.tidying import Progress
from ..match.run_plan import Trial, read_match_input
from ..transactions import SessionFactory, transaction
from .benches import BenchOfRegister
from .measuring import measure_plan
from .tries import asked_for, try_plan


@dataclass(frozen=True, slots=True)
class Effect:
    """What a plan does against another one, as counts and figures for a report."""

    pairs: dict[str, int]
    golden_records: int
    against: dict[str, int]
    quality: dict[str, dict[str, float]]
    f1_gained: dict[str, float]
    decisions: int

    def report(self) -> dict[str, Any]:
        """Return the effect as a report."""
        return {
            "pairs": self.pairs, "golden_records": self.golden_records, "against": self.against, "decisions": self.decisions,
            "quality": self.quality, "f1_gained": self.f1_gained,
        }  # fmt: skip


def effect_of(
    sessions: SessionFactory, slug: str, yaml: str, against: int, progress: Progress, kept: Path | None = None
) -> Effect:
    """Return what a plan given as text would do to a register, against a version of its plan (0: the one in force). Changes nothing."""
    with transaction(sessions) as session:
        given = read_match_input(session, slug, tidy=True, trial=Trial("", yaml), kept=kept)
    own = BenchOfRegister(
        Bench(BenchInput(given.records, given.decisions, tuple(given.promised), given.known)), given.ids, given.records_version, ()
    )  # fmt: skip
    with transaction(sessions) as session:
        asked = asked_for(session, slug, yaml, against=against)
    own.bench.settle_undecided(as_untaught(asked.against), progress)
    own.bench.settle(asked.against, progress, hold_pairs=False)
    own.bench.settle(asked.plan, progress)
    tried = try_plan(own, asked)
    with transaction(sessions) as session:
        measured = measure_plan(session, slug, own, asked)
    settled = tried.settled
    assert settled is not None
    quality = measured.own.quality
    figures = {name: getattr(quality, name) for name in ("precision", "recall", "f1")}
    return Effect(
        {"same": settled.same, "unsure": settled.unsure, "compared": settled.compared}, settled.clusters,
        {
            "version": asked.against_version, "gained": settled.gained or 0, "lost": settled.lost or 0,
            "joining": settled.joining or 0, "cutting": settled.cutting or 0,
        },
        {name: {part: round(getattr(one, part), 4) for part in ("value", "low", "high")} for name, one in figures.items()},
        {part: round(getattr(measured.f1_gained, part), 4) for part in ("value", "low", "high")},
        measured.decided + measured.known,
    )  # fmt: skip
