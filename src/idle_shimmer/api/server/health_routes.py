"""Whether everything that the application needs is there."""

from fastapi import APIRouter
from pydantic import BaseModel
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from idle_shimmer.files.space import free_bytes
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.queue_state import living_worker_slots, waiting_jobs

router = APIRouter(prefix="/api/health", tags=["health"])


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
    free = free_bytes()
    try:
        with session_scope() as session:
            workers, waiting = living_worker_slots(session), waiting_jobs(session)
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
