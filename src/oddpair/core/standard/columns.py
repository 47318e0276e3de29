"""The standard form of many records' values by columns: every distinct value of a unit is made once, units by several processes."""

from collections.abc import Mapping

import numpy as np

from ..fields import Field, FieldKind, Layout
from ..joint_codes import distinct_rows
from ..processes import processes
from ..records import Column, column_from_codes
from .values import COUNTRY, standard_alone, standard_unit

#: Below this many values in all, starting processes takes longer than they save.
_WORTH_PROCESSES = 400_000


def standard_columns(layout: Layout, columns: Mapping[str, Column]) -> dict[str, Column]:
    """Return, per field of the layout, the values in standard form; each is what ``standard_values`` makes of the record."""
    standard: dict[str, Column] = {}
    with processes(sum(len(column.values) for column in columns.values()) > _WORTH_PROCESSES) as pool:
        tasks = []
        for fields in layout.groups.values():
            names = [field.name for field in fields]
            read = [*names, *([COUNTRY] if fields[0].kind is FieldKind.PHONE and COUNTRY in columns else [])]
            tasks.append(pool.start(_unit_columns, fields, {name: columns[name] for name in read}))
        for task in tasks:
            standard.update(task.result())
    return standard


def _unit_columns(fields: tuple[Field, ...], columns: Mapping[str, Column]) -> dict[str, Column]:
    names = [field.name for field in fields]
    if len(columns) == 1:
        own = columns[names[0]]
        return {names[0]: column_from_codes([standard_alone(fields[0], text) for text in own.values], own.codes)}
    first, which = distinct_rows([column.codes for column in columns.values()])
    picked = {name: _texts(column, column.codes[first].tolist()) for name, column in columns.items()}
    rows = []
    for texts in zip(*picked.values(), strict=True):
        given = {name: text for name, text in zip(picked, texts, strict=True) if text}
        rows.append(standard_unit(fields, given, given.get(COUNTRY, "")))
    codes = which.astype(np.int32)
    return {name: column_from_codes([row.get(name, "") for row in rows], codes) for name in names}


def _texts(column: Column, codes: list[int]) -> list[str]:
    # The empty text at the end is what code -1 finds.
    values = (*column.values, "")
    return [values[code] for code in codes]
