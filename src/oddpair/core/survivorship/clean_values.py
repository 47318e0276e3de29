"""Delivered values as one would sign them: letters read rightly, without remarks, each part of an address in its own field.

Survivorship chooses among these. What was delivered stays as it is in the source records.
"""

from collections.abc import Callable, Mapping
from functools import lru_cache

from ..addresses import Address, WrittenAddress, parts_as_written
from ..organisations import without_remarks
from ..people import given_name_first
from ..records import Column, RecordSet, column_from_codes, encode
from ..text.folding import read_again
from ..tidying import is_placeholder

_NAME = "name"
_ADDRESS = tuple(f"address.{part}" for part in WrittenAddress._fields)
_TOLD = tuple(f"address.{part}" for part in Address._fields)
_FAMILY, _TOWN = "name.family", "address.city"


@lru_cache(maxsize=100_000)
def _clean_text(text: str) -> str:
    """Return a value with its letters read rightly, "" where it only fills a gap."""
    if is_placeholder(text):
        return ""
    again = text if text.isascii() else read_again(text)
    # What was put in capitals after it was misread has small letters in the middle.
    return again if again == text or not text.isupper() else again.upper()


def clean_values(values: Mapping[str, str], tidy: Mapping[str, str]) -> dict[str, str]:
    """Return the filled values of a record as one would sign them; ``tidy`` are its tidy values."""
    clean = {name: text for name, value in values.items() if (text := _clean_text(value))}
    if name := clean.get(_NAME):
        clean[_NAME] = _clean_name(name, tidy.get(_FAMILY, ""), tidy.get(_TOWN, ""))
    written = WrittenAddress(*(clean.get(field, "") for field in _ADDRESS))
    if _may_be_mixed(written):
        told = Address(*(tidy.get(field, "") for field in _TOLD))
        for field, value in zip(_ADDRESS, parts_as_written(written, told), strict=True):
            if value:
                clean[field] = value
            else:
                clean.pop(field, None)
    return clean


def _clean_name(name: str, family: str, town: str) -> str:
    """Return a name, which is a person's if it has a family name."""
    return given_name_first(name, family) if family else without_remarks(name, town)


def _may_be_mixed(written: WrittenAddress) -> bool:
    """Whether cells of an address may hold each other's parts."""
    line, city, postcode, *_ = written
    return bool(
        (line and ("," in line or ";" in line or not (city and postcode)))
        or any(map(str.isdigit, city))
        or (postcode and (" " in postcode or not any(map(str.isdigit, postcode))))
    )


def clean_columns(delivered: RecordSet, tidy: RecordSet) -> RecordSet:
    """Return the records with what ``clean_values`` makes of the values of each; both hold the same records in the same order."""
    columns = {name: _mapped(column, _clean_text) for name, column in delivered.columns.items()}
    if _NAME in columns:
        beside = (_texts(column) for column in (columns[_NAME], tidy.column(_FAMILY), tidy.column(_TOWN)))
        columns[_NAME] = encode(map(_clean_name, *beside))
    clean = RecordSet(delivered.sources, delivered.source_codes, delivered.ids, columns)
    written = list(map(WrittenAddress, *(_texts(clean.column(field)) for field in _ADDRESS)))
    rows = [row for row, own in enumerate(written) if _may_be_mixed(own)]
    if rows:
        below = [_texts(tidy.column(field)) for field in _TOLD]
        for row in rows:
            written[row] = parts_as_written(written[row], Address(*(values[row] for values in below)))
        for field, values in zip(_ADDRESS, zip(*written, strict=True), strict=True):
            if field in columns or any(values):
                columns[field] = encode(values)
    return clean


def _mapped(column: Column, change: Callable[[str], str]) -> Column:
    values = tuple(map(change, column.values))
    return column if values == column.values else column_from_codes(values, column.codes)


def _texts(column: Column) -> list[str]:
    values = [*column.values, ""]
    return [values[code] for code in column.codes.tolist()]
