"""What signing in costs a request, and how long it takes to come in.

    python -m benchmarks.rights

One application where people sign in and one where nobody does answer the same request in turns, over one private PostgreSQL, with a hundred
people of ten roles each; what is told is the difference.
"""

import argparse
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from fastapi.testclient import TestClient

from oddpair.api.app import create_app
from oddpair.core.fields import RegisterKind
from oddpair.core.rights import Role
from oddpair.launch.postgres import PrivatePostgres
from oddpair.services.people import accounts
from oddpair.services.registers.registers import make_register
from oddpair.services.transactions import SessionFactory, sessions_of
from oddpair.settings import Settings
from oddpair.store.database import migrate

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


def took_ms(ask: Callable[[], object]) -> float:
    """Return how long something takes, in milliseconds."""
    began = time.perf_counter()
    ask()
    return (time.perf_counter() - began) * 1000


def main() -> None:
    """Measure and tell."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--requests", type=int, default=2000)
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory(dir="/var/tmp") as outer:
        Path(outer).chmod(0o755)
        server = PrivatePostgres(Path(outer) / "postgres", for_tests=True)
        try:
            url = server.start().replace("postgresql://", "postgresql+psycopg://", 1)
            migrate(url)
            sessions = sessions_of(url)
            furnish(sessions)
            settings = Settings(data=Path(outer), web=Path(outer) / "none")
            shut = TestClient(create_app(settings, sessions), base_url="http://127.0.0.1")
            open_ = TestClient(
                create_app(settings.model_copy(update={"sign_in": False}), sessions), base_url="http://127.0.0.1"
            )
            with shut, open_:
                body = {"sign_in": f"p{PEOPLE - 1}", "password": PASSWORD}
                comes_in = [took_ms(lambda: shut.post("/api/sign-in", json=body).raise_for_status()) for _ in range(10)]
                first = [
                    took_ms(
                        lambda: [
                            shut.get(path).raise_for_status()
                            for path in ("/api/sign-in", "/api/registers", "/api/today")
                        ]
                    )
                    for _ in range(10)
                ]
                path = "/api/registers/register-5/layout"
                pairs = [
                    (
                        took_ms(lambda: shut.get(path).raise_for_status()),
                        took_ms(lambda: open_.get(path).raise_for_status()),
                    )
                    for _ in range(asked.requests)
                ]
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


if __name__ == "__main__":
    main()
