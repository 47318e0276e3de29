"""A change says which state it was made from, and is refused if somebody else changed it meanwhile."""

from sqlalchemy.orm import object_session

from ...core.errors import Conflict
from ...store import journal
from ...store.tables import Register


def check_version(register: Register, seen_version: int | None) -> None:
    """Raise Conflict, saying what was done meanwhile, if the register's settings are not those that were seen."""
    if seen_version is None or seen_version == register.version:
        return
    session = object_session(register)
    assert session is not None
    settings = ("rules", "layout", "quality", "source", "rank")
    latest = next((entry for entry in journal.entries(session, register.id, limit=50) if entry.kind in settings), None)
    by = f" by {latest.actor}: {(latest.personal or {}).get('summary', latest.kind)}" if latest else ""
    raise Conflict(f"The settings of {register.name} were changed meanwhile{by}. Reload to see them.")
