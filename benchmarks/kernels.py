"""Kernels against the same algorithms in C, and with filters against without, as ratios in one run.

Run: ``.venv/bin/python -m benchmarks.kernels``. Needs a C compiler. Runs alternate, the best of each counts.
"""

import ctypes
import subprocess
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from random import Random

import numpy as np
import numpy.typing as npt

from oddpair.core.text.byte_strings import ByteStrings, Signs, bits_apart, letter_signs, pack
from oddpair.core.text.compiled import allocating_kernel, kernel
from oddpair.core.text.edit_distance import jaro_winkler, osa_between
from oddpair.core.text.tables import phrase
from oddpair.demo.names import business_name
from oddpair.demo.places import COUNTRIES, make_place

_NAMES, _PAIRS, _ROUNDS = 20_000, 2_000_000, 5
_CUT = 0.85
Ints = npt.NDArray[np.int32]
Floats = npt.NDArray[np.float64]


@kernel
def _all_osa(
    buffer: npt.NDArray[np.uint8], offsets: npt.NDArray[np.int64], left: Ints, right: Ints, out: Floats
) -> None:
    for pair in range(len(left)):
        a, b = left[pair], right[pair]
        out[pair] = osa_between(
            buffer, offsets[a], offsets[a + 1] - offsets[a], offsets[b], offsets[b + 1] - offsets[b]
        )


@allocating_kernel
def _all_jaro_winkler(
    buffer: npt.NDArray[np.uint8], offsets: npt.NDArray[np.int64], left: Ints, right: Ints, out: Floats
) -> None:
    for pair in range(len(left)):
        a, b = left[pair], right[pair]
        out[pair] = jaro_winkler(buffer[offsets[a] : offsets[a + 1]], buffer[offsets[b] : offsets[b + 1]])


@kernel
def _similar(
    buffer: npt.NDArray[np.uint8], offsets: npt.NDArray[np.int64], signs: Signs, left: Ints, right: Ints, filtered: bool, out: Floats
) -> None:  # fmt: skip
    """Similarities of at least the cut, others as 0; ``filtered`` pairs by length and by their sets of letters first."""
    for pair in range(len(left)):
        a, b = left[pair], right[pair]
        size_a, size_b = offsets[a + 1] - offsets[a], offsets[b + 1] - offsets[b]
        longer = max(size_a, size_b)
        slips = int(longer * (1.0 - _CUT) + 1e-9)
        out[pair] = 0.0
        if filtered and (abs(size_a - size_b) > slips or bits_apart(signs[a], signs[b]) > 2 * slips):
            continue
        similarity = 1.0 - osa_between(buffer, offsets[a], size_a, offsets[b], size_b) / longer
        if similarity >= _CUT:
            out[pair] = similarity


def _names() -> ByteStrings:
    random = Random(1)
    names = []
    for _ in range(_NAMES):
        place = make_place(random, random.choice(COUNTRIES))
        names.append(phrase(business_name(random, place.country.code, place.town, False, 0.8)))
    return pack(names)


def _library(folder: str) -> ctypes.CDLL:
    target = Path(folder) / "kernels.so"
    source = Path(__file__).with_name("kernels.c")
    subprocess.run(["cc", "-O3", "-march=native", "-shared", "-fPIC", "-o", target, source], check=True)
    return ctypes.CDLL(str(target))


def _best(one: Callable[[], None], other: Callable[[], None]) -> tuple[float, float]:
    """Return the shortest times of both, run in turn after one run each that does not count."""
    times: tuple[list[float], list[float]] = ([], [])
    for round_ in range(_ROUNDS + 1):
        for work, found in zip((one, other), times, strict=True):
            started = time.perf_counter()
            work()
            if round_:
                found.append(time.perf_counter() - started)
    return min(times[0]), min(times[1])


def main() -> None:
    """Print the ratios."""
    strings = _names()
    signs = letter_signs(strings)
    random = np.random.default_rng(1)
    left, right = (random.integers(0, len(strings), _PAIRS, dtype=np.int32) for _ in range(2))
    ours, theirs = np.empty(_PAIRS), np.empty(_PAIRS)
    with tempfile.TemporaryDirectory() as folder:
        library = _library(folder)

        def c(name: str) -> None:
            arrays = (strings.buffer, strings.offsets, left, right)
            pointers = [ctypes.c_void_p(array.ctypes.data) for array in arrays]
            getattr(library, name)(*pointers, ctypes.c_int64(_PAIRS), ctypes.c_void_p(theirs.ctypes.data))

        def report(label: str, run: Callable[..., None], name: str) -> None:
            mine, in_c = _best(lambda: run(strings.buffer, strings.offsets, left, right, ours), lambda: c(name))
            assert np.allclose(ours, theirs), f"{label} differs from C"
            print(f"{label}: {in_c / mine:.2f} of the speed of C, {mine / _PAIRS * 1e9:.0f} ns a pair")

        report("optimal string alignment", _all_osa, "all_osa")
        report("Jaro-Winkler", _all_jaro_winkler, "all_jaro_winkler")

    def similar(filtered: bool, out: Floats) -> None:
        _similar(strings.buffer, strings.offsets, signs, left, right, filtered, out)

    with_filters, without = _best(lambda: similar(True, ours), lambda: similar(False, theirs))
    assert np.array_equal(ours, theirs), "filters change the result"
    print(f"length and letter filters at {_CUT}: {without / with_filters:.1f} times as quick, with identical results")


if __name__ == "__main__":
    main()
