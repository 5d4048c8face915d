"""Whether everything that the application needs is there."""

from contextlib import suppress

from fastapi import APIRouter
from pydantic import BaseModel
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from idle_shimmer.files.file_store import file_store
from idle_shimmer.files.space import free_bytes
from idle_shimmer.files.store_mark import StoreFault
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.queue_state import living_worker_slots, waiting_jobs

router = APIRouter(prefix="/api/health", tags=["health"])


class HealthOut(BaseModel):
    """``state`` is ``ready``, or ``degraded`` where the database, the store of files or every worker is missing.

    ``worker_slots`` and ``waiting_jobs`` are null where the database does not answer; ``disk_free_bytes``
    is what is left where media and renders lie.
    """

    state: str
    database: bool
    store: bool
    worker_slots: int | None
    waiting_jobs: int | None
    disk_free_bytes: int


@router.get("")
def health() -> HealthOut:
    """Answer as soon as the application is ready, and say what it lacks."""
    workers = waiting = None
    has_database = has_store = False
    with suppress(DBAPIError, PoolTimeout):
        with session_scope() as session:
            workers, waiting = living_worker_slots(session), waiting_jobs(session)
        has_database = True
        with suppress(StoreFault):
            file_store().require()
            has_store = True
    return HealthOut(
        state="ready" if workers and has_store else "degraded",
        database=has_database,
        store=has_store,
        worker_slots=workers,
        waiting_jobs=waiting,
        disk_free_bytes=free_bytes(),
    )
