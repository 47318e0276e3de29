"""An application that answers at a port of this machine while a test runs."""

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

import uvicorn
from fastapi import FastAPI

from oddpair.launch.postgres import free_port


@contextmanager
def served(
    make: Callable[[str], FastAPI], stopping: threading.Event | None = None, port: int | None = None
) -> Iterator[str]:
    """Serve what is made for an address, and give that address; ``stopping`` tells open streams of events to end."""
    port = port or free_port()
    address = f"http://127.0.0.1:{port}"
    server = uvicorn.Server(uvicorn.Config(make(address), host="127.0.0.1", port=port, log_level="warning"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    try:
        yield address
    finally:
        if stopping:
            stopping.set()
        server.should_exit = True
        thread.join(10)
