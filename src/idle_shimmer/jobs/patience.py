"""Waiting for a database that restarts: the work goes on from where it is."""

import time
from collections.abc import Callable
from typing import TypeVar

import structlog
from procrastinate.exceptions import ConnectorException
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout

_WAIT_S, _RETRY_S = 300.0, 1.0
_R = TypeVar("_R")
_log = structlog.get_logger(__name__)


def patiently(ask: Callable[[], _R]) -> _R:
    """Return what ``ask`` returns; while the database does not answer, ask again for some minutes."""
    end = time.monotonic() + _WAIT_S
    while True:
        try:
            return ask()
        except (DBAPIError, PoolTimeout, ConnectorException):
            if time.monotonic() > end:
                raise
            _log.warning("waiting for the database")
            time.sleep(_RETRY_S)
