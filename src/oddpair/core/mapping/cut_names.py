"""Names that were cut over two columns: the second goes on where the first is full."""

from collections.abc import Sequence
from functools import cache
from itertools import pairwise

from ..organisations import common_words, legal_form_words
from ..text.tables import phrase
from .samples import ColumnSample

#: A column that holds fewer letters than this does not cut names.
_NARROWEST = 12
#: So many rows, and such a share of them, must go on from a full column; else the second column holds names of its own.
_LEAST_ROWS, _LEAST_SHARE = 3, 0.8
#: Where names are cut within words, more of them than this fill the first column to its last letter.
_LEAST_FILLED = 0.35


def widths_of_names(samples: Sequence[ColumnSample], columns: Sequence[str]) -> dict[str, int]:
    """Return, of ``columns`` that hold names, those that go on where the one before is full → how many letters that one holds."""
    rows = {sample.header: sample.by_row() for sample in samples}
    return {second: width for first, second in pairwise(columns) if (width := _width(rows[first], rows[second]))}


def _width(first: Sequence[str], second: Sequence[str]) -> int:
    """Return how many letters the first of two columns holds if the second goes on where the first is full, or 0."""
    both = [(before, behind) for before, behind in zip(first, second, strict=True) if before and behind]
    width = max(map(len, first), default=0)
    going_on = [before for before, behind in both if _is_full(before, behind, width)]
    if width < _NARROWEST or len(going_on) < max(_LEAST_ROWS, _LEAST_SHARE * len(both)):
        return 0
    # Names that are cut between words hardly ever fill their column to the last letter: there was room for one more.
    to_the_last = sum(len(before) == width for before in going_on)
    return width if to_the_last >= _LEAST_FILLED * len(going_on) else width + 1


def _is_full(before: str, behind: str, width: int) -> bool:
    """Whether the next word would not have fitted behind a value, or only just."""
    return len(before) + 1 + len(behind.split()[0]) >= width


def joined(before: str, behind: str, width: int) -> str:
    """Return a value and what goes on behind it as one, or "" where the first is not full: then the second is another value.

    A value that fills its column to the last letter is taken to end within a word, unless its last word or the next one
    stands alone in many names.
    """
    if not (before and behind and _is_full(before, behind, width)):
        return ""
    within = len(before) >= width and not (_stands_alone(before.split()[-1]) or _stands_alone(behind.split()[0]))
    return f"{before}{'' if within else ' '}{behind}"


def _stands_alone(word: str) -> bool:
    """Whether a word ends or begins a name by itself: a sign, or a word that many firms' names hold."""
    letters = phrase(word)
    return not letters or (len(letters) > 1 and letters in _known())


@cache
def _known() -> frozenset[str]:
    return common_words() | legal_form_words()
