"""What blocking misses, told from some records that were held against all others."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from sqlalchemy.orm import Session

from ...core.bench.held import pair_codes
from ...core.bench.outside import look_outside, missed_pairs
from ...core.evaluation import Estimate
from ...core.plan import plan_to_yaml
from ...store.bench import add_sample, pairs_of_sample, sample_of
from ...store.registers import register_by_slug
from ...store.tables import BenchSample
from ..transactions import transaction
from .benches import Benches, BenchOfRegister, Progress
from .border import BorderPair
from .decided import decided_pairs, numbers_of
from .measuring import open_pairs_of
from .tries import Asked

OUTSIDE = "outside"
#: No more pairs of a look are kept; there are more only where blocking is far too narrow.
_MOST_KEPT = 2_000


@dataclass(frozen=True, slots=True)
class OutsideShown:
    """A look outside the blocks: ``drawn`` of ``records`` records were held against all others; ``found`` pairs of those score at or above
    the lower limit, of which ``decided`` are decided and ``same`` the same; ``missed`` is what that says of all records."""

    records: int
    drawn: int
    looked_at: int
    found: int
    decided: int
    same: int
    missed: Estimate
    drawn_at: datetime
    drawn_by: str


def look(benches: Benches, slug: str, own: BenchOfRegister, asked: Asked, actor: str) -> None:
    """Begin to look outside the blocks of a plan in the background."""

    def work(progress: Progress) -> None:
        plan, number = asked.plan, asked.number
        sources = own.bench.given.records.source_codes
        meets = own.bench.meets(plan, number)
        scorer, blocks = own.bench.scorer(plan, number), own.bench.blocks(plan, number)
        with transaction(benches.sessions) as session:
            register_id = register_by_slug(session, slug).id
            before = sample_of(session, register_id, OUTSIDE)
            seed = register_id + (before.id if before else 0)
        found = look_outside(scorer, blocks, sources, meets, seed, progress)
        left, right = own.ids[found.left[:_MOST_KEPT]].tolist(), own.ids[found.right[:_MOST_KEPT]].tolist()
        with transaction(benches.sessions) as session:
            row = BenchSample(
                register_id=register_id, purpose=OUTSIDE, yaml=plan_to_yaml(plan), of_pass=number, records=found.records,
                drawn=found.drawn, looked_at=found.looked_at, actor=actor,
            )  # fmt: skip
            add_sample(session, row, list(zip(left, right, strict=True)))

    benches.begin(slug, "outside", work)


def seen_outside(session: Session, slug: str, own: BenchOfRegister, asked: Asked) -> OutsideShown | None:
    """Return what the latest look outside the blocks tells, or None if there was none."""
    register = register_by_slug(session, slug)
    row = sample_of(session, register.id, OUTSIDE)
    if row is None:
        return None
    pairs = pairs_of_sample(session, row)
    left, right, _ = numbers_of(own, pairs)
    decided = decided_pairs(session, register.id, own)
    codes = pair_codes(left, right)
    said = {int(code): bool(yes) for code, yes in zip(decided.codes, decided.same, strict=True)}
    answers = [said.get(int(code)) for code in codes]
    drawn = own.bench.redraw_pairs(asked.plan, asked.number, left, right)
    calibration = drawn.rescored.calibration
    likely = np.where(drawn.rescored.scored.vetoed, 0.0, calibration.probability(drawn.rescored.scored.bits)).tolist()
    chances = [chance if answer is None else float(answer) for answer, chance in zip(answers, likely, strict=True)]
    missed = missed_pairs(row.records, row.drawn, chances)
    known = [answer for answer in answers if answer is not None]
    return OutsideShown(
        row.records, row.drawn, row.looked_at, len(pairs), len(known), sum(known), missed, row.drawn_at, row.actor
    )


def outside_pairs(session: Session, slug: str, own: BenchOfRegister, asked: Asked, many: int) -> Sequence[BorderPair]:
    """Return up to ``many`` pairs from outside the blocks that nobody decided yet, those that score highest first."""
    row = sample_of(session, register_by_slug(session, slug).id, OUTSIDE)
    return open_pairs_of(session, slug, own, asked, pairs_of_sample(session, row) if row else [], many)
