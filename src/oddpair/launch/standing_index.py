"""The standing index: it keeps the directories of blocks of all registers in memory, and answers look-ups at a socket.

Several processes, forked before anything is read, each have a socket of their own; the web process asks the one that has least to do.
They hold nothing that is not in the database as well, and follow what is merged there within a second. If one dies, all end and are
started again; look-ups are answered more slowly by the web process until they are there.
"""

import gc
import logging
import os
import signal
import socket
import threading
from contextlib import suppress
from pathlib import Path

import uvicorn

from ..api.app import create_index_app
from ..core.errors import OddPairError
from ..services.registers.registers import all_views
from ..services.standing.look_up import LookUps
from ..services.transactions import SessionFactory, transaction
from ..settings import Settings
from ..store.database import make_engine, make_sessions

#: What was merged, a look-up answers after so long at most: how often a process looks by itself, and how old what it knows may be.
_FOLLOW_EVERY_S, _FOLLOWS_WITHIN_S = 1.0, 0.5
_WAITING_CONNECTIONS = 512


def follow(sessions: SessionFactory, look_ups: LookUps, stop: threading.Event) -> None:
    """Warm what look-ups rest on, and keep it up to date, until told to stop."""
    warmed = False
    while True:
        with suppress(OddPairError):
            with transaction(sessions) as session:
                slugs = [view.slug for view in all_views(session)]
            for slug in slugs:
                with transaction(sessions) as session:
                    look_ups.warm(session, slug)
        if not warmed:
            # What is there now stays there: it need not be looked through again and again for what nobody needs.
            gc.collect()
            gc.freeze()
            warmed = True
        if stop.wait(_FOLLOW_EVERY_S):
            return


def _listening(path: Path) -> socket.socket:
    with suppress(FileNotFoundError):
        path.unlink()
    listening = socket.socket(socket.AF_UNIX)
    listening.bind(str(path))
    listening.listen(_WAITING_CONNECTIONS)
    return listening


def _fork(count: int) -> tuple[int, list[int]]:
    """Become so many processes; return the number of this one from 0, and, in the first, the others."""
    others: list[int] = []
    for number in range(1, count):
        child = os.fork()
        if not child:
            return number, []
        others.append(child)
    return 0, others


def _end_with_others() -> None:
    """End this process, and with it all, when one of the others has ended."""
    os.wait()
    os.kill(os.getpid(), signal.SIGTERM)


def _end_without(parent: int, stop: threading.Event) -> None:
    """End this process when the first one is gone."""
    while os.getppid() == parent:
        if stop.wait(_FOLLOW_EVERY_S):
            return
    os.kill(os.getpid(), signal.SIGTERM)


def main() -> None:
    """Serve until a signal stops the process."""
    logging.basicConfig(level=logging.WARNING, format="%(asctime)s index %(levelname)s %(name)s: %(message)s")
    settings = Settings()
    signal.signal(signal.SIGHUP, signal.SIG_IGN)
    os.umask(0o077)
    first, stop = os.getpid(), threading.Event()
    number, others = _fork(settings.index_processes)
    listening = _listening(settings.index_sockets[number])
    sessions = make_sessions(make_engine(settings.sqlalchemy_url))
    app = create_index_app(settings, sessions, _FOLLOWS_WITHIN_S)
    threading.Thread(target=follow, args=(sessions, app.state.look_ups.look_ups, stop), daemon=True).start()
    if number:
        threading.Thread(target=_end_without, args=(first, stop), daemon=True).start()
    elif others:
        threading.Thread(target=_end_with_others, daemon=True).start()
    config = uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=2)
    try:
        uvicorn.Server(config).run([listening])
    finally:
        stop.set()
        for other in others:
            with suppress(ProcessLookupError):
                os.kill(other, signal.SIGTERM)
