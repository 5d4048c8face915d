"""Claims: the right of one worker to a job's row, until another worker takes it up.

The number of the newest claim is a fencing token: a worker that was stopped for a while and goes on
after another has taken over changes nothing.
"""

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from sqlalchemy import SQLColumnExpression, String, cast, column, exists, select, table
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.sql import ColumnElement

MAX_STARTS = 5


@dataclass(frozen=True)
class Claim:
    """Claim ``number`` on the row of ``id``; ``subject`` is what the work is about."""

    id: UUID
    number: int
    subject: Any


class ClaimLost(Exception):
    """Another worker has taken the job up."""


def given_up(what: str) -> str:
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
