"""Whether the application is ready: cheap, and true without any register."""

from fastapi import APIRouter
from pydantic import BaseModel

from ..services import health as service
from ..version import VERSION
from .dependencies import Transaction

router = APIRouter(tags=["health"])


class HealthOut(BaseModel):
    """The application answers, and its database does; ``worker`` tells whether background work is being done."""

    version: str
    worker: bool


@router.get("/health")
def get_health(session: Transaction) -> HealthOut:
    """Whether the application and its database answer."""
    return HealthOut(version=VERSION, worker=service.worker_listens(session))
