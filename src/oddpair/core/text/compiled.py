"""How kernels are compiled: one decorator, so that every kernel releases the interpreter lock and is cached on disk."""

from collections.abc import Callable
from typing import Any, TypeVar, cast

from numba import njit

Function = TypeVar("Function", bound=Callable[..., Any])


def kernel(function: Function) -> Function:
    """Compile ``function`` to machine code on first use; it must only use arrays and numbers."""
    return cast(Function, njit(nogil=True, cache=True, error_model="numpy")(function))
