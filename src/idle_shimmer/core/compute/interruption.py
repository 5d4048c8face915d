"""Lets a long computation be stopped between two portions of its rows: a large frame can take minutes."""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

_of_thread = threading.local()


@contextmanager
def interruptible(ask: Callable[[], None]) -> Iterator[None]:
    """Call ``ask`` again and again while this thread computes inside; it stops the work by raising.

    It is called several times a second: what takes time is its own affair to do less often.
    """
    former = asked()
    _of_thread.ask = ask
    try:
        yield
    finally:
        _of_thread.ask = former


def asked() -> Callable[[], None] | None:
    """Return what this thread calls between portions; None where nobody asked."""
    found: Callable[[], None] | None = getattr(_of_thread, "ask", None)
    return found
