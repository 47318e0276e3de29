"""What is told of a contest: which sources count as free of duplicates, and how many partners they are expected to have."""

from collections.abc import Sequence

from .contest import Contest
from .messages import Flags


def contest_document(names: Sequence[str], free: Flags, contest: Contest | None) -> dict[str, object] | None:
    """Return the outcome of a contest between sources as a document for reports; None where there was none.

    ``without_duplicates`` are the sources that are ``free`` of them, ``few_duplicates`` those that are but for some that were found.
    ``partners`` says for every two sources how many matches are expected, ``learned_from`` how many sure records the calibration
    rests on.
    """
    if contest is None:
        return None
    return {
        "without_duplicates": [name for name, is_free in zip(names, free.tolist(), strict=True) if is_free],
        "few_duplicates": [name for name, few in zip(names, (contest.free & ~free).tolist(), strict=True) if few],
        "partners": [
            {"one": names[i], "other": names[j], "expected": round(float(contest.matches[i, j]), 1)}
            for i in range(len(names)) for j in range(i + 1, len(names)) if contest.between[i, j]
        ],
        "learned_from": contest.curve.sure,
    }  # fmt: skip
