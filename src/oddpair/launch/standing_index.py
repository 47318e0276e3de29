"""The process of the standing index: it keeps the directories of blocks of all registers in memory, and answers look-ups at a socket.

It holds nothing that is not in the database as well, and follows what is merged there within a second. If it dies, look-ups are
answered more slowly by the web process until it is there again.
"""

import logging
import os
import signal
import threading
from contextlib import suppress

import uvicorn

from ..api.app import create_app
from ..core.errors import OddPairError
from ..services.registers.registers import all_views
from ..services.standing.look_up import LookUps
from ..services.transactions import SessionFactory, transaction
from ..settings import Settings
from ..store.database import make_engine, make_sessions

#: What was merged, a look-up answers after so long at most: how often this process looks by itself, and how old what it knows may be.
_FOLLOW_EVERY_S, _FOLLOWS_WITHIN_S = 1.0, 0.5
_log = logging.getLogger(__name__)


def follow(sessions: SessionFactory, look_ups: LookUps, stop: threading.Event) -> None:
    """Warm what look-ups rest on, and keep it up to date, until told to stop."""
    while True:
        with suppress(OddPairError):
            with transaction(sessions) as session:
                slugs = [view.slug for view in all_views(session)]
            for slug in slugs:
                with transaction(sessions) as session:
                    look_ups.warm(session, slug)
        if stop.wait(_FOLLOW_EVERY_S):
            return


def main() -> None:
    """Serve until a signal stops the process."""
    logging.basicConfig(level=logging.WARNING, format="%(asctime)s index %(levelname)s %(name)s: %(message)s")
    settings = Settings()
    sessions = make_sessions(make_engine(settings.sqlalchemy_url))
    app = create_app(settings, sessions)
    with suppress(FileNotFoundError):
        settings.index_socket.unlink()
    signal.signal(signal.SIGHUP, signal.SIG_IGN)
    os.umask(0o077)
    app.state.look_ups.look_ups.follows_within_s = _FOLLOWS_WITHIN_S
    stop = threading.Event()
    threading.Thread(target=follow, args=(sessions, app.state.look_ups.look_ups, stop), daemon=True).start()
    config = uvicorn.Config(app, uds=str(settings.index_socket), log_level="warning", timeout_graceful_shutdown=2)
    try:
        uvicorn.Server(config).run()
    finally:
        stop.set()


if __name__ == "__main__":
    main()
