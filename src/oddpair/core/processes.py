"""Sharing work out to processes: the interpreter runs on one core at a time, reading and parsing are work for it."""

import gc
import os
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from multiprocessing import get_context
from threading import Lock, Thread
from typing import Generic, ParamSpec, TypeVar

#: So many processes work is shared out to.
CORES = min(os.cpu_count() or 1, 8)
#: How often a process that work was shared out to looks whether whoever started it is still there.
_LOOK_EVERY_S = 1.0

P = ParamSpec("P")
T = TypeVar("T")


class Task(Generic[T]):
    """Work under way; ``result`` waits for it, and does it here where no process could."""

    def __init__(self, future: "Future[T] | None", work: Callable[[], T]) -> None:
        self._future, self._work = future, work

    def result(self) -> T:
        """Return what the function returns, or raise what it raises."""
        if self._future is None:
            return self._work()
        try:
            return self._future.result()
        except BrokenProcessPool:
            # No further process can be started, as in a program read from standard input.
            return self._work()


class Processes:
    """Runs functions that other processes can import, with arguments that can be sent to them."""

    def __init__(self, pool: ProcessPoolExecutor | None, count: int) -> None:
        self._pool, self._count = pool, count

    def wake(self) -> None:
        """Let the processes start now, while something else is done here first."""
        for _ in range(self._count):
            self.start(os.getpid)

    def start(self, function: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> Task[T]:
        """Begin ``function(*args)`` and return the task."""
        future = None
        if self._pool:
            try:
                future = self._pool.submit(function, *args, **kwargs)
            except BrokenProcessPool:
                future = None
        return Task(future, lambda: function(*args, **kwargs))


def _begin(parent: int) -> None:
    """Make ready a process that work is shared out to: it ends when the one that started it is gone, or it would wait for ever, and looks
    for no cycles of objects, since what it makes are values.
    """
    gc.disable()

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(_LOOK_EVERY_S)
        os._exit(1)

    Thread(target=watch, daemon=True).start()


_lock = Lock()
_users = 0
_shared: ProcessPoolExecutor | None = None


@contextmanager
def processes(worth: bool = True, count: int = CORES) -> Iterator[Processes]:
    """Give processes to share work out to; those that an outer block has started are used again.

    With ``worth`` false, or where ``count`` is one, the work is done here, when its result is asked for.
    """
    global _users, _shared
    if (not worth and not _users) or count < 2:
        yield Processes(None, 1)
        return
    with _lock:
        if _shared is None:
            # Fresh processes rather than forks: the server runs threads, which a fork would leave half alive.
            context = get_context("spawn")
            _shared = ProcessPoolExecutor(count, mp_context=context, initializer=_begin, initargs=(os.getpid(),))
        _users += 1
        pool = _shared
    failed = False
    try:
        yield Processes(pool, count)
    except BaseException:
        failed = True
        raise
    finally:
        with _lock:
            _users -= 1
            if _users == 0:
                _shared = None
                pool.shutdown(wait=True, cancel_futures=failed)
