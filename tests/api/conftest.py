"""The API over a real database; work in the background is done at once after every request."""

import csv
import io
from collections.abc import Callable, Iterator
from functools import wraps
from typing import Any

import pytest
from fastapi.testclient import TestClient

from oddpair.api.app import create_app
from oddpair.settings import Settings

from ..states.site import Site
from ..states.state import State, state
from ..states.waiting_work import run_waiting

HOME = "/api/registers/customers"
WORDS = ("Kestrel", "Marram", "Tern", "Skua", "Eider", "Puffin", "Gannet", "Fulmar", "Dunlin", "Plover")
TRADES = ("Rope Walk", "Sail Loft", "Paints", "Engines", "Charts")


class WorkingClient(TestClient):
    """Asks the API, and has the work done that it asked for."""

    def __init__(self, site: Site) -> None:
        self.site, self.sessions, self.settings = site, site.sessions, site.settings
        self.application = create_app(self.settings, self.sessions)
        super().__init__(self.application, base_url="http://127.0.0.1", raise_server_exceptions=False)

    def request(self, method: str, *args: Any, **kwargs: Any) -> Any:
        answer = super().request(method, *args, **kwargs)
        # Who only looks asks for no work.
        if method != "GET":
            run_waiting(self.sessions, self.settings)
        return answer


def state_by_requests(*, after: State | None = None) -> Callable[[Callable[[WorkingClient], None]], State]:
    """Make a function that asks for things a state."""

    def made(ask: Callable[[WorkingClient], None]) -> State:
        @wraps(ask)
        def make(site: Site) -> None:
            with WorkingClient(site) as client:
                ask(client)

        return state(after=after)(make)

    return made


def client_with(begun: State) -> Any:
    """Return a fixture: a client of a copy of a state."""

    @pytest.fixture
    def client_of_copy(client: WorkingClient) -> WorkingClient:
        client.site.begin_with(begun)
        return client

    return client_of_copy


@pytest.fixture
def settings(site: Site) -> Settings:
    return site.settings


@pytest.fixture
def client(site: Site) -> Iterator[WorkingClient]:
    with WorkingClient(site) as client:
        yield client
    client.application.state.benches.close()
    client.application.state.odd_pair.quick.close()


@state_by_requests()
def fifty_firms(client: WorkingClient) -> None:
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


standing = client_with(fifty_firms)
