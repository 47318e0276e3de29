"""A column mapping: which delivered column, or constant, becomes which field of the layout, or the source's own id.

A column may serve several fields and a field may be served by several columns; then it holds several values, each at a
place of its own. A label ("billing", "delivery") keeps the parts of one address together wherever their columns stand.
"""

from collections.abc import Mapping as Rows
from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import MappingInvalid, did_you_mean
from ..fields import Layout
from ..records import MOST_VALUES, further
from .cut_names import joined

#: The target of the column that holds the source's own id.
ID_TARGET = "id"
#: Targets of which a record has only one.
_SINGLE = frozenset({ID_TARGET, "name.given", "name.middle", "name.family", "name.suffix", "updated_on"})
_LONGEST_LABEL = 40
_LONGEST_CONSTANT = 1000
#: No column that cuts what stands in it holds more letters than this.
_WIDEST = 1000
_TEXTS = ("field", "column", "constant", "label")


@dataclass(frozen=True, slots=True)
class Assignment:
    """A field (or "id") and where its value comes from: a column, or else a constant. ``label`` names the value.

    ``continues`` is how many letters the column of the field's value before holds, if this column goes on where that one is
    full; 0 if it holds values of its own.
    """

    field: str
    column: str = ""
    constant: str = ""
    label: str = ""
    continues: int = 0


#: Columns that no assignment names are ignored; they stay in the delivered record.
Mapping = Sequence[Assignment]


def validate_mapping(layout: Layout, columns: Sequence[str], mapping: Mapping) -> tuple[Assignment, ...]:
    """Return the mapping without assignments to nothing; raise MappingInvalid with every problem."""
    chosen = tuple(item for item in mapping if item.field)
    problems: list[str] = []
    known = [*layout.names, ID_TARGET]
    for item in chosen:
        problems += _problems_of(item, columns, known)
    for field in dict.fromkeys(item.field for item in chosen if item.field in known):
        served = [item for item in chosen if item.field == field]
        most = 1 if field in _SINGLE else MOST_VALUES
        if len(served) > most:
            problems.append(_too_many(served, field, most))
    if not any(item.field.startswith("name") and item.column for item in chosen):
        problems.append("no column is mapped to a name, and without names nothing can be matched")
    if problems:
        raise MappingInvalid(problems)
    return chosen


def _problems_of(item: Assignment, columns: Sequence[str], known: Sequence[str]) -> list[str]:
    problems = []
    of = f"column '{item.column}'" if item.column else f"constant '{item.constant}'"
    if item.column and item.column not in columns:
        problems.append(f"there is no column '{item.column}'.{did_you_mean(item.column, columns)}")
    if item.field not in known:
        problems.append(f"{of}: there is no field '{item.field}'.{did_you_mean(item.field, known)}")
    if bool(item.column) == bool(item.constant.strip()):
        problems.append(f"field '{item.field}' needs either a column or a constant")
    if item.field == ID_TARGET and not item.column:
        problems.append("the id of a record cannot be a constant")
    if item.continues and not item.column:
        problems.append(f"{of}: only a column can go on where another one is full")
    if len(item.label) > _LONGEST_LABEL or len(item.constant) > _LONGEST_CONSTANT:
        problems.append(f"{of}: a label has at most {_LONGEST_LABEL} letters, a constant {_LONGEST_CONSTANT}")
    return problems


def _too_many(served: Sequence[Assignment], field: str, most: int) -> str:
    quoted = [f"'{item.column or item.constant}'" for item in served]
    all_of = "both" if most == 1 and len(served) == 2 else "all"
    return f"columns {', '.join(quoted[:-1])} and {quoted[-1]} are {all_of} mapped to '{field}', which takes {most}"


def placed(mapping: Mapping) -> list[tuple[str, Assignment]]:
    """Return (name of the field's place, assignment) for what becomes a field.

    Values with a label stand, with all others of that label in the same group, at one place; values without are counted
    per field. Places are given in the order in which they first come up.
    """
    places: dict[str, dict[str, int]] = {}
    counts: dict[str, int] = {}
    fields = []
    for item in mapping:
        if item.field == ID_TARGET:
            continue
        counts[item.field] = counts.get(item.field, 0) + (not item.label)
        key = item.label.casefold() or f"#{counts[item.field]}"
        group = places.setdefault(item.field.partition(".")[0], {})
        fields.append((further(item.field, group.setdefault(key, len(group))), item))
    return fields


