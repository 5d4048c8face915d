"""Whether everything that the application needs is there."""

import shutil

from fastapi import APIRouter
from pydantic import BaseModel
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from idle_shimmer.settings import settings
from idle_shimmer.store.database import session_scope

router = APIRouter(prefix="/api/health", tags=["health"])
# Workers tell every ten seconds that they are alive.
_WORKERS = text(
    "SELECT count(*) FROM procrastinate_workers WHERE last_heartbeat > now() - interval '30 s'"
)
_WAITING = text(
    "SELECT count(*) FROM procrastinate_jobs WHERE status = 'todo' AND queue_name <> 'upkeep'"
)


class HealthOut(BaseModel):
    """``state`` is ``ready``, or ``degraded`` where the database or every worker is missing.

    ``worker_slots`` and ``waiting_jobs`` are null where the database does not answer; ``disk_free_bytes``
    is what is left where media and renders lie.
    """

    state: str
    database: bool
    worker_slots: int | None
    waiting_jobs: int | None
    disk_free_bytes: int


@router.get("")
def health() -> HealthOut:
    """Answer as soon as the application is ready, and say what it lacks."""
    free = shutil.disk_usage(_existing()).free
    try:
        with session_scope() as session:
            workers, waiting = session.scalar(_WORKERS), session.scalar(_WAITING)
    except (DBAPIError, PoolTimeout):
        return HealthOut(
            state="degraded",
            database=False,
            worker_slots=None,
            waiting_jobs=None,
            disk_free_bytes=free,
        )
    state = "ready" if workers else "degraded"
    return HealthOut(
        state=state, database=True, worker_slots=workers, waiting_jobs=waiting, disk_free_bytes=free
    )


def _existing() -> str:
    """Return the data folder, or the nearest folder above it that exists."""
    folder = settings().idle_shimmer_data.resolve()
    while not folder.is_dir():
        folder = folder.parent
    return str(folder)
