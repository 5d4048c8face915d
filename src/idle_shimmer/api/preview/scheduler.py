"""What is made when: shown frame first, then the strip, then the frames for playing, then checks.

A newer request makes the server drop what it has not begun; what it has begun is completed and sent.
Nothing here makes the event loop wait: requests are taken in as they come, and everything that reads or
computes runs in threads.
"""

import asyncio
from collections.abc import AsyncIterator, Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import asynccontextmanager, suppress
from typing import Any, Protocol

import structlog
from fastapi import WebSocketDisconnect

from idle_shimmer.api.preview.protocol import Focus, PreviewRequest, Task, problem_message
from idle_shimmer.api.preview.slots import PreviewLoad, in_thread
from idle_shimmer.api.preview.work import Dropped, Work
from idle_shimmer.api.server.error_answers import Problem
from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.edit.scene import Scene

_log = structlog.get_logger(__name__)
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

    def __init__(self, connection: Connection, scene: Scene, load: PreviewLoad) -> None:
        self._connection, self._scene, self._load = connection, scene, load
        self._requested: PreviewRequest | None = None
        self._work: Work | None = None
        self._wake = asyncio.Event()
        self._prefetches = scene.prefetches()
        self._checking: asyncio.Task[None] | None = None
        self._described: Work | None = None
        self._checked: Work | None = None

    def request(self, request: PreviewRequest) -> None:
        """Show another state."""
        if self._work is not None:
            self._work.dropped = True
        self._requested = request
        self._wake.set()

    def focus(self, focus: Focus) -> None:
        """Show another frame of the same state."""
        if self._requested is not None:
            if self._requested.id == focus.id:
                seen = focus.model_dump(exclude={"id"})
                self._requested = self._requested.model_copy(update=seen)
        elif self._work is not None and self._work.request.id == focus.id:
            self._work.focus(focus)
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
            if self._requested is not None:
                await self._begin(self._requested)
            work = self._work
            if work is None:
                await self._wake.wait()
            elif tasks := work.next_tasks(2):
                await self._make(work, tasks)
            elif pause_s := work.sharpens_in():
                await self._is_quiet(pause_s)
            elif work.request.rest and self._checked is not work:
                # These checks take long: while values are dragged nobody waits for them.
                if await self._is_quiet():
                    self._checked = work
                    self._checking = asyncio.create_task(self._check(work, self._checking))
            elif self._checked is not work or not await in_thread(self._prefetch):
                await self._wake.wait()

    async def _begin(self, request: PreviewRequest) -> None:
        """Open what a request needs, which may take as long as indexing a file."""
        self._requested = None
        async with self._reporting(request.id):
            self._work = await in_thread(Work, self._scene, request)

    def _is_newest(self, work: Work) -> bool:
        return work is self._work and self._requested is None

    async def _make(self, work: Work, tasks: list[Task]) -> None:
        async with self._reporting(work.request.id):
            # The next picture's sources may be decoded meanwhile.
            for task in tasks[1:]:
                _ahead.submit(work.fetch, task)
            # A picture that is finished is sent, however many newer states have come: while a value is
            # dragged there is always a newer one. It carries the id of its state.
            await self._connection.send_bytes(await self._picture(work, tasks[0]))
            if not self._is_newest(work):
                return
            if self._described is not work:
                self._described = work
                await self._connection.send_json(await in_thread(work.curves))
            if tasks[0].kind == "thumb" and work.strip_is_complete():
                await self._connection.send_json(await in_thread(work.changes))
                # Only once the strip is complete: while values are dragged nothing waits for it.
                findings = await in_thread(work.findings, on_frames=False)
                await self._connection.send_json(findings)

    async def _picture(self, work: Work, task: Task) -> bytes:
        """Return the message with a picture. Its sources are read before it takes a slot."""
        work.begin(task)
        await in_thread(work.fetch, task)
        async with self._load.slots:
            return await in_thread(work.make, task)

    @asynccontextmanager
    async def _reporting(self, request_id: int) -> AsyncIterator[None]:
        """Tell the page what went wrong, and go on."""
        try:
            yield
        except ShimmerError as error:
            await self._connection.send_json(problem_message(request_id, error))
        except WebSocketDisconnect:
            raise
        except Exception:
            if self._scene.left:
                raise
            _log.exception("a preview failed")
            message = "the server cannot show this state: its log has the details"
            problems = [Problem(field=None, message=message)]
            await self._connection.send_json(problem_message(request_id, problems))

    async def _check(self, work: Work, previous: "asyncio.Task[None] | None") -> None:
        """Send what the checks of rendered frames find; newer requests need not wait for them."""
        if previous is not None:
            await asyncio.wait({previous})
        if work.dropped:
            return
        with suppress(Dropped, WebSocketDisconnect, RuntimeError):
            findings = await in_thread(work.findings, on_frames=True)
            if self._is_newest(work):
                await self._connection.send_json(findings)

    async def _is_quiet(self, seconds: float = _QUIET_S) -> bool:
        """Whether nothing new is asked for a moment."""
        with suppress(TimeoutError):
            await asyncio.wait_for(self._wake.wait(), seconds)
            return False
        return True

    def _prefetch(self) -> bool:
        """Read a picture that may be wanted later; return False where none is left."""
        fetch = next(self._prefetches, None)
        if fetch is not None:
            with suppress(ShimmerError):
                fetch()
        return fetch is not None
