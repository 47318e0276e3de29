"""What tests of the services begin with: the register of the five small files of the demo, and a source that delivers by itself."""

from datetime import timedelta
from pathlib import Path

import pytest

from oddpair.core.fields import RegisterKind
from oddpair.demo import DemoFile
from oddpair.services.registers import registers
from oddpair.services.standing import recognise, schedules
from oddpair.services.standing.directories import Directories
from oddpair.services.standing.schedules import Wished
from oddpair.services.standing.switch import switch_recognition
from oddpair.settings import Settings

from ..states.registers import CUSTOMERS, bring, customers_merged, customers_run, hard_demo, nothing
from ..states.site import Site
from ..states.state import state
from .nights import NOON, rows, write


@pytest.fixture(scope="session")
def demo_files(tmp_path_factory: pytest.TempPathFactory) -> list[DemoFile]:
    return hard_demo(tmp_path_factory.mktemp("demo"))


@pytest.fixture
def deliveries(site: Site) -> Path:
    site.settings.deliveries.mkdir(exist_ok=True)
    return site.settings.deliveries


@pytest.fixture
def customers(site: Site) -> str:
    """A register of the five small files, loaded and matched."""
    site.begin_with(customers_run)
    return CUSTOMERS


@pytest.fixture
def merged(site: Site) -> str:
    """The same register, merged."""
    site.begin_with(customers_merged)
    return CUSTOMERS


@pytest.fixture
def settings(site: Site) -> Settings:
    return site.settings


@state()
def till_delivers(site: Site) -> None:
    """A register with a source that has delivered by hand, and takes files at noon since."""
    sessions, settings = site.sessions, site.settings
    with sessions.begin() as session:
        registers.make_register(session, "Customers", RegisterKind.ORGANISATION)
        switch_recognition(session, "customers", True, actor="ann")
    settings.deliveries.mkdir()
    bring(sessions, "customers", write(site.folder / "till.csv", rows()), settings.deliveries)
    recognise.recognise_register(sessions, "customers", nothing, Directories())
    with sessions.begin() as session:
        wished = Wished("0 12 * * *", "folder", sends=("golden.csv", "crosswalk.csv"))
        schedule = schedules.set_schedule(session, "customers", "till", wished, NOON - timedelta(hours=1), actor="ann")
        assert schedule.next_at == NOON
    (settings.incoming / "customers" / "till").mkdir(parents=True)


@pytest.fixture
def till(site: Site) -> Path:
    """Such a register; return the folder that its source takes files from."""
    site.begin_with(till_delivers)
    site.be_there()
    return site.settings.incoming / "customers" / "till"
