"""Nights in which a source delivers by itself."""

import csv
import os
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import select

from oddpair.services.standing import schedules, take_turn
from oddpair.services.standing.directories import Directories
from oddpair.settings import Settings
from oddpair.store.database import SessionFactory
from oddpair.store.tables import Turn

from ..states.registers import nothing

NOON = datetime(2026, 11, 27, 12, 0, tzinfo=UTC)
HEAD = ("id", "company", "town", "phone", "email")
NAMES = [(f"{one} {two}", n) for n, (one, two) in enumerate(
    (one, two) for one in ("Kestrel", "Marram", "Tern", "Skua", "Eider", "Puffin") for two in ("Rope Walk", "Sail Loft", "Paints", "Engines")
)]  # fmt: skip


def rows(count: int = 24, **changed: str) -> list[tuple[str, ...]]:
    found = []
    for name, n in NAMES[:count]:
        values = {
            "id": f"t{n}",
            "company": name,
            "town": f"Port{n % 5}",
            "phone": f"01632 960{n:03d}",
            "email": f"info@firm{n}.example",
        }
        found.append(
            tuple({**values, **{key: value.format(n=n) for key, value in changed.items()}}[key] for key in HEAD)
        )
    return found


def write(path: Path, given: list[tuple[str, ...]], head: tuple[str, ...] = HEAD) -> Path:
    path.parent.mkdir(parents=True, exist_ok=True)
    with path.open("w", encoding="utf-8", newline="") as out:
        csv.writer(out).writerows([head, *given])
    settled = time.time() - 60
    os.utime(path, (settled, settled))
    return path


def make_turn(sessions: SessionFactory, settings: Settings, now: datetime = NOON, **more: Any) -> Turn:
    """Let a turn become due, and make it."""
    with sessions.begin() as session:
        schedules.begin_due_turns(session, now)
    with sessions() as session:
        number = session.scalars(select(Turn.id).order_by(Turn.id.desc())).first()
    return go_on(sessions, settings, number or 0, **more)


def go_on(sessions: SessionFactory, settings: Settings, number: int, **more: Any) -> Turn:
    take_turn.take_turn(sessions, settings, number, nothing, Directories(), **more)
    with sessions() as session:
        return session.get_one(Turn, number)


def few(folder: Path) -> None:
    write(folder / "a.csv", rows(9))
