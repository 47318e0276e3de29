"""What most of the first rows of a delivery lack under a mapping, told once, with what would cure it."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from ...core.fields import Layout
from ...core.mapping import ID_TARGET, Assignment, ColumnSample, propose_mapping, proposed_mapping
from ...files import ID_MISSING, ID_REPEATED, NAME_MISSING, RejectedRow

#: Reasons by how they begin, and what they say of many rows.
_OF_MANY = {
    NAME_MISSING: "lack a name",
    ID_MISSING: "lack an id",
    ID_REPEATED.partition("{")[0]: "repeat an id",
}


@dataclass(frozen=True, slots=True)
class MappingTrouble:
    """What is wrong, in a sentence, and the mapping that would cure it with the words for it; empty where nobody can tell."""

    says: str
    cure: tuple[Assignment, ...] = ()
    cure_says: str = ""


def trouble_with(
    layout: Layout,
    samples: Sequence[ColumnSample],
    mapping: Sequence[Assignment],
    tried: int,
    rejected: Sequence[RejectedRow],
) -> MappingTrouble | None:
    """Return what sets aside more than half of the rows that were tried, or None; without a name nothing can be tried at all."""
    if not any(item.field.startswith("name") and item.column for item in mapping):
        return _without_names(
            layout, samples, mapping, "No column is mapped to a name, and without names nothing can be matched"
        )
    kinds = Counter(kind for row in rejected for kind in _OF_MANY if row.reason.startswith(kind))
    if not kinds:
        return None
    (kind, count), *_ = kinds.most_common(1)
    if 2 * count <= tried:
        return None
    says = f"{'All' if count == tried else count} of the first {tried} rows {_OF_MANY[kind]}"
    if kind == NAME_MISSING:
        named = [item.column for item in mapping if item.field.startswith("name") and item.column]
        others = [sample for sample in samples if sample.header not in named]
        return _without_names(
            layout, others, mapping, f"{says}: {_quoted(named)} {'is' if len(named) == 1 else 'are'} empty there"
        )
    kept = tuple(item for item in mapping if item.field != ID_TARGET)
    return MappingTrouble(f"{says}.", kept, "Number the rows instead")


def _without_names(
    layout: Layout, samples: Sequence[ColumnSample], mapping: Sequence[Assignment], says: str
) -> MappingTrouble:
    found = [item for item in proposed_mapping(propose_mapping(layout, samples)) if item.field.startswith("name")]
    if not found:
        return MappingTrouble(f"{says}.")
    columns = [item.column for item in found]
    taken = set(columns)
    kept = [item for item in mapping if not item.field.startswith("name") and item.column not in taken]
    looks = "look like one" if len(columns) > 1 else "looks like one"
    return MappingTrouble(f"{says}. {_quoted(columns)} {looks}.", (*found, *kept), f"Map {_quoted(columns)}")


def _quoted(columns: Sequence[str]) -> str:
    names = [f"“{column}”" for column in columns]
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
