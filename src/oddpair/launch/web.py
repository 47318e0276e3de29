"""The web process: the API and the front end on 127.0.0.1."""

import asyncio
import logging
import signal
from types import FrameType

import uvicorn

from ..api.app import create_app
from ..settings import Settings
from ..store.database import make_engine, make_sessions

#: Longer than other programs keep connections: who closes first must be the one who asks, or a question is lost now and then.
_CONNECTIONS_KEPT_S = 75


class _Server(uvicorn.Server):
    """Tells open event streams to end as soon as a stop is asked for; otherwise the stop would wait for them."""

    def __init__(self, config: uvicorn.Config, stopping: asyncio.Event) -> None:
        super().__init__(config)
        self._stopping = stopping

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        self._stopping.set()
        super().handle_exit(sig, frame)


def main() -> None:
    """Serve until a signal stops the process."""
    logging.basicConfig(level=logging.WARNING, format="%(asctime)s web %(levelname)s %(name)s: %(message)s")
    settings = Settings()
    app = create_app(settings, make_sessions(make_engine(settings.sqlalchemy_url)), elsewhere=True)
    app.state.stopping = asyncio.Event()
    config = uvicorn.Config(
        app, host=settings.listen, port=settings.port, log_level="warning", timeout_graceful_shutdown=3,
        timeout_keep_alive=_CONNECTIONS_KEPT_S, proxy_headers=bool(settings.proxies), forwarded_allow_ips=list(settings.proxies),
        server_header=False,
    )  # fmt: skip
    server = _Server(config, app.state.stopping)
    signal.signal(signal.SIGHUP, signal.SIG_IGN)
    server.run()
