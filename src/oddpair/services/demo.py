"""Loads the demo: three registers, their deliveries, and a first run of each, all through the ordinary use cases."""

import shutil
from collections.abc import Callable
from pathlib import Path
from uuid import uuid4

from ..demo import DemoFile, make_demo
from ..store.registers import all_registers
from .bring_in import drafts as bring_in
from .bring_in import load_delivery
from .match import run_plan
from .registers import registers
from .transactions import SessionFactory, transaction

Progress = Callable[[str, int, int], None]


def demo_is_loaded(sessions: SessionFactory) -> bool:
    """Return whether any register is there already."""
    with transaction(sessions) as session:
        return bool(all_registers(session))


def load_demo(
    sessions: SessionFactory, folder: Path, deliveries: Path, say: Callable[[str], None], scale: float = 1.0
) -> None:
    """Make the demo's files in ``folder`` and load them; each register is one transaction."""
    files = make_demo(folder, scale=scale)
    deliveries.mkdir(parents=True, exist_ok=True)
    for name in dict.fromkeys(file.register for file in files):
        of_register = [file for file in files if file.register == name]
        say(f"loading {name}: {sum(file.records for file in of_register)} records of {len(of_register)} sources")
        _load_register(sessions, of_register, deliveries)


#: The sources as the group trusts them, most trusted first.
_TRUST = ("ledger", "webshop", "northhouse", "callsheet", "till")


def _nothing(stage: str, done: int, total: int) -> None:
    """Progress of the demo is told per register."""


def _load_register(sessions: SessionFactory, files: list[DemoFile], deliveries: Path) -> None:
    with transaction(sessions) as session:
        register = registers.make_register(session, files[0].register, files[0].kind)
        for file in sorted(files, key=lambda file: _TRUST.index(file.source)):
            stored = deliveries / f"{uuid4().hex}{file.path.suffix}"
            shutil.copyfile(file.path, stored)
            draft = bring_in.receive(session, register.slug, stored, file.path.name, file.source)
            load_delivery.load(session, draft.delivery.id, deliveries, _nothing)
        # The accounts department keeps its ledger free of duplicates and says so.
        registers.change_source(session, register.slug, "ledger", own_duplicates=False, actor="Odd Pair")
        slug = register.slug
    run_plan.run_plan(sessions, slug, _nothing)
