"""The connection to the database, and sessions on it."""

from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache

from sqlalchemy import Engine, create_engine
from sqlalchemy.orm import Session, object_session

from idle_shimmer.settings import settings


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


@contextmanager
def session_scope() -> Iterator[Session]:
    """Open a session that commits at the end, and rolls back on an error."""
    with Session(engine(), expire_on_commit=False) as session, session.begin():
        yield session
