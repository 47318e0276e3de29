"""A simulated receiver of events: it checks signatures, keeps what it was told, once each, and can be put to sleep."""

import time
from dataclasses import dataclass, field
from typing import Any

import orjson
from fastapi import FastAPI, Request, Response
from pydantic import BaseModel

from ..services.events.telling import told_of, verify


@dataclass(slots=True)
class Heard:
    """What a receiver was told: events by their ids, in the order in which they came first; how often one came again, or out of order for
    its subject; how many messages were not signed as they should be."""

    events: dict[str, dict[str, Any]] = field(default_factory=dict)
    again: int = 0
    out_of_order: int = 0
    unsigned: int = 0
    asleep: bool = False
    _latest: dict[tuple[str, str], str] = field(default_factory=dict)

    def take(self, event: dict[str, Any]) -> None:
        """Take an event."""
        if event["id"] in self.events:
            self.again += 1
            return
        subject = (event["source"], event.get("subject", ""))
        self.out_of_order += event["sequence"] < self._latest.get(subject, "")
        self._latest[subject] = event["sequence"]
        self.events[event["id"]] = event


class Sleep(BaseModel):
    """Whether the receiver sleeps: it answers 503 then."""

    asleep: bool


def create_receiver(secret: str) -> FastAPI:
    """Return a receiver of messages signed with a secret; ``POST /`` takes them, ``GET /`` tells what came."""
    app = FastAPI(title="Simulated receiver", docs_url=None, redoc_url=None)
    heard = Heard()
    app.state.heard = heard

    @app.post("/")
    async def take(request: Request) -> Response:
        """Take a message."""
        if heard.asleep:
            return Response(status_code=503)
        body = await request.body()
        if not verify(secret, request.headers, body, time.time()):
            heard.unsigned += 1
            return Response(status_code=401)
        for event in told_of(body):
            heard.take(event)
        return Response(status_code=204)

    @app.get("/")
    def tell() -> Response:
        """Tell what came."""
        told = {
            "events": list(heard.events.values()), "again": heard.again, "out_of_order": heard.out_of_order, "unsigned": heard.unsigned,
        }  # fmt: skip
        return Response(orjson.dumps(told, option=orjson.OPT_INDENT_2), media_type="application/json")

    @app.put("/sleep")
    def sleep(body: Sleep) -> Sleep:
        """Put the receiver to sleep, or wake it."""
        heard.asleep = body.asleep
        return body

    return app
