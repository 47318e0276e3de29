"""Delivered values as one would sign them: letters read rightly, without remarks, each part of an address in its own field.

Survivorship chooses among these. What was delivered stays as it is in the source records.
"""

from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache

from ..addresses import WrittenAddress, parts_as_written
from ..organisations import without_remarks
from ..people import given_name_first
from ..records import Column, RecordSet, column_from_codes, encode
from ..text.folding import read_again
from ..tidying import is_placeholder

_NAME = "name"
_ADDRESS = tuple(f"address.{part}" for part in WrittenAddress._fields)
_TIDY_PLACE = tuple(f"address.{part}" for part in ("city", "postcode", "region", "country"))
_TIDY_STREET = tuple(f"address.{part}" for part in ("street", "number", "box", "unit"))
#: Names of people are told by having parts.
_OF_PEOPLE = "name.family"


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
        family = tidy.get(_OF_PEOPLE, "")
        clean[_NAME] = given_name_first(name, family) if family else without_remarks(name, tidy.get("address.city", ""))
    delivered = [clean.get(field, "") for field in _ADDRESS]
    if _may_be_mixed(*delivered[:3]):
        for field, value in zip(_ADDRESS, _clean_address(delivered, tidy), strict=True):
            if value:
                clean[field] = value
            else:
                clean.pop(field, None)
    return clean


def _may_be_mixed(line: str, city: str, postcode: str) -> bool:
    """Whether cells of an address may hold each other's parts."""
    return bool(
        (line and ("," in line or ";" in line or not (city and postcode)))
        or any(map(str.isdigit, city))
        or (postcode and (" " in postcode or not any(map(str.isdigit, postcode))))
    )


def _clean_address(delivered: Sequence[str], tidy: Mapping[str, str]) -> WrittenAddress:
    place = (tidy.get(field, "") for field in _TIDY_PLACE)
    return parts_as_written(WrittenAddress(*delivered), *place, any(tidy.get(field) for field in _TIDY_STREET))


def clean_columns(delivered: RecordSet, tidy: RecordSet) -> RecordSet:
    """Return the records with what ``clean_values`` makes of the values of each; both hold the same records in the same order."""
    columns = {name: _mapped(column, _clean_text) for name, column in delivered.columns.items()}
    if _NAME in columns:
        of_people = _OF_PEOPLE in tidy.columns
        change, beside = (given_name_first, _OF_PEOPLE) if of_people else (without_remarks, "address.city")
        own = zip(_texts(columns[_NAME]), _texts(tidy.column(beside)), strict=True)
        columns[_NAME] = encode(change(name, known) for name, known in own)
    clean = RecordSet(delivered.sources, delivered.source_codes, delivered.ids, columns)
    texts = [_texts(clean.column(field)) for field in _ADDRESS]
    rows = [row for row, cells in enumerate(zip(*texts[:3], strict=True)) if _may_be_mixed(*cells)]
    if rows:
        below = {field: _texts(tidy.column(field)) for field in (*_TIDY_PLACE, *_TIDY_STREET)}
        for row in rows:
            tidy_values = {field: values[row] for field, values in below.items()}
            for values, value in zip(texts, _clean_address([cell[row] for cell in texts], tidy_values), strict=True):
                values[row] = value
        for field, values in zip(_ADDRESS, texts, strict=True):
            if field in columns or any(values):
                columns[field] = encode(values)
    return clean


def _mapped(column: Column, change: Callable[[str], str]) -> Column:
    values = tuple(map(change, column.values))
    return column if values == column.values else column_from_codes(values, column.codes)


def _texts(column: Column) -> list[str]:
    values = [*column.values, ""]
    return [values[code] for code in column.codes.tolist()]
