"""A column mapping: delivered column → field of the layout, or the source's own id, or nothing."""

from collections.abc import Mapping as Rows
from collections.abc import Sequence

from ..errors import MappingInvalid, did_you_mean
from ..fields import Layout

#: The target of the column that holds the source's own id.
ID_TARGET = "id"

#: Column → target; columns that are not named are ignored (they stay in the delivered record).
Mapping = Rows[str, str]


def validate_mapping(layout: Layout, columns: Sequence[str], mapping: Mapping) -> dict[str, str]:
    """Return the mapping without ignored columns; raise MappingInvalid with every problem."""
    problems: list[str] = []
    targets: dict[str, str] = {}
    for column, target in mapping.items():
        if not target:
            continue
        if column not in columns:
            problems.append(f"there is no column '{column}'.{did_you_mean(column, columns)}")
        if target != ID_TARGET and target not in layout.names:
            problems.append(
                f"column '{column}': there is no field '{target}'.{did_you_mean(target, [*layout.names, ID_TARGET])}"
            )
        elif target in targets.values():
            earlier = next(name for name, value in targets.items() if value == target)
            problems.append(f"columns '{earlier}' and '{column}' are both mapped to '{target}'")
        targets[column] = target
    if not any(target.startswith("name") for target in targets.values()):
        problems.append("no column is mapped to a name, and without names nothing can be matched")
    if problems:
        raise MappingInvalid(problems)
    return targets


def mapping_from_document(document: object, stem: str) -> dict[str, str] | None:
    """Return the mapping of a file out of a map document, or None if the document says nothing of it.

    The document is ``{file stem: {column: field}}``; the stem ``"*"`` stands for every other file.
    """
    if not isinstance(document, dict):
        raise MappingInvalid(["the document must map file stems to mappings of columns to fields"])
    chosen = document.get(stem, document.get("*"))
    if chosen is None:
        return None
    if not isinstance(chosen, dict):
        raise MappingInvalid([f"'{stem}' must hold a mapping of columns to fields"])
    return {str(column): str(target or "") for column, target in chosen.items()}


def apply_mapping(mapping: Mapping, row: Rows[str, str]) -> tuple[str, dict[str, str]]:
    """Return (the source's own id or "", filled fields) of a delivered row."""
    fields: dict[str, str] = {}
    record_id = ""
    for column, target in mapping.items():
        value = row.get(column, "").strip()
        if target == ID_TARGET:
            record_id = value
        elif value:
            fields[target] = value
    return record_id, fields
