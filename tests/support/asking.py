"""Waiting for other processes: asking whether something has happened, without taking a processor from them."""

import signal
from collections.abc import Iterator

PAUSE_S = 0.1


def asking() -> Iterator[None]:
    """Yield at once, then whenever a process of the tests ends, and at least ten times a second.

    Only in the main thread.
    """
    ended = {signal.SIGCHLD}
    signal.pthread_sigmask(signal.SIG_BLOCK, ended)
    try:
        while True:
            yield
            signal.sigtimedwait(ended, PAUSE_S)
    finally:
        signal.pthread_sigmask(signal.SIG_UNBLOCK, ended)
