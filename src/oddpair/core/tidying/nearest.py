"""The known value that is most like an unknown one, for value maps."""

import numpy as np

from ..text.edit_distance import Bytes, jaro_winkler
from .word_tables import WordTable, looked_up

#: Two values less alike than this, by Jaro-Winkler, are not proposed for each other.
_LEAST_LIKE = 0.8


def _bytes(text: str) -> Bytes:
    return np.frombuffer(text.encode(), dtype=np.uint8)


class NearestValue:
    """Finds, for any value, the standard value of a table whose own form, or one of whose entries, is most like it."""

    def __init__(self, table: WordTable) -> None:
        forms = {looked_up(target): target for target in sorted({target for _, target in table.entries})}
        forms.update(table.targets)
        self._forms = [(_bytes(form), target) for form, target in sorted(forms.items()) if form]

    def __call__(self, value: str) -> str:
        """Return the standard value, or "" where none is near."""
        own = _bytes(looked_up(value))
        best, target = max(
            ((float(jaro_winkler(form, own)), target) for form, target in self._forms), default=(0.0, "")
        )
        return target if best >= _LEAST_LIKE else ""
