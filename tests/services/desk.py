"""The review desk as tests of other things use it: pairs that wait, decisions about them."""

from typing import Any

from oddpair.services.review.decide import decide, decisions, withdraw
from oddpair.services.review.pair import pair
from oddpair.services.review.queue import QueueAsked, QueuePage, kinds, run_of
from oddpair.services.review.queue import queue as any_queue
from oddpair.services.transactions import Session

__all__ = ["QueuePage", "decide", "decisions", "kinds", "pair", "queue", "run_of", "withdraw"]


def queue(
    session: Session, slug: str, *, what: str = "pair", search: str = "", kind: str = "", **more: Any
) -> QueuePage:
    """Pairs that wait; with ``what=""`` clusters too."""
    return any_queue(session, slug, QueueAsked(search=search, kind=kind, what=what), **more)
