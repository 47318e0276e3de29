"""A register with the five small files of the demo loaded."""

from datetime import timedelta
from pathlib import Path

import pytest

from oddpair.core.fields import RegisterKind
from oddpair.demo import DemoFile, make_demo
from oddpair.services.bring_in import drafts as bring_in
from oddpair.services.bring_in import load_delivery
from oddpair.services.match import run_plan
from oddpair.services.registers import registers
from oddpair.services.standing import recognise, schedules
from oddpair.services.standing.directories import Directories
from oddpair.services.standing.schedules import Wished
from oddpair.services.standing.switch import switch_recognition
from oddpair.settings import Settings
from oddpair.store.database import SessionFactory


def nothing(stage: str, done: int, total: int) -> None:
    """Progress that nobody watches."""


@pytest.fixture(scope="session")
def demo_files(tmp_path_factory: pytest.TempPathFactory) -> list[DemoFile]:
    files = make_demo(tmp_path_factory.mktemp("demo"), scale=0.06, difficulty=4.0)
    return [file for file in files if file.register == "Customers"]


@pytest.fixture
def deliveries(tmp_path: Path) -> Path:
    folder = tmp_path / "deliveries"
    folder.mkdir()
    return folder


def bring(sessions: SessionFactory, slug: str, path: Path, folder: Path, source: str = "") -> dict[str, int]:
    """Receive and load a file as a person would, with the proposed mapping."""
    stored = folder / f"{len(list(folder.iterdir()))}{path.suffix}"
    stored.write_bytes(path.read_bytes())
    with sessions.begin() as session:
        draft = bring_in.receive(session, slug, stored, path.name, source)
    with sessions.begin() as session:
        return load_delivery.load(session, draft.delivery.id, folder, nothing)


@pytest.fixture
def customers(sessions: SessionFactory, demo_files: list[DemoFile], deliveries: Path) -> str:
    with sessions.begin() as session:
        slug = registers.make_register(session, "Customers", RegisterKind.ORGANISATION).slug
    for file in demo_files:
        counts = bring(sessions, slug, file.path, deliveries)
        assert counts["new"] == file.records
        assert counts["rejected"] == file.bad_rows
    run_plan.run_plan(sessions, slug, nothing)
    return slug


@pytest.fixture
def settings(tmp_path: Path) -> Settings:
    return Settings(data=tmp_path)


@pytest.fixture
def till(sessions: SessionFactory, settings: Settings, tmp_path: Path) -> Path:
    """A register with a source that has delivered by hand, and takes files at noon since; return the folder that it takes them from."""
    from .nights import NOON, rows, write

    with sessions.begin() as session:
        registers.make_register(session, "Customers", RegisterKind.ORGANISATION)
        switch_recognition(session, "customers", True, actor="ann")
    settings.deliveries.mkdir()
    bring(sessions, "customers", write(tmp_path / "till.csv", rows()), settings.deliveries)
    recognise.recognise_register(sessions, "customers", nothing, Directories())
    with sessions.begin() as session:
        wished = Wished("0 12 * * *", "folder", sends=("golden.csv", "crosswalk.csv"))
        schedule = schedules.set_schedule(session, "customers", "till", wished, NOON - timedelta(hours=1), actor="ann")
        assert schedule.next_at == NOON
    folder = settings.incoming / "customers" / "till"
    folder.mkdir(parents=True)
    return folder
