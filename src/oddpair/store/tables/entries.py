"""Records that people enter here, and the checks that they go through."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, Boolean, ForeignKey, Identity, Index, Integer, String, text
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base


class Check(Base):
    """A rule for records that are entered: which agreement with one that is there warns, or ``forbids``.

    ``parts`` must all agree: each a field with how it is looked at (same, first, last) and how many letters; or the verdict of the plan.
    """

    __tablename__ = "checks"
    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"), index=True)
    parts: Mapped[list[dict[str, Any]]]
    forbids: Mapped[bool] = mapped_column(Boolean)
    actor: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=NOW)


class Entry(Base):
    """What a person did who was about to enter a record: used one that is there, added to it, or created one.

    ``told`` is what the checks, and the look-up, said before; ``taken`` says per field which trusted reference its value is from. Its
    record came with the delivery; there is none where one that is there was used as it is.
    """

    __tablename__ = "entries"
    __table_args__ = (Index("ix_entries_register_id", "register_id", "id"),)
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"))
    act: Mapped[str] = mapped_column(String(12))
    golden_key: Mapped[str] = mapped_column(String(40), server_default=text("''"))
    delivery_id: Mapped[int | None] = mapped_column(Integer)
    values: Mapped[dict[str, Any]]
    reason: Mapped[str] = mapped_column(server_default="")
    told: Mapped[dict[str, Any]]
    taken: Mapped[dict[str, Any]]
    actor: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=NOW)
