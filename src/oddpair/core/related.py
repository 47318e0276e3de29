"""Values of related records: an organisation is compared by the e-mails and telephones of its contacts as well as by its own."""

from collections.abc import Iterable, Mapping

from .records import Column, RecordSet, column_from_codes, further

#: So many values a record holds at most of a field, its own among them.
_MOST_PLACES = 8


def with_related(records: RecordSet, values: Iterable[tuple[int, str, Mapping[str, str]]]) -> RecordSet:
    """Return tidy records with further values.

    ``values`` are (record number, field, tidy columns): what a related record holds of the field, by the columns of this register
    ("email", "email.domain"). They stand behind the record's own values; what it holds already, and what there is no room for, is left
    out. In which order they come does not matter.
    """
    held: dict[int, dict[str, list[Mapping[str, str]]]] = {}
    fresh: dict[str, dict[int, str]] = {}
    for record, field, columns in sorted(values, key=lambda item: (item[0], item[1], sorted(item[2].items()))):
        own = held.setdefault(record, {})
        if field not in own:
            own[field] = _held(records, record, field)
        if columns in own[field] or len(own[field]) >= _MOST_PLACES:
            continue
        for name, value in columns.items():
            fresh.setdefault(further(name, len(own[field])), {})[record] = value
        own[field].append(columns)
    if not fresh:
        return records
    columns_now = dict(records.columns)
    for name, told in fresh.items():
        columns_now[name] = _with_values(records.column(name), told)
    return RecordSet(records.sources, records.source_codes, records.ids, dict(sorted(columns_now.items())))


def _held(records: RecordSet, record: int, field: str) -> list[Mapping[str, str]]:
    """Return what a record holds of a field, a mapping per place up to the last that is filled."""
    found: list[Mapping[str, str]] = []
    own = [name for name in records.columns if (name == field or name.startswith(f"{field}.")) and "#" not in name]
    for place in range(records.places(field)):
        found.append({name: value for name in own if (value := records.column(further(name, place)).at(record))})
    while found and not found[-1]:
        found.pop()
    return found


def _with_values(column: Column, told: Mapping[int, str]) -> Column:
    numbers = {value: number for number, value in enumerate(column.values)}
    codes = column.codes.copy()
    for record, value in told.items():
        codes[record] = numbers.setdefault(value, len(numbers))
    return column_from_codes(tuple(numbers), codes)
