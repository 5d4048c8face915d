"""Claims: the right of one worker to a job's row, until another worker takes it up.

The number of the newest claim is a fencing token: a worker that was stopped for a while and goes on
after another has taken over changes nothing.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any
from uuid import UUID

from sqlalchemy import (
    SQLColumnExpression,
    String,
    Update,
    cast,
    column,
    exists,
    select,
    table,
    update,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Session
from sqlalchemy.sql import ColumnElement

from idle_shimmer.store.database import session_scope

MAX_STARTS = 5


@dataclass(frozen=True)
class Claim:
    """Claim ``number`` on the row of ``id``; ``subject`` is what the work is about."""

    id: UUID
    number: int
    subject: Any


class ClaimLost(Exception):
    """Another worker has taken the job up."""


class ClaimedRows:
    """The rows of one kind of job, as far as every kind is alike.

    Rows have ``state``, ``done_frames``, ``cancel_asked``, ``message``, ``claim`` and ``starts``. ``what`` begins the message
    of a job that was given up. ``ended`` and ``waiting`` are further columns of a job that was given up, and of one that
    waits again.
    """

    def __init__(
        self,
        row: Any,
        key: Any,
        what: str,
        *,
        ended: Mapping[str, Any] = MappingProxyType({}),
        waiting: Mapping[str, Any] = MappingProxyType({}),
    ) -> None:
        self._row, self._key, self._what = row, key, what
        self._ended, self._waiting = ended, waiting

    def begin(self, row_id: UUID, claimed: Callable[[Session, Any], Any]) -> Claim | None:
        """Claim a row and mark it as running; None where it is done, cancelled or gone.

        ``claimed`` changes what else has to be changed, and returns what the work is about. One that was
        started too often is marked as failed.
        """
        with session_scope() as session:
            row = session.get(self._row, row_id, with_for_update=True)
            if row is None or row.state in ("done", "cancelled"):
                return None
            if row.starts >= MAX_STARTS:
                row.state, row.message = "failed", _given_up(self._what)
                for name, value in self._ended.items():
                    setattr(row, name, value)
                return None
            row.state, row.done_frames = "running", 0
            row.claim += 1
            row.starts += 1
            subject = claimed(session, row)
            session.flush()
            return Claim(row_id, row.claim, subject)

    def report_progress(self, claim: Claim, done_frames: int) -> bool:
        """Store how much is done; return whether to go on. Raises ClaimLost."""
        with session_scope() as session:
            change = self.claimed(claim).values(done_frames=done_frames)
            cancelled = session.scalar(change.returning(self._row.cancel_asked))
        if cancelled is None:
            raise ClaimLost
        return not cancelled

    def release(self, claim: Claim) -> None:
        """Put a job that was interrupted back to waiting: it was started, but did not fail."""
        with session_scope() as session:
            waiting = {"state": "waiting", "done_frames": 0, "starts": self._row.starts - 1}
            session.execute(self.claimed(claim).values(**waiting, **self._waiting))

    def claimed(self, claim: Claim) -> Update:
        """Return the change of the row, as long as the claim holds."""
        wanted = update(self._row).where(self._key == claim.id)
        return wanted.where(self._row.claim == claim.number, self._row.state == "running")


def ask_to_stop(row: Any) -> None:
    """Ask the job of a row to stop; one that is queued stops at once."""
    row.cancel_asked = True
    if row.state == "waiting":
        row.state = "cancelled"


def _given_up(what: str) -> str:
    """Return the message for a job that ended its worker each time."""
    return (
        f"{what} was started {MAX_STARTS} times and each time its worker ended before it was done."
        " The log of the worker may say why; then retry."
    )


def has_job(argument: str, row_id: SQLColumnExpression[UUID]) -> ColumnElement[bool]:
    """The condition that a job waits or runs whose ``argument`` is the id of a row."""
    job = table("procrastinate_jobs", column("status"), column("args", JSONB))
    is_of_row = job.c.args[argument].astext == cast(row_id, String)
    return exists(
        select(1)
        .select_from(job)
        .where(cast(job.c.status, String).in_(("todo", "doing")), is_of_row)
    )
