"""Shares this server's capacity among the live previews, and limits how many there are."""

import asyncio
import os
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import ParamSpec, TypeVar

from idle_shimmer.limits import limits

_P = ParamSpec("_P")
_R = TypeVar("_R")
# Most threads wait for decoders: computing has slots of its own.
_THREADS = 64
_threads = ThreadPoolExecutor(_THREADS, thread_name_prefix="preview")


async def in_thread(work: Callable[_P, _R], *args: _P.args, **kwargs: _P.kwargs) -> _R:
    """Run ``work`` in a thread of the previews: the event loop never waits for a file or a lock."""
    return await asyncio.get_running_loop().run_in_executor(_threads, lambda: work(*args, **kwargs))


class PreviewLoad:
    """The open previews of one server.

    Pictures are computed in ``slots``, as many as there are processors. Whoever waits longest is
    next, so that each page gets the same share.
    """

    def __init__(self, slots: int | None = None) -> None:
        self.slots = asyncio.Semaphore(slots or os.cpu_count() or 1)
        self._open: Counter[str] = Counter()

    def enter(self, client: str) -> str | None:
        """Count a preview of ``client``, an address; return why it is refused, or None."""
        most = limits()
        if self._open[client] >= most.max_previews_per_client:
            return (
                f"{most.max_previews_per_client} previews are open from this address: close a page"
                " that shows one"
            )
        if self._open.total() >= most.max_previews:
            return "the server shows as many previews as it may: try again in a moment"
        self._open[client] += 1
        return None

    def leave(self, client: str) -> None:
        """Count one less."""
        self._open[client] -= 1
        if self._open[client] <= 0:
            del self._open[client]
