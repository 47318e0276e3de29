"""Work in the background."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, ForeignKey, Identity, String, text
from sqlalchemy.orm import Mapped, mapped_column

from .base import NOW, Base


class Job(Base):
    """Background work with its progress; kept after it has ended.

    Small work goes by the ``lane`` quick, beside the slow one. Whoever runs it says at ``beat_at`` that it still does; work
    that broke off through no fault of its own is begun again, up to a few ``attempts``.
    """

    __tablename__ = "jobs"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    kind: Mapped[str] = mapped_column(String(30))
    register_id: Mapped[int] = mapped_column(ForeignKey("registers.id"), index=True)
    title: Mapped[str]
    arguments: Mapped[dict[str, Any]]
    status: Mapped[str] = mapped_column(String(12), server_default="queued", index=True)
    stage: Mapped[str] = mapped_column(server_default="")
    stage_began_at: Mapped[datetime | None]
    done: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    total: Mapped[int] = mapped_column(BigInteger, server_default=text("0"))
    message: Mapped[str] = mapped_column(server_default="")
    result: Mapped[dict[str, Any] | None]
    cancel_requested: Mapped[bool] = mapped_column(server_default=text("false"))
    lane: Mapped[str] = mapped_column(String(8), server_default="slow")
    attempts: Mapped[int] = mapped_column(server_default=text("0"))
    beat_at: Mapped[datetime | None]
    created_at: Mapped[datetime] = mapped_column(server_default=NOW)
    started_at: Mapped[datetime | None]
    ended_at: Mapped[datetime | None]
