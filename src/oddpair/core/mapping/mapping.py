"""A column mapping: delivered column → field of the layout, or the source's own id, or nothing."""

from collections.abc import Mapping as Rows
from collections.abc import Sequence

from ..errors import MappingInvalid, did_you_mean
from ..fields import Layout
from ..records import MOST_VALUES, further

#: The target of the column that holds the source's own id.
ID_TARGET = "id"
#: Targets of which a record has only one.
_SINGLE = frozenset({ID_TARGET, "name", "name.given", "name.middle", "name.family", "name.suffix", "updated_on"})

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
        else:
            earlier = [name for name, value in targets.items() if value == target]
            most = 1 if target in _SINGLE else MOST_VALUES
            if len(earlier) >= most:
                problems.append(_too_many([*earlier, column], target, most))
        targets[column] = target
    if not any(target.startswith("name") for target in targets.values()):
        problems.append("no column is mapped to a name, and without names nothing can be matched")
    if problems:
        raise MappingInvalid(problems)
    return targets


def _too_many(columns: Sequence[str], target: str, most: int) -> str:
    quoted = [f"'{column}'" for column in columns]
    all_of = "both" if most == 1 else "all"
    return f"columns {', '.join(quoted[:-1])} and {quoted[-1]} are {all_of} mapped to '{target}', which takes {most}"


def field_columns(mapping: Mapping) -> dict[str, str]:
    """Return column → field for the columns that hold a field; a field's further columns get its further places in order."""
    fields: dict[str, str] = {}
    counts: dict[str, int] = {}
    for column, target in mapping.items():
        if target != ID_TARGET:
            place = counts.get(target, 0)
            fields[column], counts[target] = further(target, place), place + 1
    return fields


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
    fields = {
        field: value for column, field in field_columns(mapping).items() if (value := row.get(column, "").strip())
    }
    id_column = next((column for column, target in mapping.items() if target == ID_TARGET), "")
    return row.get(id_column, "").strip(), fields
