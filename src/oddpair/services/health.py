"""Signs of life, and whether there is room to work, without looking at any register."""

import shutil

from sqlalchemy import text
from sqlalchemy.orm import Session

from ..core.errors import OutOfSpace
from ..settings import Settings
from .work import WORKER


def check_room(settings: Settings) -> None:
    """Raise OutOfSpace if the disk of the data folder has no room beyond what is to stay free."""
    if shutil.disk_usage(settings.data).free < settings.spare_bytes:
        raise OutOfSpace


def worker_listens(session: Session) -> bool:
    """Whether a worker waits for work: its connection names itself."""
    query = text("SELECT EXISTS (SELECT FROM pg_stat_activity WHERE application_name = :name)")
    return bool(session.scalar(query, {"name": WORKER}))
