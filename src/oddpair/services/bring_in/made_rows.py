"""Rows that are made here, brought in like a file that a source delivered: kept, counted, and to be taken back."""

from collections.abc import Mapping
from pathlib import Path
from uuid import uuid4

import orjson
from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import Refused
from ...core.mapping import ID_TARGET, Assignment
from ...store.tables import Delivery, RejectedRow
from . import drafts, load_delivery


def bring_in_rows(
    session: Session, slug: str, source: str, name: str, rows: Mapping[str, Mapping[str, str]], folder: Path, *, actor: str
) -> Delivery:  # fmt: skip
    """Bring in rows, values by field of the register by the id of each, as a delivery of a source; return it.

    Raises Refused, with the reason, where one of them cannot be a record.
    """
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    path = folder / f"{uuid4().hex}.jsonl"
    path.write_bytes(b"".join(orjson.dumps({ID_TARGET: own, **values}) + b"\n" for own, values in rows.items()))
    path.chmod(0o600)
    try:
        draft = drafts.receive(session, slug, path, f"{name}.jsonl", source).delivery
        fields = dict.fromkeys(field for values in rows.values() for field in values)
        mapping = [Assignment(ID_TARGET, ID_TARGET), *(Assignment(field, field) for field in fields)]
        drafts.check_loadable(session, draft.id, mapping, delivers="changes")
        counts = load_delivery.load(session, draft.id, folder, _nothing, actor=actor)
        if counts["rejected"]:
            reason = session.scalars(select(RejectedRow.reason).where(RejectedRow.delivery_id == draft.id)).first()
            raise Refused(f"This cannot be entered: {reason}.")
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return draft


def _nothing(stage: str, done: int, total: int) -> None:
    """Progress that nobody watches."""
