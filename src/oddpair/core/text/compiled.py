"""How kernels are compiled: so that every kernel releases the interpreter lock and is cached on disk.

Most kernels allocate nothing, and are compiled without reference counting (the option ``_nrt`` of numba): it counts
references to every array of a tuple at every call and branch, which took five to ten times as long as comparing two
names does. Kernels that make arrays of their own say so.
"""

from collections.abc import Callable
from typing import Any, TypeVar, cast

from numba import njit

Function = TypeVar("Function", bound=Callable[..., Any])


def _compiled(function: Function, **options: bool) -> Function:
    compile_: Any = njit
    return cast(Function, compile_(nogil=True, cache=True, error_model="numpy", **options)(function))


def kernel(function: Function) -> Function:
    """Compile ``function`` to machine code on first use; it must use arrays and numbers only and make no arrays."""
    return _compiled(function, _nrt=False)


def inner_kernel(function: Function) -> Function:
    """Compile a function that kernels call for every pair, and put its code in theirs; it must make no arrays."""
    return _compiled(function, _nrt=False, forceinline=True)


def allocating_kernel(function: Function) -> Function:
    """Compile a function that makes arrays of its own."""
    return _compiled(function)
