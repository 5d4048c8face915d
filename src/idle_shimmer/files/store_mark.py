"""The mark of an installation on its store: where it is missing, another store is mounted, or none.

A folder that is not mounted looks like an empty store, and what is written there is gone once it is mounted.
"""

import time
import uuid
from collections.abc import Callable
from functools import partial
from typing import Protocol

from idle_shimmer.core.errors import ShimmerError

MARK_FILE = ".installation"


class StoreFault(ShimmerError):
    """The store of files cannot be used."""


class StoreUnreachable(StoreFault):
    """The store of files does not answer, or is not the one of this installation; it may be back later."""


_ANOTHER = (
    "the store of files is not the one of this installation: its folder may not be mounted, so nothing is written"
    " there. Mount it. If it is to be a new store, run idle-shimmer fill-store"
)


class MarkedStore(Protocol):
    """A store that can carry a mark."""

    def read_mark(self) -> str | None:
        """Return its mark; None where it has none."""

    def write_mark(self, mark: str) -> None:
        """Mark it."""

    def is_empty(self) -> bool:
        """Whether it has no imported file."""


class Marks(Protocol):
    """Knows the mark of this installation."""

    def known(self, make: Callable[[], str]) -> str:
        """Return the mark; where there is none yet, it is what ``make`` returns, which one process calls."""

    def has_clips(self) -> bool:
        """Whether clips were imported."""


class StoreMark:
    """Asks a store for its mark, again after ``holds_s`` seconds."""

    def __init__(self, marks: Marks | None, store: MarkedStore, holds_s: float) -> None:
        self._marks, self._store, self._holds_s = marks, store, holds_s
        self._wanted: str | None = None
        self._seen_at = float("-inf")

    def require(self) -> None:
        """Raise StoreUnreachable where the store does not carry the mark."""
        if self._marks is None or time.monotonic() - self._seen_at < self._holds_s:
            return
        if self._wanted is None:
            self._wanted = self._marks.known(partial(self._first_mark, self._marks.has_clips()))
        if self._store.read_mark() != self._wanted:
            raise StoreUnreachable(_ANOTHER)
        self._seen_at = time.monotonic()

    def give(self) -> None:
        """Mark a store that is to be the one of this installation."""
        if self._marks is not None:
            self._store.write_mark(self._marks.known(self._new_mark))

    def _first_mark(self, has_clips: bool) -> str:
        """Return the mark that the store has, or a new one, unless it should have files and has none."""
        found = self._store.read_mark()
        if found is None and has_clips and self._store.is_empty():
            raise StoreUnreachable(_ANOTHER)
        return found or self._new_mark()

    def _new_mark(self) -> str:
        # First there, then here: what is interrupted in between is taken up from there.
        mark = self._store.read_mark() or uuid.uuid4().hex
        self._store.write_mark(mark)
        return mark
