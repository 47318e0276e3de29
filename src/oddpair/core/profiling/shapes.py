"""The shape of a value: capitals as A, small letters as a, digits as 9, everything else as it stands."""

import string

_ACCENTED_CAPITALS = "ÀÁÂÃÄÅÆÇÈÉÊËÌÍÎÏÐÑÒÓÔÕÖØÙÚÛÜÝÞĄĆĘŁŃŚŹŻŠŽČŒ"
_ACCENTED_SMALL = "àáâãäåæçèéêëìíîïðñòóôõöøùúûüýþßąćęłńśźżšžčœ"

#: Letter by letter, what stands for what: the same table serves Python and the database.
SHAPE_FROM = string.ascii_uppercase + _ACCENTED_CAPITALS + string.ascii_lowercase + _ACCENTED_SMALL + string.digits
SHAPE_TO = (
    "A" * (len(string.ascii_uppercase) + len(_ACCENTED_CAPITALS))
    + "a" * (len(string.ascii_lowercase) + len(_ACCENTED_SMALL))
    + "9" * len(string.digits)
)
#: Of longer values only the start has a shape.
LONGEST_SHAPE = 40

_TABLE = str.maketrans(SHAPE_FROM, SHAPE_TO)


def shape_of(value: str) -> str:
    """Return the shape of a value.

    >>> shape_of("YO21 1AA"), shape_of("+44 1632 960001")
    ('AA99 9AA', '+99 9999 999999')
    """
    return value[:LONGEST_SHAPE].translate(_TABLE)
