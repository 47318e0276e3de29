"""Seeded steps of every kind that there is: after them all projections equal a rebuild from nothing."""

from collections import Counter
from pathlib import Path

from sqlalchemy import select

from oddpair.core.errors import Conflict, InputError, Refused
from oddpair.core.standard import FORMS
from oddpair.core.survivorship import RULES
from oddpair.core.tidying.word_tables import TableKind
from oddpair.demo import DemoFile
from oddpair.jobs.tasks import run_job
from oddpair.services import work
from oddpair.services.bring_in import drafts, load_delivery
from oddpair.services.golden import rules
from oddpair.services.match import plans
from oddpair.services.registers import registers
from oddpair.services.tidy import tidy_steps, word_tables
from oddpair.settings import Settings
from oddpair.store.database import SessionFactory
from oddpair.store.registers import register_by_slug
from oddpair.store.tables import GoldenRecord, Source

from ..sizes import size
from ..states.registers import nothing
from . import desk as review
from .test_golden import assert_projection
from .test_journal_walk import Registrar

_STEPS = (
    {"do": "spaces"},
    {"do": "swap words", "table": "lands"},
    {"do": "replace", "pattern": "Ltd$", "with": "Limited"},
)


class Founder(Registrar):
    """Does everything that can be done to a register; work that waits is done after every step."""

    def __init__(self, sessions: SessionFactory, slug: str, files: list[DemoFile], folder: Path, seed: int) -> None:
        super().__init__(sessions, slug, seed)
        self.files, self.folder = files, folder
        self.done: Counter[str] = Counter()

    def load(self) -> None:
        """Deliver a file again, some of its lines changed and some left out, as a full one or as changes only."""
        file = self.random.choice(self.files)
        if file.path.suffix not in (".csv", ".txt"):
            return
        lines = file.path.read_bytes().splitlines(keepends=True)
        kept = [line for line in lines[1:] if self.random.random() < 0.8]
        changed = [line.replace(b"a", b"e", 1) if self.random.random() < 0.2 else line for line in kept]
        stored = self.folder / f"again {len(list(self.folder.iterdir()))}{file.path.suffix}"
        stored.write_bytes(b"".join([lines[0], *changed]))
        with self.sessions.begin() as session:
            draft = drafts.receive(session, self.slug, stored, file.path.name, "").delivery
            draft.delivers = self.random.choice(["full", "changes"])
            draft.gone = self.random.choice(["keep", "end"])
        with self.sessions.begin() as session:
            load_delivery.load(session, draft.id, self.folder, nothing)

    def withdraw(self) -> None:
        with self.sessions.begin() as session:
            standing = [item for item in review.decisions(session, self.slug, 20) if item.withdrawn_at is None]
            if standing:
                review.withdraw(session, self.random.choice(standing).id, actor="bob")

    def change_rules(self) -> None:
        chain: list[object] = [name for name, rule in RULES.items() if not rule.needs and self.random.random() < 0.2]
        chain += ["newest"] if not chain else []
        chain += [{"by": "with", "field": "address"}] if self.random.random() < 0.2 else []
        with self.sessions.begin() as session:
            rules.change_rules(
                session, self.slug, {self.random.choice(["name", "phone", "email"]): chain},
                form=self.random.choice([None, *FORMS]), actor="bob",
            )  # fmt: skip

    def change_trust(self) -> None:
        with self.sessions.begin() as session:
            source = self.random.choice(session.scalars(select(Source).order_by(Source.id)).all())
            registers.change_source(
                session, self.slug, source.name, actor="bob", trust_rank=self.random.randrange(1, 6),
                own_duplicates=self.random.random() < 0.7,
            )  # fmt: skip

    def change_tidy_steps(self) -> None:
        steps = {"name": [step for step in _STEPS if self.random.random() < 0.5]}
        with self.sessions.begin() as session:
            present, _ = tidy_steps.steps_in_force(session, self.slug)
            version = present.version if present else 0
            tidy_steps.save_tidy_steps(session, self.slug, steps, seen_version=version, actor="bob")

    def change_a_list(self) -> None:
        with self.sessions.begin() as session:
            present, _ = word_tables.table(session, "lands")
            entries = [("Ltd", self.random.choice(["Limited", "PLC", "Company"]))]
            word_tables.save_table(session, "lands", entries, seen_version=present.version, actor="bob")

    def change_the_layout(self) -> None:
        with self.sessions.begin() as session:
            added = [{"name": self.random.choice(["fax", "berths"]), "label": "Own", "kind": "text"}]
            registers.change_layout(session, self.slug, added, actor="bob")

    def change_the_plan(self) -> None:
        with self.sessions.begin() as session:
            plan, _ = plans.plan_of(session, self.slug)
            same = self.random.choice(["9", "10", "11", "12"])
            lines = [f"  same: {same}" if line.strip().startswith("same:") else line for line in plan.yaml.splitlines()]
            plans.save_plan(session, self.slug, yaml="\n".join(lines), seen_version=plan.version, note="", actor="bob")

    def step(self) -> None:
        more = [
            self.load, self.withdraw, self.change_rules, self.change_trust, self.change_tidy_steps, self.change_a_list,
            self.change_the_layout, self.change_the_plan, self.rerun,
        ]  # fmt: skip
        left = [kind for kind in more if kind.__name__ not in self.done]
        if left and self.random.random() < 0.6:
            chosen = self.random.choice(left)
        else:
            chosen = self.random.choices([super().step, *more], [30, 5, 4, 3, 3, 3, 3, 2, 2, 3])[0]
        try:
            chosen()
            self.done[chosen.__name__] += 1
        except (Conflict, Refused, InputError):
            return
        self.do_what_waits()

    def do_what_waits(self) -> None:
        for lane in work.LANES:
            while True:
                with self.sessions.begin() as session:
                    job = work.claim_next(session, lane)
                if job is None:
                    break
                run_job(self.sessions, Settings(data=self.folder.parent), job.id)
                with self.sessions() as session:
                    ended = work.job_by_id(session, job.id)
                    assert ended.status == "done", ended.message


def test_steps_of_every_kind_equal_a_rebuild(
    customers: str, sessions: SessionFactory, demo_files: list[DemoFile], deliveries: Path
) -> None:
    with sessions.begin() as session:
        word_tables.make_table(session, "lands", TableKind.SWAP_LIST, actor="ann")
    founder = Founder(sessions, customers, demo_files, deliveries, seed=20261126)
    founder.merge()
    keys: set[str] = set()
    for number in range(size(everyday=45, long=200)):
        founder.step()
        if number % 5 == 4:
            assert_projection(sessions, customers, every_record=False)
            with sessions() as session:
                every = set(session.scalars(select(GoldenRecord.key)))
            assert keys <= every, "a golden key has vanished"
            keys = every
    # A run and a merge bring every record home.
    founder.rerun()
    founder.merge()
    founder.do_what_waits()
    assert_projection(sessions, customers)
    assert len(founder.done) == 10, founder.done
    with sessions() as session:
        assert register_by_slug(session, customers).version > 1
