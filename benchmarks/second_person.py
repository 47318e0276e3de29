"""What a second person costs at size: decisions that wait for sign-off, work that is given, and what is kept of a person.

Run: ``.venv/bin/python -m benchmarks.second_person [--records 100000]``. A made register of people is loaded, matched and
merged in a private PostgreSQL. Times are the median of so many, of one machine; what carries over is how they stand to each other.
"""

import argparse
import statistics
import tempfile
import time
from collections.abc import Callable, Iterable
from contextlib import suppress
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from typing import Any

from sqlalchemy import text

from oddpair.core.errors import WaitsForSignOff
from oddpair.core.fields import RegisterKind
from oddpair.launch.postgres import PrivatePostgres
from oddpair.services.forgetting.find import find
from oddpair.services.forgetting.forget import forget
from oddpair.services.golden.merge import merge
from oddpair.services.journal.entries import verify
from oddpair.services.match.run_plan import run_plan
from oddpair.services.proposals.policy import policy_in_force, set_policy
from oddpair.services.registers import registers
from oddpair.services.review.decide import decide
from oddpair.services.review.queue import QueueAsked, queue
from oddpair.services.review.watch import watch
from oddpair.services.review.work_given import Wished, give, pieces
from oddpair.services.sign_off import listing, many
from oddpair.services.sign_off.signing import sign
from oddpair.services.sign_off.sweep import sweep
from oddpair.services.transactions import SessionFactory, transaction
from oddpair.store.database import make_engine, make_sessions, migrate

from .made_register import MadeFile, make_register
from .recognition import Watch, load

_TIMES, _PIECES, _OLD_PROPOSALS = 60, 10, 100_000


def median_ms(acts: Iterable[Callable[[], object]]) -> str:
    """Return how long each of some acts takes, in the middle and at the longest."""
    took = []
    for act in acts:
        started = time.perf_counter()
        act()
        took.append((time.perf_counter() - started) * 1000)
    return f"{statistics.median(took):.1f} ms (longest {max(took):.0f}, of {len(took)})"


def line(what: str, told: str) -> None:
    """Print a row of the table."""
    print(f"| {what} | {told} |", flush=True)


def deciding(sessions: SessionFactory, slug: str, doubts: Iterable[Any]) -> Iterable[Callable[[], None]]:
    """Yield acts that decide doubts, or propose to."""

    def one(doubt: Any) -> None:
        with suppress(WaitsForSignOff), transaction(sessions) as session:
            decide(
                session, slug, doubt.left_id, doubt.right_id, verdict="different", remark="", actor="maren", seen_decision=None
            )  # fmt: skip

    for doubt in doubts:
        yield partial(one, doubt)


def page(sessions: SessionFactory, slug: str, work: str = "", limit: int = 100) -> list[Any]:
    """Return doubts about pairs of the queue, of everybody, of one's own or of the pool."""
    with transaction(sessions) as session:
        found = queue(session, slug, QueueAsked(what="pair", work=work, person="maren"), limit=limit)
    return [item.doubt for item in found.items]


def measure_sign_off(sessions: SessionFactory, slug: str) -> None:
    """Measure decisions without and with sign-off, signing, and the lists of what waits."""
    doubts = page(sessions, slug, limit=500)
    line("a decision, nothing needs sign-off", median_ms(deciding(sessions, slug, doubts[:_TIMES])))
    with transaction(sessions) as session:
        _, version = policy_in_force(session, slug)
        set_policy(session, slug, {"everything": True}, seen_version=version, actor="piet")
    line("a decision that is proposed", median_ms(deciding(sessions, slug, doubts[_TIMES : 3 * _TIMES])))
    with transaction(sessions) as session:
        waiting = listing.page(session, slug, listing.ProposalFilter(), actor="sunniva", limit=200).proposals
    signing = [partial(sign, sessions, one.id, actor="sunniva") for one in waiting[:_TIMES]]
    line("a proposal signed and carried out", median_ms(signing))
    with transaction(sessions) as session:
        session.execute(
            text("""
                INSERT INTO proposals
                    (register_id, act, arguments, subject, why, summary, shows, touches, proposed_by, journal_id, levels, state)
                SELECT 1, 'decide', '{}', 'old ' || n, 'all', 'Decided', '[]', '[]', 'maren', 1, '[[]]', 'carried out'
                FROM generate_series(1, :count) n
            """),
            {"count": _OLD_PROPOSALS},
        )
        session.execute(text("ANALYZE proposals"))

    def listed(state: tuple[str, ...]) -> None:
        with transaction(sessions) as session:
            listing.page(session, slug, listing.ProposalFilter(state), actor="sunniva")

    line(f"what waits, beside {_OLD_PROPOSALS} that ended", median_ms([lambda: listed((listing.WAITING,))] * 20))
    line("what ended", median_ms([lambda: listed(listing.ENDS)] * 20))
    line("all that waits tried for being overtaken", median_ms([lambda: sweep(sessions)]))
    with transaction(sessions) as session:
        seen = many.many(session, slug, listing.ProposalFilter(), actor="sunniva").seen
    line(
        f"{len(waiting) - _TIMES} proposals signed in one step",
        median_ms(
            [
                lambda: many.sign_many(
                    sessions, slug, listing.ProposalFilter(), seen=seen, remark="", actor="sunniva", patience_s=5
                )
            ]
        ),
    )


