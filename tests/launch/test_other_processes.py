"""The processes of the plan bench and of the standing index: asked through the web process, gone without harm, and there again."""

import asyncio
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
from fastapi import FastAPI, Request
from fastapi.testclient import TestClient

from oddpair.api.app import create_app
from oddpair.api.elsewhere import BENCH, LOOK_UP, Elsewhere
from oddpair.core.fields import RegisterKind
from oddpair.services.bench.benches import Benches
from oddpair.services.registers import registers
from oddpair.settings import Settings

from ..states.registers import small_lived_in
from ..states.site import Site
from ..states.waiting_work import run_waiting
from ..waiting import until

HOME = "/api/registers/customers"


class OtherProcess:
    """A process beside that of the web, as the supervisor starts it."""

    def __init__(self, module: str, settings: Settings, database_url: str) -> None:
        self.module, self.settings = module, settings
        self.environment = {
            **os.environ, "ODD_PAIR_DATA": str(settings.data), "ODD_PAIR_DATABASE_URL": database_url, "ODD_PAIR_SIGN_IN": "off",
        }  # fmt: skip
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-m", "oddpair.launch.process", self.module], env=self.environment
        )

    def kill(self) -> None:
        assert self.process is not None
        self.process.send_signal(signal.SIGKILL)
        self.process.wait(20)

    def stop(self) -> int:
        assert self.process is not None
        self.process.send_signal(signal.SIGTERM)
        return self.process.wait(20)


@pytest.fixture
def web(site: Site) -> Iterator[tuple[TestClient, OtherProcess]]:
    site.begin_with(small_lived_in)
    settings = site.settings
    # The supervisor makes the folder of the socket, which only its owner may enter.
    settings.bench_socket.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    bench = OtherProcess("oddpair.launch.bench", settings, site.url)
    with TestClient(create_app(settings, site.sessions, elsewhere=True), base_url="http://127.0.0.1") as client:
        yield client, bench
    if bench.process is not None and bench.process.poll() is None:
        bench.kill()


def warm(client: TestClient) -> None:
    """Warm the bench, and wait until it is; as long as its process is started, it is asked again."""
    deadline = time.monotonic() + 60
    while (answer := client.post(f"{HOME}/bench/settled", json={})).status_code == 503:
        assert time.monotonic() < deadline, answer.text
        time.sleep(0.1)
    assert answer.status_code == 202, answer.text
    while not (state := client.get(f"{HOME}/bench").json())["warm"]:
        assert time.monotonic() < deadline, state
        assert not state["error"], state
        time.sleep(0.05)


def test_the_bench_dies_without_harm_and_is_warmed_again(web: tuple[TestClient, OtherProcess]) -> None:
    client, bench = web
    away = client.get(f"{HOME}/bench")
    assert away.status_code == 503
    assert "process-away" in away.text
    assert "Nothing is lost" in away.json()["detail"]
    bench.start()
    warm(client)
    told = client.post(f"{HOME}/bench/tried", json={}).json()
    bench.kill()
    # Everything else goes on; only the bench says that it is away.
    assert client.get(f"{HOME}/plan").status_code == 200
    assert client.post(f"{HOME}/plan/drafts", json={"title": "x", "yaml": "y", "based_on": 1}).status_code == 201
    assert client.post(f"{HOME}/bench/tried", json={}).status_code == 503
    bench.start()
    warm(client)
    assert client.post(f"{HOME}/bench/tried", json={}).json() == told
    # The other process hears wrong requests as this one would, and says the same.
    wrong = client.post(f"{HOME}/bench/tried", json={"yaml": "title: x"})
    assert wrong.status_code == 422
    assert "kind" in wrong.text
    # It ends by the signal that asked for it, after it has ended its work.
    assert bench.stop() in (0, -signal.SIGTERM)


def test_only_what_is_for_the_bench_is_passed_on(tmp_path: Path) -> None:
    app = FastAPI()
    app.middleware("http")(Elsewhere(BENCH, [tmp_path / "nobody.sock"], "away"))
    app.middleware("http")(Elsewhere(LOOK_UP, [tmp_path / "nobody.sock"], ""))

    @app.api_route("/{path:path}", methods=["GET", "POST"])
    async def here(request: Request) -> dict[str, str]:
        return {"path": request.url.path}

    client = TestClient(app)
    for path in (
        "/api/registers",
        "/api/registers/bench/plan",
        "/api/registers/x/benches",
        "/bench",
        "/api/registers/x/plan/bench",
    ):
        assert client.get(path).json() == {"path": path}
    for path in ("/api/registers/x/bench", "/api/registers/x/bench/tried", "/api/registers/bench/bench"):
        assert client.post(path).status_code == 503
    # What this process can answer itself is not refused.
    assert client.post("/api/registers/x/look-up", json={"a": 1}).json() == {"path": "/api/registers/x/look-up"}


