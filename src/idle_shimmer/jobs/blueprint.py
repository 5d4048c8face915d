"""What every task shares: where it is registered, how it is interrupted, and how its end is written down."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

import procrastinate
import structlog

from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.files.store_mark import StoreUnreachable
from idle_shimmer.jobs.patience import patiently
from idle_shimmer.store.claims import Claim, ClaimLost

tasks = procrastinate.Blueprint()
_log = structlog.get_logger(__name__)
# A store that is away is asked for again after so many seconds.
_STORE_AWAY_S = 10


class Cancelled(Exception):
    """The job was cancelled by the editor."""


class Interrupted(Exception):
    """The worker is stopping: the job is taken up again by the next one."""


class _Again(procrastinate.BaseRetryStrategy):
    """Take a job up again at once after its worker has stopped, and later where the store of files is away."""

    def get_retry_decision(
        self, *, exception: BaseException, job: procrastinate.jobs.Job
    ) -> procrastinate.RetryDecision | None:
        """Return when the job is taken up again, None for never."""
        del job
        if isinstance(exception, Interrupted):
            return procrastinate.RetryDecision(retry_in={"seconds": 0})
        if isinstance(exception, StoreUnreachable):
            return procrastinate.RetryDecision(retry_in={"seconds": _STORE_AWAY_S})
        return None


AGAIN = _Again()


@dataclass(frozen=True)
class Ending:
    """How the end of a job is written to its row: ``finish`` takes a state and a message."""

    what: str
    finish: Callable[[str, str], None]
    release: Callable[[Claim], None]


@contextmanager
def ending(claim: Claim, end: Ending) -> Iterator[None]:
    """Write to the row how a job ended that was not done."""
    try:
        yield
    except Cancelled:
        patiently(lambda: end.finish("cancelled", "Cancelled."))
    except (Interrupted, StoreUnreachable):
        patiently(lambda: end.release(claim))
        raise
    except ClaimLost:
        _log.warning("another worker has taken the job up", what=end.what, id=str(claim.id))
    except ShimmerError as error:
        message = str(error)
        patiently(lambda: end.finish("failed", message))
    except Exception:
        _log.exception("a job failed", what=end.what, id=str(claim.id))
        message = (
            f"The {end.what} stopped because of an error in the program; its log has the details."
            " Retry."
        )
        patiently(lambda: end.finish("failed", message))
        raise