def measure_work(sessions: SessionFactory, slug: str) -> None:
    """Measure the queues of given work, and what watches over it."""
    line("a page of the queue", median_ms([lambda: page(sessions, slug)] * 20))
    with transaction(sessions) as session:
        for number in range(_PIECES):
            wished = Wished(["maren" if number % 2 else "sunniva"], what="pair", share=_PIECES - 1)
            give(session, slug, wished, may_decide=None, actor="maren")
    for work in ("mine", "pool"):
        line(
            f"a page of it, {work}, of {_PIECES} pieces of work",
            median_ms([partial(page, sessions, slug, work)] * 20),
        )

    def listed() -> None:
        with transaction(sessions) as session:
            pieces(session, slug, today=datetime.now(UTC).date())

    def watched() -> None:
        with transaction(sessions) as session:
            watch(session, slug, days=30, zone="Europe/London", now=datetime.now(UTC))

    line(f"how far {_PIECES} pieces of work are", median_ms([listed] * 5))
    line("how the work goes, 30 days", median_ms([watched] * 5))


def measure_forgetting(sessions: SessionFactory, slug: str, folder: Path) -> None:
    """Measure finding and erasing what is kept of a person."""
    with transaction(sessions) as session:
        keys = (
            session.execute(text("SELECT key FROM golden_records WHERE size > 2 ORDER BY id LIMIT 6")).scalars().all()
        )

    def found(key: str) -> list[int]:
        with transaction(sessions) as session:
            return [record.id for record in find(session, slug, key=key).records]

    line("all that is kept of a person found", median_ms([partial(found, key) for key in keys[:3]]))

    def erased(key: str) -> None:
        records = found(key)
        with transaction(sessions) as session:
            forget(
                session, slug, records, reason="measured", actor="maren", folder=folder, kept=folder / "kept", progress=lambda *told: None
            )  # fmt: skip

    line("found and erased", median_ms([partial(erased, key) for key in keys[3:]]))
    with transaction(sessions) as session:
        problems = [problem for chain in verify(session) for problem in chain.problems]
    line("the chain of the journal afterwards", "holds" if not problems else "; ".join(problems[:3]))


def measure(sessions: SessionFactory, files: list[MadeFile], folder: Path) -> None:
    """Load, match and merge a register, and print a table."""
    with sessions.begin() as session:
        slug = registers.make_register(session, "Boat owners", RegisterKind.PERSON).slug
    for made in files:
        load(sessions, slug, made.source, made.path, Watch())
    run_plan(sessions, slug, Watch())
    merge(sessions, slug, actor="maren")
    with sessions() as session:
        counts = session.execute(text("SELECT records, golden, waiting FROM counters")).one()
    print(f"{counts[0]} records, {counts[1]} golden records, {counts[2]} doubts\n\n| what | how long |\n| --- | --- |")
    measure_sign_off(sessions, slug)
    measure_work(sessions, slug)
    measure_forgetting(sessions, slug, folder)


def main() -> None:
    """Make a register and measure."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--records", type=int, default=100_000)
    wanted = parser.parse_args()
    with tempfile.TemporaryDirectory(dir="/var/tmp") as name:
        folder = Path(name)
        folder.chmod(0o755)
        files, _ = make_register(folder / "made", RegisterKind.PERSON, wanted.records)
        server = PrivatePostgres(folder / "postgres")
        url = server.start().replace("postgresql://", "postgresql+psycopg://", 1)
        try:
            migrate(url)
            engine = make_engine(url)
            measure(make_sessions(engine), files, folder)
            engine.dispose()
        finally:
            server.stop()


if __name__ == "__main__":
    main()
