"""The API over a real database; work in the background is done at once after every request."""

import csv
import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from oddpair.api.app import create_app
from oddpair.jobs.tasks import run_job
from oddpair.services import work
from oddpair.settings import Settings
from oddpair.store.database import SessionFactory

HOME = "/api/registers/customers"
WORDS = ("Kestrel", "Marram", "Tern", "Skua", "Eider", "Puffin", "Gannet", "Fulmar", "Dunlin", "Plover")
TRADES = ("Rope Walk", "Sail Loft", "Paints", "Engines", "Charts")


def run_waiting(sessions: SessionFactory, settings: Settings) -> None:
    """Do all work that waits, as the worker would."""
    for lane in work.LANES:
        while True:
            with sessions.begin() as session:
                job = work.claim_next(session, lane)
            if job is None:
                break
            run_job(sessions, settings, job.id)


class WorkingClient(TestClient):
    """Asks the API, and has the work done that it asked for."""

    def __init__(self, sessions: SessionFactory, settings: Settings) -> None:
        self.application = create_app(settings, sessions)
        super().__init__(self.application, base_url="http://127.0.0.1", raise_server_exceptions=False)
        self.sessions, self.settings = sessions, settings

    def request(self, *args: Any, **kwargs: Any) -> Any:
        answer = super().request(*args, **kwargs)
        run_waiting(self.sessions, self.settings)
        return answer


@pytest.fixture
def settings(tmp_path: Path) -> Settings:
    return Settings(data=tmp_path, web=tmp_path / "none", sign_in=False)


@pytest.fixture
def client(sessions: SessionFactory, settings: Settings) -> Iterator[WorkingClient]:
    with WorkingClient(sessions, settings) as client:
        yield client


@pytest.fixture
def standing(client: WorkingClient) -> WorkingClient:
    """A register of fifty organisations from one source."""
    client.post("/api/registers", json={"name": "Customers", "kind": "organisation"})
    out = io.StringIO()
    rows = [
        (
            f"t{n}",
            f"{word} {trade} Ltd",
            "1 Quay Street",
            f"Port{n % 7}",
            f"01632 960{n:03d}",
            f"info@{word}{n}.example".lower(),
        )
        for n, (word, trade) in enumerate((word, trade) for word in WORDS for trade in TRADES)
    ]
    csv.writer(out).writerows([("id", "company", "street", "town", "phone", "email"), *rows])
    draft = client.post(f"{HOME}/deliveries", params={"file_name": "till.csv"}, content=out.getvalue().encode()).json()[
        "delivery"
    ]
    client.post(f"{HOME}/deliveries/{draft['id']}/load", json={"mapping": draft["mapping"]})
    return client
