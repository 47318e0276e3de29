"""What signing in costs a request, how long it takes to come in, and what comes of ten thousand guesses.

    python -m benchmarks.rights

One application where people sign in and one where nobody does answer the same request in turns, over one private PostgreSQL, with a hundred
people of ten roles each; what is told is the difference.
"""

import argparse
import statistics
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from functools import partial
from pathlib import Path

import httpx
import uvicorn
from fastapi import FastAPI

from oddpair.api.app import create_app
from oddpair.core.errors import GuessedTooOften, NotSignedIn
from oddpair.core.fields import RegisterKind
from oddpair.core.rights import Role
from oddpair.launch.postgres import PrivatePostgres, free_port
from oddpair.services.people import accounts
from oddpair.services.people import sign_in as signing_in
from oddpair.services.people.sign_in import Asking
from oddpair.services.registers.registers import make_register
from oddpair.services.transactions import SessionFactory, transaction
from oddpair.settings import Settings
from oddpair.store.database import make_engine, make_sessions, migrate

PASSWORD = "heron under seven lanterns"
PEOPLE, REGISTERS = 100, 10


def furnish(sessions: SessionFactory) -> None:
    """Make registers, and people with a role in each."""
    with sessions.begin() as session:
        for number in range(REGISTERS):
            make_register(session, f"Register {number}", RegisterKind.ORGANISATION)
        roles: dict[str | None, list[Role]] = {f"register-{number}": [Role.STEWARD] for number in range(REGISTERS)}
        for number in range(PEOPLE):
            _, link = accounts.add_person(
                session, name=f"Person {number}", sign_in=f"p{number}", roles=roles, actor="Odd Pair"
            )
        accounts.choose_password(session, link, PASSWORD)


@contextmanager
def served(app: FastAPI) -> Iterator[httpx.Client]:
    """Let an application answer at a port, and give who asks it over one connection."""
    port = free_port()
    server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_level="warning"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    with httpx.Client(base_url=f"http://127.0.0.1:{port}") as client:
        yield client
    server.should_exit = True
    thread.join(10)


def ask(client: httpx.Client) -> None:
    """Ask for something small of one register."""
    client.get("/api/registers/register-5/layout").raise_for_status()


def first_screen(client: httpx.Client) -> None:
    """Ask what the first screen asks."""
    for path in ("/api/sign-in", "/api/registers", "/api/today"):
        client.get(path).raise_for_status()


def guesses(sessions: SessionFactory, count: int) -> tuple[int, float]:
    """Guess a password, ten times a second by the clock that is told, from three networks; return how many guesses were looked at, and how
    long one took, in milliseconds."""
    began, noon, looked_at = time.perf_counter(), datetime(2026, 11, 27, 12, tzinfo=UTC), 0
    for number in range(count):
        at = noon + timedelta(seconds=number / 10)
        try:
            signing_in.sign_in(
                partial(transaction, sessions), "p1", f"guess {number}", Asking(f"203.0.113.{number % 3}"), at
            )
        except NotSignedIn:
            looked_at += 1
        except GuessedTooOften:
            pass
    return looked_at, (time.perf_counter() - began) * 1000 / count


def took_ms(ask: Callable[[], object]) -> float:
    """Return how long something takes, in milliseconds."""
    began = time.perf_counter()
    ask()
    return (time.perf_counter() - began) * 1000


def main() -> None:
    """Measure and tell."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--requests", type=int, default=2000)
    parser.add_argument("--guesses", type=int, default=10_000)
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory(dir="/var/tmp") as outer:
        Path(outer).chmod(0o755)
        server = PrivatePostgres(Path(outer) / "postgres", for_tests=True)
        try:
            url = server.start().replace("postgresql://", "postgresql+psycopg://", 1)
            migrate(url)
            sessions = make_sessions(make_engine(url))
            furnish(sessions)
            settings = Settings(data=Path(outer), web=Path(outer) / "none")
            answering = [
                create_app(settings.model_copy(update={"sign_in": sign_in}), sessions) for sign_in in (True, False)
            ]
            with served(answering[0]) as shut, served(answering[1]) as open_:
                body = {"sign_in": f"p{PEOPLE - 1}", "password": PASSWORD}
                comes_in = [took_ms(lambda: shut.post("/api/sign-in", json=body).raise_for_status()) for _ in range(10)]
                first = [took_ms(lambda: first_screen(shut)) for _ in range(10)]
                pairs = [(took_ms(lambda: ask(shut)), took_ms(lambda: ask(open_))) for _ in range(asked.requests)]
                looked_at, guess_ms = guesses(sessions, asked.guesses)
        finally:
            server.stop()
    costs = sorted(with_rights - without for with_rights, without in pairs)
    print(
        f"{asked.requests} requests: median {statistics.median(one for one, _ in pairs):.2f} ms with rights, "
        f"{statistics.median(other for _, other in pairs):.2f} ms without; "
        f"rights cost {statistics.median(costs):.2f} ms (nine of ten below {costs[int(len(costs) * 0.9)]:.2f} ms)"
    )
    print(
        f"signing in {statistics.median(comes_in):.0f} ms, the first screen's requests {statistics.median(first):.0f} ms (medians of 10)"
    )
    print(f"{asked.guesses} guesses: {looked_at} were looked at, the others refused unseen; {guess_ms:.1f} ms a guess")


if __name__ == "__main__":
    main()
