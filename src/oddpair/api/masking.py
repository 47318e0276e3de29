"""Hides values of personal fields in answers to those who do not need them, whichever address answers."""

import json

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ..core.masking import Masks, masked

#: Where a request keeps what is hidden from the one who asks.
HIDDEN = "hidden"


class MaskPersonal:
    """Masks answers in JSON; what else may be sent to somebody from whom values are hidden, the check of rights has looked at."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer a request; an answer in JSON that hides nothing goes through untouched."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        state = scope.setdefault("state", {})
        begun: Message | None = None
        body = bytearray()

        async def hiding(message: Message) -> None:
            nonlocal begun
            masks = state.get(HIDDEN)
            if message["type"] == "http.response.start" and masks is not None and _is_json(message):
                begun = message
                return
            if begun is None or masks is None:
                await send(message)
                return
            body.extend(message.get("body", b""))
            if message.get("more_body"):
                return
            hidden = _masked_body(bytes(body), masks)
            headers = [(name, value) for name, value in begun["headers"] if name.lower() != b"content-length"]
            await send({**begun, "headers": [*headers, (b"content-length", str(len(hidden)).encode())]})
            await send({"type": "http.response.body", "body": hidden})

        await self._app(scope, receive, hiding)


def _is_json(message: Message) -> bool:
    return any(
        name.lower() == b"content-type" and b"json" in value.partition(b";")[0] for name, value in message["headers"]
    )


def _masked_body(body: bytes, masks: Masks) -> bytes:
    return json.dumps(masked(json.loads(body), masks), ensure_ascii=False).encode() if body else body
