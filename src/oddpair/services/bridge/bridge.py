"""Reads the bridge between two sources of a register, page by page or as a table that is sent out."""

from collections.abc import Iterator
from dataclasses import dataclass

from sqlalchemy.orm import Session

from ...core.errors import NotFound, Refused
from ...store import bridge as store
from ...store.keyset import Page
from ...store.registers import register_by_slug, source_by_name, standing_run
from ...store.tables import Register
from ..golden.send_out import OutTable

__all__ = ["Between", "bridge_page", "bridge_table", "counts"]


@dataclass(frozen=True, slots=True)
class Between:
    """Two sources of a register: whose records are listed, and whose are their partners."""

    one: str
    other: str


def _sources(session: Session, register: Register, between: Between) -> tuple[int, int, int]:
    """Return (standing run, 0 without one; the two sources); raise NotFound or Refused."""
    found = []
    for name in (between.one, between.other):
        source = source_by_name(session, register.id, name)
        if source is None:
            raise NotFound("source", name)
        found.append(source.id)
    if found[0] == found[1]:
        raise Refused("A bridge leads from one source to another.")
    run = standing_run(session, register.id)
    return run.id if run else 0, found[0], found[1]


def bridge_page(
    session: Session,
    slug: str,
    between: Between,
    *,
    state: str = "",
    cursor: str = "",
    limit: int = 100,
    looked_through: int = store.LOOKED_THROUGH,
) -> Page[store.BridgeRow]:
    """Return a page of one source's records with their partners in the other; of one state where one is named."""
    if state and state not in store.STATES:
        raise Refused(f"'{state}' is no state of a bridge, only {', '.join(store.STATES)}.")
    run, one, other = _sources(session, register_by_slug(session, slug), between)
    return store.bridge_page(
        session, run, one, other, state=state, cursor=cursor, limit=limit, looked_through=looked_through
    )


def counts(session: Session, slug: str, between: Between) -> dict[str, int]:
    """Return how many records of the one source stand in each state to the other."""
    return store.bridge_counts(session, *_sources(session, register_by_slug(session, slug), between))


def bridge_table(session: Session, slug: str, between: Between) -> OutTable:
    """Return the bridge as a table: a line per pair of ids, one alone for a record without a partner, on either side."""
    run, one, other = _sources(session, register_by_slug(session, slug), between)
    columns = (f"{between.one} id", f"{between.other} id", "state", "golden_key")

    def lines() -> Iterator[dict[str, str]]:
        for row in store.bridge_rows(session, run, one, other):
            for partner in row.partners or [""]:
                yield dict(zip(columns, (row.source_key, partner, row.state, row.golden_key), strict=True))
        for row in store.bridge_rows(session, run, other, one):
            if not row.partners:
                yield dict(zip(columns, ("", row.source_key, row.state, row.golden_key), strict=True))

    return OutTable(f"bridge {between.one} {between.other}", columns, lines())
