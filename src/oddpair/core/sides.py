"""Which records take part in a pass, and which two of them may meet."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .records import IntArray

Flags = npt.NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class Sides:
    """The two sides of a pass as one flag a record each: of every pair one record is of the ``one`` side, the other of the ``other``."""

    one: Flags
    other: Flags

    @staticmethod
    def of_all(records: int) -> "Sides":
        """Return the sides of a pass that holds everything against everything."""
        everybody = np.ones(records, dtype=np.bool_)
        return Sides(everybody, everybody)

    @property
    def taking_part(self) -> Flags:
        """Return which records stand on a side."""
        return self.one | self.other

    @property
    def are_all(self) -> bool:
        """Whether everything meets everything."""
        return bool(self.one.all() and self.other.all())

    def both(self, further: "Sides") -> "Sides":
        """Return the sides of pairs whose records stand on these and on the ``further`` ones, side by side."""
        return Sides(self.one & further.one, self.other & further.other)

    def meet(self, left: IntArray, right: IntArray) -> Flags:
        """Return which pairs have a record of either side; the order within a pair does not matter."""
        met: Flags = (self.one[left] & self.other[right]) | (self.other[left] & self.one[right])
        return met
