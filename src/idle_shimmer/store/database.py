"""The connection to the database, and sessions on it."""

import time
from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache

import structlog
from sqlalchemy import Engine, create_engine
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session, object_session

from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.settings import settings

_START_S, _ASK_AGAIN_S = 60.0, 1.0
_log = structlog.get_logger(__name__)


class DatabaseSilent(ShimmerError):
    """The database does not answer."""


@lru_cache(maxsize=1)
def engine() -> Engine:
    """Return the connection pool of this process."""
    return create_engine(settings().database(), pool_pre_ping=True, pool_size=10)


def session_of(row: object) -> Session:
    """Return the session that ``row`` was read in."""
    session = object_session(row)
    if session is None:
        raise RuntimeError("the row was not read in a session")
    return session


def wait_for_database(longest_s: float = _START_S) -> None:
    """Return once the database answers. Raises DatabaseSilent where it does not within ``longest_s`` seconds."""
    end = time.monotonic() + longest_s
    while True:
        try:
            with engine().connect():
                return
        except OperationalError as error:
            reason = " ".join(str(error.orig).split())
            if time.monotonic() > end:
                raise DatabaseSilent(
                    f"the database does not answer: {reason}. Start it, or correct the address",
                    field="DATABASE_URL",
                ) from None
            _log.warning("waiting for the database", reason=reason)
            time.sleep(_ASK_AGAIN_S)


@contextmanager
def session_scope() -> Iterator[Session]:
    """Open a session that commits at the end, and rolls back on an error."""
    with Session(engine(), expire_on_commit=False) as session, session.begin():
        yield session


@contextmanager
def reading_scope() -> Iterator[Session]:
    """Open a session that only reads: every query sees the state at the first one, whatever is changed meanwhile.

    Source: PostgreSQL's documentation, "Repeatable Read Isolation Level".
    """
    with session_scope() as session:
        session.connection(execution_options={"isolation_level": "REPEATABLE READ"})
        yield session
