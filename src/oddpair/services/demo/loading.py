"""Loads the demo: three registers, their deliveries, a first run of each, and what was done with them since."""

import shutil
from collections.abc import Callable
from pathlib import Path
from uuid import uuid4

from ...core.mapping import Assignment
from ...demo import DemoFile, add_accounts, make_demo, make_staff
from ...store.registers import all_registers
from ..bring_in import drafts as bring_in
from ..bring_in import load_delivery
from ..match import run_plan
from ..people.demo_people import add_demo_people
from ..registers import registers
from ..state.mappings import mapping_of
from ..transactions import SessionFactory, transaction
from .lived_in import dated_deliveries, finish, keep_lists_and_rules, look_for_conflicts, review_half, truth_of

Progress = Callable[[str, int, int], None]


def demo_is_loaded(sessions: SessionFactory) -> bool:
    """Return whether any register is there already."""
    with transaction(sessions) as session:
        return bool(all_registers(session))


def load_demo(
    sessions: SessionFactory, folder: Path, deliveries: Path, say: Callable[[str], None], scale: float = 1.0
) -> None:
    """Make the demo's files in ``folder`` and load them; each register is one transaction.

    Then it is worked on: suppliers are finished, customers in the middle of review, boat owners freshly brought in.
    """
    files = make_demo(folder, scale=scale)
    add_accounts(next(file.path for file in files if (file.register, file.source) == ("Suppliers", "ledger")))
    files.append(make_staff(folder, files))
    deliveries.mkdir(parents=True, exist_ok=True)
    for name in dict.fromkeys(file.register for file in files):
        of_register = [file for file in files if file.register == name]
        say(f"loading {name}: {sum(file.records for file in of_register)} records of {len(of_register)} sources")
        slug = _load_register(sessions, of_register, deliveries)
        if name == "Employees":
            continue
        truth = truth_of(of_register[0].path.parent)
        if name == "Suppliers":
            finish(sessions, slug, truth)
        elif name == "Customers":
            review_half(sessions, slug, truth)
    look_for_conflicts(sessions)
    with transaction(sessions) as session:
        add_demo_people(session)


#: The sources as the group trusts them, most trusted first.
_TRUST = ("ledger", "webshop", "northhouse", "callsheet", "till", "payroll")
#: The field, beyond the usual ones, of registers whose payees are held against the staff.
_ACCOUNT = {"name": "bank_account", "label": "Bank account", "kind": "identifier"}


def _nothing(stage: str, done: int, total: int) -> None:
    """Progress of the demo is told per register."""


def _load_register(sessions: SessionFactory, files: list[DemoFile], deliveries: Path) -> str:
    with transaction(sessions) as session:
        register = registers.make_register(session, files[0].register, files[0].kind)
        if register.name == "Suppliers":
            keep_lists_and_rules(session, register.slug)
        if register.name in ("Suppliers", "Employees"):
            registers.change_layout(session, register.slug, [_ACCOUNT], actor="Odd Pair")
        for file in sorted(files, key=lambda file: _TRUST.index(file.source)):
            dated = register.name == "Suppliers" and file.source == "webshop"
            for path in dated_deliveries(file.path) if dated else [file.path]:
                stored = deliveries / f"{uuid4().hex}{path.suffix}"
                shutil.copyfile(path, stored)
                draft = bring_in.receive(session, register.slug, stored, path.name, file.source)
                if file.source in ("ledger", "payroll") and "IBAN" in draft.delivery.columns:
                    mapping = [item for item in mapping_of(draft.delivery.mapping) if item.column != "IBAN"]
                    bring_in.check_loadable(session, draft.delivery.id, [*mapping, Assignment("bank_account", "IBAN")])
                load_delivery.load(session, draft.delivery.id, deliveries, _nothing)
        # The accounts department keeps its ledger free of duplicates, and so does who pays the staff; both say so.
        for file in files:
            if file.source in ("ledger", "payroll"):
                registers.change_source(session, register.slug, file.source, own_duplicates=False, actor="Odd Pair")
        slug = register.slug
    run_plan.run_plan(sessions, slug, _nothing)
    return slug
