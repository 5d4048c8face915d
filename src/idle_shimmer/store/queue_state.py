"""What the job queue says of itself: how many workers are alive, how many jobs wait."""

from sqlalchemy import text
from sqlalchemy.orm import Session

# Workers report every ten seconds that they are alive.
_WORKERS = text(
    "SELECT count(*) FROM procrastinate_workers WHERE last_heartbeat > now() - interval '30 s'"
)
_WAITING = text(
    "SELECT count(*) FROM procrastinate_jobs WHERE status = 'todo' AND queue_name NOT IN ('upkeep', 'proxies')"
)


def living_worker_slots(session: Session) -> int:
    """Return how many slots of workers have reported within half a minute."""
    return session.scalar(_WORKERS) or 0


def waiting_jobs(session: Session) -> int:
    """Return how many jobs wait for a worker."""
    return session.scalar(_WAITING) or 0
