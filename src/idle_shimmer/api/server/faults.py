"""What goes wrong below the API, as answers: the database, simultaneous changes, a full disk."""

import structlog
from fastapi import FastAPI, Request
from fastapi.responses import JSONResponse
from procrastinate.exceptions import ConnectorException
from psycopg.errors import DeadlockDetected, SerializationFailure
from sqlalchemy.exc import DataError, DBAPIError, IntegrityError, StatementError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from sqlalchemy.orm.exc import StaleDataError

from idle_shimmer.api.server.error_answers import refusal
from idle_shimmer.files.space import DiskFull, disk_full, is_full
from idle_shimmer.files.store_mark import StoreFault

_log = structlog.get_logger(__name__)
_RETRY_AFTER_S = "2"
_SIMULTANEOUS = (
    "another request changed this at the same moment, so your change was not made: load the newest"
    " state and do it again"
)


def database_refusal(error: Exception) -> JSONResponse:
    """Return the answer where the database does not."""
    _log.error("the database does not answer", error=str(error))
    answer = refusal(503, "the database does not answer: try again in a moment")
    answer.headers["Retry-After"] = _RETRY_AFTER_S
    return answer


def install(app: FastAPI) -> None:
    """Make ``app`` answer faults of the database, the store of files and the disk in words."""
    _install_values(app)
    _install_files(app)

    @app.exception_handler(IntegrityError)
    @app.exception_handler(StaleDataError)
    def on_simultaneous(_: Request, error: Exception) -> JSONResponse:
        _log.warning("simultaneous change", error=str(error))
        return refusal(409, _SIMULTANEOUS)

    @app.exception_handler(DBAPIError)
    @app.exception_handler(PoolTimeout)
    @app.exception_handler(ConnectorException)
    def on_database(_: Request, error: Exception) -> JSONResponse:
        # The queue of jobs has the driver's own error as the cause of its error.
        reason = getattr(error, "orig", None) or error.__cause__
        if isinstance(reason, DeadlockDetected | SerializationFailure):
            return refusal(409, _SIMULTANEOUS)
        return database_refusal(error)


def _install_values(app: FastAPI) -> None:
    """Answer values that the database cannot hold."""

    @app.exception_handler(DataError)
    @app.exception_handler(StatementError)
    def on_value(_: Request, error: Exception) -> JSONResponse:
        _log.warning("a value that cannot be stored", error=str(error))
        return refusal(
            422,
            "a text has a character, or a number a size, that cannot be stored: change it",
        )

    @app.exception_handler(UnicodeEncodeError)
    def on_text(_: Request, error: UnicodeEncodeError) -> JSONResponse:
        return refusal(422, f"a text has a character that cannot be stored: {error.reason}")


def _install_files(app: FastAPI) -> None:
    """Answer faults of the store of files and of the disk."""

    @app.exception_handler(StoreFault)
    def on_store(_: Request, error: StoreFault) -> JSONResponse:
        return refusal(503, error.message)

    @app.exception_handler(DiskFull)
    def on_full(_: Request, error: DiskFull) -> JSONResponse:
        return refusal(507, error.message)

    @app.exception_handler(OSError)
    def on_disk(_: Request, error: OSError) -> JSONResponse:
        if is_full(error):
            return refusal(507, disk_full().message)
        _log.exception("a file cannot be used", exc_info=error)
        return refusal(500, f"a file cannot be used: {error.strerror or error}")
