"""Questions that come in while others are being answered are answered together: that takes hardly longer than one of them."""

from collections.abc import Mapping, Sequence
from concurrent.futures import Future
from contextlib import suppress
from dataclasses import dataclass
from queue import Empty, SimpleQueue
from threading import Lock, Thread

from ...core.errors import Busy, Refused
from ..transactions import SessionFactory, transaction
from .look_up import Asked, Candidate, LookUps

Answer = list[list[Candidate]]
#: So many questions are answered together at most, and so long is waited for an answer.
_MOST_TOGETHER, _PATIENCE_S = 64, 60.0


@dataclass(frozen=True, slots=True)
class _Waiting:
    slug: str
    asked: Asked
    answer: "Future[Answer]"


class AskedTogether:
    """Answers look-ups of many who ask at the same time; safe to use from several threads."""

    def __init__(self, look_ups: LookUps, sessions: SessionFactory) -> None:
        """Answer by ``look_ups``, in transactions of ``sessions``."""
        self.look_ups, self._sessions = look_ups, sessions
        self._waiting: SimpleQueue[_Waiting] = SimpleQueue()
        self._started = Lock()
        self._thread: Thread | None = None

    def ask(self, slug: str, records: Sequence[Mapping[str, str]], best: int) -> Answer:
        """Return what ``LookUps.find`` does; raise what it raises, or Busy if no answer comes."""
        with self._started:
            if self._thread is None:
                self._thread = Thread(target=self._serve, name="look-ups", daemon=True)
                self._thread.start()
        one = _Waiting(slug, Asked(records, best), Future())
        self._waiting.put(one)
        try:
            return one.answer.result(_PATIENCE_S)
        except TimeoutError as error:
            raise Busy("Too many look-ups wait for an answer") from error

    def _serve(self) -> None:
        while True:
            together = [self._waiting.get()]
            with suppress(Empty):
                while len(together) < _MOST_TOGETHER:
                    together.append(self._waiting.get_nowait())
            for slug in dict.fromkeys(one.slug for one in together):
                self._answer(slug, [one for one in together if one.slug == slug])

    def _answer(self, slug: str, together: Sequence[_Waiting]) -> None:
        try:
            with transaction(self._sessions) as session:
                answers = self.look_ups.answers(session, slug, [one.asked for one in together])
        except Exception as error:
            for one in together:
                one.answer.set_exception(error)
            return
        for one, answer in zip(together, answers, strict=True):
            if isinstance(answer, Refused):
                one.answer.set_exception(answer)
            else:
                one.answer.set_result(answer)
