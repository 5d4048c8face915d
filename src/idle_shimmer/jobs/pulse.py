"""What a job does twice a second, however long its frames take: report, and hear whether to stop."""

import time
from collections.abc import Callable

import procrastinate

from idle_shimmer.jobs.blueprint import Cancelled, Interrupted
from idle_shimmer.jobs.patience import patiently

_EVERY_S = 0.5


class Pulse:
    """Calls ``work`` where half a second has passed since it was last called."""

    def __init__(self, work: Callable[[], None]) -> None:
        self._work, self._last = work, float("-inf")

    def __call__(self) -> None:
        """Do it where it is time."""
        now = time.monotonic()
        if now - self._last >= _EVERY_S:
            self._last = now
            self._work()


class Progress:
    """How far a job is. ``tell`` stores what is done, and answers whether to go on.

    Raises Interrupted where the worker stops, and Cancelled where the editor has cancelled the job.
    """

    def __init__(self, context: procrastinate.JobContext, tell: Callable[[int], bool]) -> None:
        self._context, self._tell = context, tell
        self._done = 0
        self.beat = Pulse(self.report)

    def at(self, done: int) -> None:
        """Take in how much is done."""
        self._done = done
        self.beat()

    def report(self) -> None:
        """Report now."""
        if self._context.should_abort():
            raise Interrupted
        if not patiently(lambda: self._tell(self._done)):
            raise Cancelled
