"""What is made when: shown frame first, then the strip, then the frames for playing, then checks.

A newer request makes the server drop what it has not begun; what it has begun is completed and sent.
"""

import asyncio
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from typing import Any, Protocol

from fastapi import WebSocketDisconnect

from idle_shimmer.api.preview.protocol import Focus, PreviewRequest, problem_message
from idle_shimmer.api.preview.scene import Scene
from idle_shimmer.api.preview.work import Dropped, Work
from idle_shimmer.core.errors import ShimmerError

_QUIET_S = 0.25
_ahead = ThreadPoolExecutor(max_workers=1, thread_name_prefix="ahead")


class Connection(Protocol):
    """Sends messages to the page; raises WebSocketDisconnect or RuntimeError where it has gone."""

    async def send_json(self, data: Any) -> None:
        """Send JSON text."""

    async def send_bytes(self, data: bytes) -> None:
        """Send a binary message."""


def fetch_ahead(fetch: Callable[[], None]) -> None:
    """Read pictures in the background: they are decoded by other processes."""
    _ahead.submit(fetch)


class Scheduler:
    """One page's preview."""

    def __init__(self, connection: Connection, scene: Scene) -> None:
        self._connection, self._scene = connection, scene
        self._work: Work | None = None
        self._wake = asyncio.Event()
        self._prefetches = scene.prefetches()
        self._checking: asyncio.Task[None] | None = None
        self._described: Work | None = None
        self._checked: Work | None = None

    def request(self, request: PreviewRequest) -> None:
        """Show another state."""
        work = Work(self._scene, request)
        if self._work is not None:
            self._work.dropped = True
        self._work = work

    def focus(self, focus: Focus) -> None:
        """Show another frame of the same state."""
        if self._work is not None and self._work.request.id == focus.id:
            self._work.focus(focus)

    def wake(self) -> None:
        """Look for work now."""
        self._wake.set()

    def leave(self) -> None:
        """Drop what is still being read or checked: the page has gone."""
        self._scene.left = True
        if self._work is not None:
            self._work.dropped = True

    async def run(self) -> None:
        """Make and send pictures, always of the latest request, until cancelled."""
        while True:
            # Cleared before the request is looked at, so that none that arrives meanwhile is missed.
            self._wake.clear()
            work = self._work
            if work is None:
                await self._wake.wait()
            elif tasks := work.next_tasks(2):
                await self._make(work, tasks)
            elif work.request.rest and self._checked is not work:
                # These checks take long: while values are dragged nobody waits for them.
                if await self._is_quiet():
                    self._checked = work
                    self._checking = asyncio.create_task(self._check(work, self._checking))
            elif self._checked is not work or not await asyncio.to_thread(self._prefetch):
                await self._wake.wait()

    async def _make(self, work: Work, tasks: list[Any]) -> None:
        try:
            # The next picture's sources may be decoded meanwhile.
            for task in tasks[1:]:
                _ahead.submit(work.fetch, task)
            # A picture that is finished is sent, however many newer states have come: while a value is
            # dragged there is always a newer one. It carries the id of its state.
            await self._connection.send_bytes(await asyncio.to_thread(work.make, tasks[0]))
            if work is not self._work:
                return
            if self._described is not work:
                self._described = work
                await self._connection.send_json(await asyncio.to_thread(work.curves))
            if tasks[0].kind == "thumb" and work.strip_is_complete():
                await self._connection.send_json(await asyncio.to_thread(work.changes))
                # Only once the strip is complete: while values are dragged nothing waits for it.
                findings = await asyncio.to_thread(work.findings, on_frames=False)
                await self._connection.send_json(findings)
        except ShimmerError as error:
            await self._connection.send_json(problem_message(work.request.id, error))

    async def _check(self, work: Work, previous: "asyncio.Task[None] | None") -> None:
        """Send what the checks of rendered frames find; newer requests need not wait for them."""
        if previous is not None:
            await asyncio.wait({previous})
        if work.dropped:
            return
        with suppress(Dropped, WebSocketDisconnect, RuntimeError):
            findings = await asyncio.to_thread(work.findings, on_frames=True)
            if work is self._work:
                await self._connection.send_json(findings)

    async def _is_quiet(self) -> bool:
        """Whether nothing new is asked for a moment."""
        with suppress(TimeoutError):
            await asyncio.wait_for(self._wake.wait(), _QUIET_S)
            return False
        return True

    def _prefetch(self) -> bool:
        """Read a picture that may be wanted later; return False where none is left."""
        fetch = next(self._prefetches, None)
        if fetch is not None:
            with suppress(ShimmerError):
                fetch()
        return fetch is not None
