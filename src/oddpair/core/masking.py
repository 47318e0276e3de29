"""Values of fields that are marked personal, hidden from those who do not need them, wherever in an answer they stand."""

import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from .fields import FieldKind, Layout

#: What stands in place of a value.
MASK = "•••"
#: Shorter ones stand in too many words that are about something else.
_LEAST_LETTERS = 3
#: What names a field, beside whose name its values stand.
_NAMING = ("field", "unit", "name", "what")
#: What stands beside the name of a field and is no value of it.
_NO_VALUE = frozenset(
    (
        *_NAMING,
        "label",
        "kind",
        "kind_says",
        "level",
        "source",
        "source_key",
        "side",
        "rule",
        "actor",
        "at",
        "key",
        "comparison",
        "slug",
    )
)
#: How a comparison came out, in a sentence: what it cites is masked like everything that is cited.
_SENTENCES = frozenset(("says", "reason", "sentence"))
#: What holds the names of records, and words that people wrote or that tell of records.
_RECORD_NAMES = frozenset(("left_name", "right_name", "record_name", "sort_name", "also_called"))
#: What an act of a person says of itself in their words.
_GIVEN_REASONS = frozenset(("reason", "says"))
_TELLERS = frozenset(("actor", "proposed_by", "asked_by", "said_by"))
#: What tells that a thing is a record, whose name stands beside.
_RECORD_KEYS = frozenset(("source_key", "golden_key", "key"))
_WORDS = frozenset(("summary", "remark", "personal", "shows", "proposed"))
_NAME_KINDS = (FieldKind.PERSON_NAME, FieldKind.GIVEN_NAME, FieldKind.FAMILY_NAME, FieldKind.ORGANISATION_NAME)


@dataclass(frozen=True, slots=True)
class Masks:
    """Which ``fields`` are hidden, under which ``labels`` people know them, whether the ``names`` of records are among them, and which
    fields are ``known``."""

    fields: frozenset[str]
    labels: frozenset[str] = frozenset()
    names: bool = False
    known: frozenset[str] = frozenset()

    def hides(self, key: str) -> bool:
        """Return whether what stands under a key is hidden: a field, a further value or a part of it, or the group that it belongs to."""
        base = _base(key)
        return base in self.labels or any(_related(base, field) for field in self.fields)

    def are_values(self, keys: Collection[str]) -> bool:
        """Return whether keys are names of fields, and nothing else."""
        return bool(keys) and all(any(_related(_base(key), field) for field in self.known) for key in keys)


def _base(key: str) -> str:
    return key.partition("#")[0].partition(" (")[0]


def _related(one: str, other: str) -> bool:
    return one == other or one.startswith(f"{other}.") or other.startswith(f"{one}.")


def masks_for(layout: Layout, fields: Collection[str]) -> Masks:
    """Return what hides some fields of a layout."""
    chosen = [field for field in layout.fields if field.name in fields]
    return Masks(
        frozenset(field.name for field in chosen), frozenset(field.label for field in chosen),
        any(field.kind in _NAME_KINDS for field in chosen), frozenset(layout.names),
    )  # fmt: skip


def masked(document: Any, masks: Masks) -> Any:
    """Return a document of JSON in which hidden values are masked: under the keys of their fields, beside the names of these, and wherever
    else in it the same values are cited."""
    hidden: set[str] = set()
    walked = _walked(document, masks, hidden)
    cited = sorted((one for one in hidden if len(one) >= _LEAST_LETTERS), key=lambda one: (-len(one), one))
    if not cited:
        return walked
    pattern = re.compile("|".join(map(re.escape, cited)), re.IGNORECASE)
    return _scrubbed(walked, pattern)


def _walked(part: Any, masks: Masks, hidden: set[str]) -> Any:
    if isinstance(part, Mapping):
        if masks.are_values(part.keys()):
            return {key: _all_of(value, hidden) if masks.hides(key) else value for key, value in part.items()}
        named = any(isinstance(part.get(key), str) and masks.hides(part[key]) for key in _NAMING)
        walked = {key: _beside(key, value, masks, hidden, named) for key, value in part.items()}
        if not _TELLERS.isdisjoint(part):
            walked |= {key: _all_of(part[key], hidden, keep=True) for key in _GIVEN_REASONS & part.keys()}
        if masks.names and "name" in part and not _RECORD_KEYS.isdisjoint(part):
            walked["name"] = _all_of(part["name"], hidden)
        return walked
    if isinstance(part, list):
        # A pair of a field and what it holds.
        if len(part) > 1 and isinstance(part[0], str) and masks.hides(part[0]):
            return [part[0], *(_all_of(one, hidden) for one in part[1:])]
        return [_walked(one, masks, hidden) for one in part]
    return part


def _beside(key: str, value: Any, masks: Masks, hidden: set[str], named: bool) -> Any:
    if key in _NO_VALUE or (key in _SENTENCES and isinstance(value, str)):
        return value if isinstance(value, str) else _walked(value, masks, hidden)
    words = key in _WORDS or (masks.names and key in _RECORD_NAMES)
    if words or named or (not isinstance(value, bool | int | float) and masks.hides(key)):
        return _all_of(value, hidden, keep=words)
    return _walked(value, masks, hidden)


def _all_of(part: Any, hidden: set[str], keep: bool = False) -> Any:
    """Mask every text in a part; what people wrote is not looked for elsewhere (``keep``)."""
    if isinstance(part, Mapping):
        return {
            key: value if key in _NO_VALUE and isinstance(value, str) else _all_of(value, hidden, keep)
            for key, value in part.items()
        }
    if isinstance(part, list):
        return [_all_of(value, hidden, keep) for value in part]
    if not isinstance(part, str) or not part:
        return part
    if not keep:
        hidden.add(part)
    return MASK


def _scrubbed(part: Any, pattern: re.Pattern[str]) -> Any:
    if isinstance(part, Mapping):
        return {key: _scrubbed(value, pattern) for key, value in part.items()}
    if isinstance(part, list):
        return [_scrubbed(value, pattern) for value in part]
    return pattern.sub(MASK, part) if isinstance(part, str) else part


def masked_row(columns: Sequence[str], row: Mapping[str, str], masks: Masks) -> dict[str, str]:
    """Return a row of a table with the values of hidden columns masked."""
    return {name: MASK if value and name in columns and masks.hides(name) else value for name, value in row.items()}
