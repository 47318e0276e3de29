"""What decisions say of a plan is told by scores in which they have no part: the plan in force is matched once as if nobody had decided."""

from ...core.errors import Busy, Refused
from ...core.learning import as_untaught
from .benches import CANCELLED, Benches, BenchOfRegister, Progress
from .tries import Asked

_NAME = "undecided"


def needs_undecided(benches: Benches, slug: str, own: BenchOfRegister, asked: Asked) -> None:
    """Raise Busy until it is known how the plan in force, untaught, matches without decisions; begin to find out if nothing is going on."""
    plan = as_untaught(asked.against)
    if own.bench.knows_undecided(plan):
        return

    def work(progress: Progress) -> None:
        own.bench.settle_undecided(plan, progress)

    doing = benches.doing(slug)
    if doing.plan == _NAME and doing.error and doing.error != CANCELLED:
        raise Refused(f"The plan could not be matched without decisions: {doing.error} Settle the plan to try again.")
    if not doing.running:
        benches.begin(slug, _NAME, work)
    raise Busy(
        "The plan in force is matched once without decisions, so that they can tell how good it is. Ask again in a moment."
    )
