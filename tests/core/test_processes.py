"""Sharing work out: the same results and the same errors as doing it here."""

import os

import pytest

from oddpair.core import processes as module
from oddpair.core.errors import InputError
from oddpair.core.processes import processes


def of_process(number: int) -> tuple[int, int]:
    return number * 2, os.getpid()


def refused(number: int) -> int:
    raise InputError(f"{number} is odd", file="a.csv")


def test_work_is_shared_out_and_errors_come_back() -> None:
    with processes(count=2) as outer, processes(worth=False) as inner:
        results = [task.result() for task in [outer.start(of_process, 1), inner.start(of_process, 2)]]
        with pytest.raises(InputError, match="3 is odd"):
            outer.start(refused, 3).result()
    assert [value for value, _ in results] == [2, 4]
    assert os.getpid() not in {process for _, process in results}
    assert module._shared is None


def test_what_is_not_worth_it_is_done_here() -> None:
    with processes(worth=False) as here:
        assert here.start(of_process, 3).result() == (6, os.getpid())
