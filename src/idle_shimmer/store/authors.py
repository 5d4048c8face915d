"""Who makes a change: the account that the request at hand was signed in with."""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_author: ContextVar[str | None] = ContextVar("author", default=None)


def current_author() -> str | None:
    """Return the name of the account; None where nobody is signed in."""
    return _author.get()


@contextmanager
def acting_as(name: str | None) -> Iterator[None]:
    """Make changes inside in the name of an account."""
    token = _author.set(name)
    try:
        yield
    finally:
        _author.reset(token)
