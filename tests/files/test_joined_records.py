"""Records put together file by file."""

import pytest
from hypothesis import given

from oddpair.core.errors import InputError
from oddpair.core.records import encode, records_of_source
from oddpair.files import joined_records

from ..core.strategies import record_sets, records


@given(record_sets())
def test_records_joined_source_by_source_are_those_added_one_by_one(
    rows: list[tuple[str, str, dict[str, str]]],
) -> None:
    whole = records(rows)
    parts = []
    for source in dict.fromkeys(source for source, _, _ in rows):
        own = [(key, fields) for name, key, fields in rows if name == source]
        names = dict.fromkeys(name for _, fields in own for name in fields)
        columns = {name: encode(fields.get(name) for _, fields in own) for name in names}
        parts.append(records_of_source(source, [key for key, _ in own], columns))
    joined = joined_records(parts)
    assert (joined.sources, joined.ids) == (whole.sources, whole.ids)
    assert joined.source_codes.tolist() == whole.source_codes.tolist()
    assert joined.columns.keys() == whole.columns.keys()
    for name, column in whole.columns.items():
        assert joined.column(name).values == column.values
        assert joined.column(name).codes.tolist() == column.codes.tolist()


def test_an_id_that_a_source_delivers_twice_is_refused() -> None:
    with pytest.raises(InputError, match="the id '7' occurs twice"):
        records_of_source("till", ["7", "8", "7"], {"name": encode(["Tern", "Skua", "Gull"])})
    assert len(joined_records([records_of_source("till", [], {})])) == 0
