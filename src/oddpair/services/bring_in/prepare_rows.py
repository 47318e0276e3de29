"""From the cells of accepted rows to lines for the database: mapped, tidied and told apart by a hash of their content.

Other processes import this module to do the work, so it leads to nothing that takes long to import.
"""

import hashlib
import json
from collections.abc import Mapping, Sequence

import orjson

from ...core.fields import Layout
from ...core.mapping import Assignment
from ...core.tidying import TidySteps, tidy_rows
from ...files import AcceptedCells, field_values, filled_cells
from ..state.copy_text import copy_line, word_vector
from ..state.search import words_of_record, written_in_many_ways


def content_hash(delivered: Mapping[str, str], fields: Mapping[str, str]) -> str:
    """Return what tells one content of a record from another: the same whatever the order of its columns."""
    return hashlib.sha1(json.dumps([delivered, fields], sort_keys=True, ensure_ascii=False).encode()).hexdigest()


def prepare_rows(
    register_id: int,
    layout: Layout,
    tidy_steps: TidySteps,
    columns: Sequence[str],
    mapping: Sequence[Assignment],
    rows: AcceptedCells,
) -> bytes:
    """Return the lines of rows, with the columns ``store.loading.INCOMING``, in the server's text format."""
    values = field_values(columns, mapping, rows)
    lines, written = [], written_in_many_ways(layout)
    for place, ((record_id, cells), tidy) in enumerate(
        zip(rows, tidy_rows(layout, values, len(rows), tidy_steps), strict=True)
    ):
        delivered = filled_cells(columns, cells)
        fields = {field: value for field, held in values.items() if (value := held[place])}
        documents = (orjson.dumps(document).decode() for document in (delivered, fields, tidy))
        words = word_vector(register_id, words_of_record(written, record_id, delivered, fields, tidy))
        lines.append((record_id, *documents, content_hash(delivered, fields), words))
    return "".join(map(copy_line, lines)).encode()
