"""Tables that are sent while they are read."""

from collections.abc import Callable, Iterator
from contextlib import ExitStack

from fastapi.responses import StreamingResponse

from ..core.masking import Masks, masked_row
from ..files.writers import CONTENT_TYPES, table_chunks
from ..services.golden.send_out import OutTable
from ..services.transactions import Session, transaction
from .dependencies import State


def sent_table(
    state: State,
    table: Callable[[Session], OutTable],
    file_format: str,
    file_name: str = "",
    hidden: Masks | None = None,
) -> StreamingResponse:
    """Return the answer that sends a table as a file, row by row; ``file_name`` is that of the table where none is given, values of
    columns that are ``hidden`` are masked."""
    # The rows are read while they are sent, so the transaction lasts as long as the answer.
    with ExitStack() as opened:
        out = table(opened.enter_context(transaction(state.sessions)))
        stack = opened.pop_all()

    rows = out.rows if hidden is None else (masked_row(out.columns, row, hidden) for row in out.rows)

    def chunks() -> Iterator[bytes]:
        with stack:
            yield from table_chunks(file_format, out.columns, rows, out.name)

    headers = {"Content-Disposition": f'attachment; filename="{file_name or out.name}.{file_format}"'}
    return StreamingResponse(chunks(), media_type=CONTENT_TYPES[file_format], headers=headers)