def test_headers_and_bodies_go_through_unchanged(tmp_path: Path) -> None:
    heard: list[tuple[str, str, bytes, str]] = []

    async def other(request: httpx.Request) -> httpx.Response:
        heard.append((request.method, str(request.url), request.content, request.headers.get("x-actor", "")))
        return httpx.Response(418, json={"detail": "ü"}, headers={"x-odd": "pair"})

    async def ask() -> httpx.Response:
        transport = httpx.MockTransport(other)
        original, httpx.AsyncHTTPTransport = httpx.AsyncHTTPTransport, lambda **_: transport  # type: ignore[misc,assignment]
        try:
            app = FastAPI()
            app.middleware("http")(Elsewhere(BENCH, [tmp_path / "there.sock"], "away"))
            async with httpx.AsyncClient(transport=httpx.ASGITransport(app), base_url="http://127.0.0.1") as client:
                address = "/api/registers/x/bench/pairs?a=%C3%BC&b=1"
                return await client.post(address, content="ü".encode(), headers={"X-Actor": "ann"})
        finally:
            httpx.AsyncHTTPTransport = original  # type: ignore[misc]

    answer = asyncio.run(ask())
    assert (answer.status_code, answer.json(), answer.headers["x-odd"]) == (418, {"detail": "ü"}, "pair")
    ((method, url, content, actor),) = heard
    assert (method, content.decode(), actor) == ("POST", "ü", "ann")
    assert url.endswith("/api/registers/x/bench/pairs?a=%C3%BC&b=1")


def ended(benches: Benches, slug: str) -> str:
    """Wait until a bench does nothing; return what went wrong, if anything."""
    until(lambda: not benches.doing(slug).running)
    return benches.doing(slug).error


@pytest.fixture
def benches(site: Site) -> Iterator[Benches]:
    site.begin_with(small_lived_in)
    found = Benches(site.sessions, site.settings.kept)
    yield found
    found.close()


def test_benches_make_room_for_each_other(benches: Benches, tmp_path: Path) -> None:
    small = Benches(benches.sessions, tmp_path / "kept", most_records=200)
    for slug in ("customers", "suppliers"):
        small.settle(slug, "")
        assert ended(small, slug) == ""
        assert small.warm(slug) is not None
    assert small.warm("customers") is None
    small.close()


def test_what_is_cancelled_leaves_what_was_settled_before(benches: Benches) -> None:
    benches.settle("customers", "")
    assert ended(benches, "customers") == ""
    before = benches.warm("customers")

    def forever(progress: object) -> None:
        while True:
            progress("count", 1, 2)  # type: ignore[operator]
            time.sleep(0.01)

    benches.begin("customers", "forever", forever)
    until(lambda: benches.doing("customers").stage == "count")
    assert (benches.doing("customers").done, benches.doing("customers").total) == (1, 2)
    benches.cancel("customers")
    assert ended(benches, "customers") == "Cancelled."
    assert benches.warm("customers") is before
    # New work takes the place of work that goes on.
    benches.begin("customers", "forever", forever)
    benches.settle("customers", "")
    assert ended(benches, "customers") == ""


def test_a_register_without_records_is_told_and_the_bench_goes_on(benches: Benches) -> None:
    with benches.sessions.begin() as session:
        registers.make_register(session, "Empty", RegisterKind.PERSON)
    benches.settle("empty", "")
    assert "Bring in a delivery first" in ended(benches, "empty")
    benches.settle("customers", "")
    assert ended(benches, "customers") == ""


def test_look_ups_go_on_without_the_standing_index_and_follow_merges_with_it(site: Site) -> None:
    site.begin_with(small_lived_in)
    settings, sessions = site.settings, site.sessions
    settings.index_sockets[0].parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    index = OtherProcess("oddpair.launch.standing_index", settings, site.url)
    with TestClient(create_app(settings, sessions, elsewhere=True), base_url="http://127.0.0.1") as client:
        client.put(f"{HOME}/recognition", json={"on": True})
        run_waiting(sessions, settings)
        golden = client.get(f"{HOME}/golden").json()["golden"][0]
        asked = {
            "records": [{"name": golden["values"]["name"].upper(), "phone": golden["values"].get("phone", "")}],
            "best": 3,
        }
        here = client.post(f"{HOME}/look-up", json=asked)
        assert here.status_code == 200, here.text
        assert here.json()[0]["candidates"][0]["golden_key"] == golden["key"]
        index.start()
        until(lambda: all(path.exists() for path in settings.index_sockets))
        assert client.post(f"{HOME}/look-up", json=asked).json() == here.json()
        # A record that comes in is found within seconds, though the other process knew the register before.
        rows = "id,company,town,phone\nn1,Quokka Narrowboat Hire,Nowhere,01632 960999\n"
        draft = client.post(f"{HOME}/deliveries", params={"file_name": "new.csv"}, content=rows).json()["delivery"]
        client.post(f"{HOME}/deliveries/{draft['id']}/load", json={"mapping": draft["mapping"]})
        run_waiting(sessions, settings)
        fresh = {"records": [{"name": "QUOKKA NARROW BOAT HIRE LTD", "phone": "+44 1632 960999"}]}
        deadline = time.monotonic() + 60
        while not (found := client.post(f"{HOME}/look-up", json=fresh).json()[0]["candidates"]):
            assert time.monotonic() < deadline
        assert [one["values"]["name"] for one in found] == ["Quokka Narrowboat Hire"]
        index.kill()
        assert client.post(f"{HOME}/look-up", json=fresh).json()[0]["candidates"] == found
        index.start()
        assert index.stop() in (0, -signal.SIGTERM)
