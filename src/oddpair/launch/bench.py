"""The process of the plan bench: it keeps tidy columns, block indexes and comparison levels in memory, and answers at a socket.

It holds nothing that is not in the database as well. If it dies, it is started again and warmed when somebody asks.
"""

import logging
import os
import signal
from contextlib import suppress

import uvicorn

from ..api.app import create_app
from ..settings import Settings
from ..store.database import make_engine, make_sessions


def main() -> None:
    """Serve until a signal stops the process."""
    logging.basicConfig(level=logging.WARNING, format="%(asctime)s bench %(levelname)s %(name)s: %(message)s")
    # What a person waits for comes first: the bench gives way to the web process and the database.
    os.nice(5)
    settings = Settings()
    app = create_app(settings, make_sessions(make_engine(settings.sqlalchemy_url)))
    with suppress(FileNotFoundError):
        settings.bench_socket.unlink()
    signal.signal(signal.SIGHUP, signal.SIG_IGN)
    os.umask(0o077)
    config = uvicorn.Config(app, uds=str(settings.bench_socket), log_level="warning", timeout_graceful_shutdown=2)
    try:
        uvicorn.Server(config).run()
    finally:
        app.state.benches.close()
