"""The mark of an installation on its store: where it is missing, another store is mounted, or none.

A folder that is not mounted looks like an empty store, and what is written there is gone once it is mounted.
"""

import time
from collections.abc import Callable
from typing import Protocol

from idle_shimmer.core.errors import ShimmerError

MARK_FILE = ".installation"


class StoreFault(ShimmerError):
    """The store of files cannot be used."""


class StoreUnreachable(StoreFault):
    """The store of files does not answer, or is not the one of this installation; it may be back later."""


class Marks(Protocol):
    """Knows the mark of this installation."""

    def agreed(self, read: Callable[[], str | None], write: Callable[[str], None]) -> str:
        """Return the mark; where there is none yet, that of the store, which is given one where it has none."""


class StoreMark:
    """Asks a store for its mark, again after ``holds_s`` seconds; ``read`` returns None where it has none."""

    def __init__(
        self,
        marks: Marks | None,
        read: Callable[[], str | None],
        write: Callable[[str], None],
        holds_s: float,
    ) -> None:
        self._marks, self._read, self._write, self._holds_s = marks, read, write, holds_s
        self._wanted: str | None = None
        self._seen_at = float("-inf")

    def require(self) -> None:
        """Raise StoreUnreachable where the store does not carry the mark."""
        if self._marks is None or time.monotonic() - self._seen_at < self._holds_s:
            return
        if self._wanted is None:
            self._wanted = self._marks.agreed(self._read, self._write)
        if self._read() != self._wanted:
            raise StoreUnreachable(
                "the store of files is not the one of this installation: its folder may not be mounted, so"
                " nothing is written there. Mount it. If it is to be a new store, run idle-shimmer fill-store"
            )
        self._seen_at = time.monotonic()

    def give(self) -> None:
        """Mark a store that is to be the one of this installation."""
        if self._marks is not None:
            self._write(self._marks.agreed(self._read, self._write))
