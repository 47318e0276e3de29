"""The standard form of many records' values by columns: every distinct value of a unit is made once."""

from collections.abc import Mapping

import numpy as np

from ..fields import Layout
from ..joint_codes import distinct_rows
from ..records import Column, column_from_codes
from .values import COUNTRY, standard_unit


def standard_columns(layout: Layout, columns: Mapping[str, Column]) -> dict[str, Column]:
    """Return, per field of the layout, the values in standard form; each is what ``standard_values`` makes of the record."""
    standard: dict[str, Column] = {}
    for fields in layout.groups.values():
        names = [field.name for field in fields]
        read = [*names, *([COUNTRY] if COUNTRY not in names and COUNTRY in columns else [])]
        first, which = distinct_rows([columns[name].codes for name in read])
        rows = []
        for record in first.tolist():
            given = {name: text for name in read if (text := columns[name].at(record))}
            rows.append(standard_unit(fields, given, given.get(COUNTRY, "")))
        for name in names:
            values = [row.get(name, "") for row in rows]
            standard[name] = column_from_codes(values, which.astype(np.int32))
    return standard
