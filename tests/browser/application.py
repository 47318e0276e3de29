"""The application in this process: its web server and its worker, each in a thread, on the database of a site."""

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from urllib.parse import urlsplit

from fastapi import FastAPI

from oddpair.api.app import create_app
from oddpair.jobs.worker import Worker
from oddpair.launch.postgres import free_port
from oddpair.settings import Settings

from ..api.served import served
from ..states.site import Site

_WEB = Path(__file__).parents[2] / "web" / "dist"


@cache
def _port() -> int:
    """Return the port of all applications of this process: the browser need not read and compile the front end for each anew."""
    return free_port()


@dataclass(frozen=True, slots=True)
class Application:
    """A running application: where it answers, and what it works on."""

    url: str
    site: Site


@contextmanager
def running(site: Site, *, sign_in: bool = False) -> Iterator[Application]:
    """Run the application on a site, where people sign in or not."""
    settings = Settings(data=site.folder, web=_WEB, sign_in=sign_in, actor="Maren Tollgate", database_url=site.url)
    stopping = threading.Event()
    apps: list[FastAPI] = []

    def at(address: str) -> FastAPI:
        # Links that are given to people name the address.
        apps.append(create_app(settings.model_copy(update={"port": urlsplit(address).port}), site.sessions))
        apps[0].state.stopping = stopping
        return apps[0]

    worker = Worker(settings, site.sessions)
    working = threading.Thread(target=worker.run)
    working.start()
    try:
        with served(at, stopping, _port()) as url:
            yield Application(url, site)
    finally:
        worker.stop()
        working.join()
        for app in apps:
            app.state.benches.close()
            app.state.odd_pair.quick.close()
