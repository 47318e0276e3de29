"""The states that tests of more than one file begin with, and what they are made by."""

import shutil
from pathlib import Path
from typing import Any

from oddpair.core.fields import RegisterKind
from oddpair.demo import DemoFile, make_demo
from oddpair.services.bring_in import drafts, load_delivery
from oddpair.services.counterparts import lists
from oddpair.services.counterparts.run_list import run_list
from oddpair.services.counterparts.settings import ListSettings
from oddpair.services.demo.loading import load_demo
from oddpair.services.golden import merge
from oddpair.services.match import run_plan
from oddpair.services.registers import registers
from oddpair.services.tidy.records import record_list
from oddpair.store.database import SessionFactory

from .site import Site
from .state import state
from .waiting_work import run_waiting

CUSTOMERS = "customers"


def nothing(stage: str, done: int, total: int) -> None:
    """Progress that nobody watches."""


def bring(
    sessions: SessionFactory, slug: str, path: Path, folder: Path, source: str = "", **more: Any
) -> dict[str, int]:
    """Receive and load a file as a person would, with the proposed mapping."""
    stored = folder / f"{len(list(folder.iterdir()))}{path.suffix}"
    stored.write_bytes(path.read_bytes())
    with sessions.begin() as session:
        draft = drafts.receive(session, slug, stored, path.name, source)
    with sessions.begin() as session:
        return load_delivery.load(session, draft.delivery.id, folder, nothing, **more)


def hard_demo(folder: Path, scale: float = 0.07) -> list[DemoFile]:
    """Make the five files of customers, small and with more errors than usual."""
    files = make_demo(folder, scale=scale, difficulty=4.0)
    return [file for file in files if file.register == "Customers"]


@state()
def customers_loaded(site: Site) -> None:
    """The five small files of the demo are loaded; their counts add up."""
    files = hard_demo(site.folder / "files")
    deliveries = site.settings.deliveries
    deliveries.mkdir()
    with site.sessions.begin() as session:
        registers.make_register(session, "Customers", RegisterKind.ORGANISATION)
    for file in files:
        counts = bring(site.sessions, CUSTOMERS, file.path, deliveries)
        assert (counts["new"], counts["rejected"]) == (file.records, file.bad_rows)
    shutil.rmtree(site.folder / "files")


@state(after=customers_loaded)
def customers_run(site: Site) -> None:
    """They are matched by the ready-made plan."""
    run_plan.run_plan(site.sessions, CUSTOMERS, nothing)


@state(after=customers_run)
def customers_merged(site: Site) -> None:
    """They are merged, too."""
    merge.merge(site.sessions, CUSTOMERS, actor="ann")


def _demo(site: Site, scale: float) -> None:
    load_demo(site.sessions, site.folder / "demo", site.settings.deliveries, lambda line: None, scale=scale)
    # Or every application on a copy would have to do it first.
    run_waiting(site.sessions, site.settings)


@state()
def small_lived_in(site: Site) -> None:
    """The demo at a twentieth of its size: suppliers finished, customers in the middle of review, boat owners brought in."""
    _demo(site, 0.05)


@state()
def lived_in(site: Site) -> None:
    """The demo at a quarter of its size, which screens are looked at with."""
    _demo(site, 0.25)


PRACTICE = "practice"


@state(after=lived_in)
def lived_in_with_practice(site: Site) -> None:
    """Beside it a register Practice: customers with more errors, so that clusters are in doubt, too, matched and merged; and a list of
    guests that was looked up among customers."""
    with site.sessions.begin() as session:
        registers.make_register(session, "Practice", RegisterKind.ORGANISATION)
    for demo_file in hard_demo(site.folder / "practice", scale=0.25):
        bring(site.sessions, PRACTICE, demo_file.path, site.settings.deliveries)
    run_plan.run_plan(site.sessions, PRACTICE, nothing)
    merge.merge(site.sessions, PRACTICE, actor="Maren Tollgate")
    file = site.settings.deliveries / "fair.csv"
    with site.sessions() as session:
        known = record_list(session, CUSTOMERS, limit=20).page.rows
    names = [f"Stranger {number} Glassworks{number}" for number in range(9)]
    names += [record.fields["name"] for record in known if "name" in record.fields]
    file.write_text("id,company\n" + "".join(f"{number},{name}\n" for number, name in enumerate(names)))
    with site.sessions.begin() as session:
        made = lists.make(
            session, CUSTOMERS, name="Fair", stored=file, file_name=file.name, settings=ListSettings(), actor="Maren Tollgate"
        )  # fmt: skip
    run_list(site.sessions, CUSTOMERS, made.id, site.settings.deliveries, nothing)
    run_waiting(site.sessions, site.settings)


def customer_files(site: Site) -> list[Path]:
    """Return the files of the demo's customers."""
    site.be_there()
    folder = site.folder / "demo" / "customers"
    return sorted(path for path in folder.iterdir() if path.name != "truth.csv")