def place_labels(mapping: Mapping) -> dict[str, str]:
    """Return place of a field → label of the value there."""
    return {field: item.label for field, item in placed(mapping) if item.label}


def id_column(mapping: Mapping) -> str:
    """Return the column that holds the source's own id, or ""."""
    return next((item.column for item in mapping if item.field == ID_TARGET), "")


def field_columns(mapping: Mapping) -> dict[str, str]:
    """Return place of a field → the column it comes from; constants are left out."""
    return {field: item.column for field, item in placed(mapping) if item.column}


def continued(mapping: Mapping) -> list[tuple[str, str, int]]:
    """Return (place of a field, the place that goes on where it is full, letters that it holds), last ones first."""
    fields = placed(mapping)
    before: dict[str, list[str]] = {item.field: [] for _, item in fields}
    found = []
    for field, item in fields:
        if item.continues and before[item.field]:
            found.append((before[item.field][-1], field, item.continues))
        before[item.field].append(field)
    return found[::-1]


def join_continued(mapping: Mapping, values: dict[str, list[str]]) -> None:
    """Join, in values by place of a field and row, what goes on in the next column where one is full."""
    for first, second, width in continued(mapping):
        # A column that is mapped may be missing from a file.
        for row, behind in enumerate(values.get(second, ()) if first in values else ()):
            if whole := joined(values[first][row], behind, width):
                values[first][row], values[second][row] = whole, ""


def constants(mapping: Mapping) -> dict[str, str]:
    """Return place of a field → its constant."""
    return {field: item.constant for field, item in placed(mapping) if item.constant}


def apply_mapping(mapping: Mapping, row: Rows[str, str]) -> tuple[str, dict[str, str]]:
    """Return (the source's own id or "", filled fields) of a delivered row."""
    values = {field: [row.get(column, "").strip()] for field, column in field_columns(mapping).items()}
    join_continued(mapping, values)
    fields = {field: value for field, (value,) in values.items() if value}
    return row.get(id_column(mapping), "").strip(), {**fields, **constants(mapping)}


def mapping_from_columns(columns: Rows[str, object]) -> tuple[Assignment, ...]:
    """Return the mapping that a short form says: column → field, or a list of fields, or nothing."""
    assignments = []
    for column, fields in columns.items():
        for field in fields if isinstance(fields, list) else [fields]:
            if field:
                assignments.append(Assignment(str(field), str(column)))
    return tuple(assignments)


def mapping_from_document(document: object, stem: str) -> tuple[Assignment, ...] | None:
    """Return the mapping of a file out of a map document, or None if the document says nothing of it.

    The document is ``{file stem: {column: field}}``, where a list of fields may stand for one field; the stem ``"*"``
    stands for every other file. In place of columns, a list of ``{field, column or constant, label, continues}`` says everything.
    """
    if not isinstance(document, dict):
        raise MappingInvalid(["the document must map file stems to mappings of columns to fields"])
    chosen = document.get(stem, document.get("*"))
    if chosen is None:
        return None
    if isinstance(chosen, dict):
        return mapping_from_columns(chosen)
    if not isinstance(chosen, list) or not all(isinstance(item, dict) for item in chosen):
        raise MappingInvalid([f"'{stem}' must hold a mapping of columns to fields"])
    return tuple(assignment_from(item) for item in chosen)


def assignment_from(document: Rows[str, object]) -> Assignment:
    """Return the assignment that a document with the keys of an ``Assignment`` says; raise MappingInvalid."""
    texts = {key: str(document.get(key) or "") for key in _TEXTS}
    if unknown := sorted(set(document) - {*_TEXTS, "continues"}):
        raise MappingInvalid([f"an assignment has no '{unknown[0]}', only {', '.join(_TEXTS)} and continues"])
    continues = document.get("continues") or 0
    if type(continues) is not int or not 0 <= continues <= _WIDEST:
        raise MappingInvalid([f"'continues' is a number of letters from 0 to {_WIDEST}, not '{continues}'"])
    return Assignment(**texts, continues=continues)
