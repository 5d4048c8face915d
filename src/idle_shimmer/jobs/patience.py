"""Waiting for a database that restarts, or a store of files that is away: the work goes on from where it is."""

import time
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

import structlog
from procrastinate.exceptions import ConnectorException
from sqlalchemy.exc import DBAPIError, InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from idle_shimmer.files.file_store import file_store
from idle_shimmer.files.store_mark import StoreUnreachable

_WAIT_S, _RETRY_S = 300.0, 1.0
_R = TypeVar("_R")
_log = structlog.get_logger(__name__)


def _may_pass(error: Exception) -> bool:
    """Whether the same request may succeed later: a value that is refused is refused again."""
    if isinstance(error, DBAPIError):
        is_away = isinstance(error, OperationalError | InterfaceError)
        return is_away or error.connection_invalidated
    return True


def patiently(ask: Callable[[], _R]) -> _R:
    """Return what ``ask`` returns; while the database does not answer, ask again for some minutes."""
    end = time.monotonic() + _WAIT_S
    while True:
        try:
            return ask()
        except (DBAPIError, PoolTimeout, ConnectorException) as error:
            if not _may_pass(error) or time.monotonic() > end:
                raise
            _log.warning("waiting for the database")
            time.sleep(_RETRY_S)


def keep(file: Path, report: Callable[[], None]) -> None:
    """Keep a finished file; while the store is away, try again for some minutes.

    ``report`` is called on the way, and may raise. Raises StoreUnreachable where the store stays away.
    """
    end = time.monotonic() + _WAIT_S
    while True:
        try:
            file_store().keep(file, report)
            return
        except StoreUnreachable as error:
            if time.monotonic() > end:
                raise
            _log.warning("waiting for the store of files", reason=error.message)
        report()
        time.sleep(_RETRY_S)
