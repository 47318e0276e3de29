"""Signs of life, without looking at any register."""

from sqlalchemy import text
from sqlalchemy.orm import Session

from .work import WORKER


def worker_listens(session: Session) -> bool:
    """Whether a worker waits for work: its connection names itself."""
    query = text("SELECT EXISTS (SELECT FROM pg_stat_activity WHERE application_name = :name)")
    return bool(session.scalar(query, {"name": WORKER}))
