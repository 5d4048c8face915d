"""What the live preview makes while requests keep coming: every finished picture is sent."""

import asyncio
from concurrent.futures import ThreadPoolExecutor
from types import SimpleNamespace
from typing import Any

import pytest

from idle_shimmer.api.preview import scheduler as module
from idle_shimmer.api.preview.scheduler import Scheduler
from idle_shimmer.api.preview.slots import PreviewLoad


class Page:
    """A connection that keeps what it is sent."""

    def __init__(self) -> None:
        self.pictures: list[bytes] = []
        self.texts: list[Any] = []

    async def send_bytes(self, data: bytes) -> None:
        self.pictures.append(data)

    async def send_json(self, data: Any) -> None:
        self.texts.append(data)


class Work:
    """One request with one picture, which is finished when the test says so."""

    made: "asyncio.Queue[Work]"
    loop: asyncio.AbstractEventLoop

    def __init__(self, _scene: object, request: SimpleNamespace) -> None:
        self.request, self.dropped = request, False
        self.finished = asyncio.Event()
        self._left = [SimpleNamespace(kind="frame")]

    def next_tasks(self, most: int) -> list[Any]:
        return self._left[:most]

    def begin(self, _task: object) -> None:
        self._left = []

    def fetch(self, _task: object) -> None:
        pass

    def make(self, _task: object) -> bytes:
        Work.loop.call_soon_threadsafe(Work.made.put_nowait, self)
        asyncio.run_coroutine_threadsafe(self.finished.wait(), Work.loop).result()
        return str(self.request.id).encode()

    def curves(self) -> dict[str, Any]:
        return {"id": self.request.id}


def request(number: int) -> Any:
    return SimpleNamespace(id=number, rest=False)


@pytest.fixture
def scheduled(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "Work", Work)


@pytest.mark.usefixtures("scheduled")
def test_a_drag_without_a_pause_shows_every_picture_that_is_finished() -> None:
    """Three requests arrive while each picture is made: a third of them is shown, none is lost."""

    async def drag() -> Page:
        page = Page()
        Work.loop, Work.made = asyncio.get_running_loop(), asyncio.Queue()
        scene = SimpleNamespace(prefetches=lambda: iter(()), left=False)
        running = Scheduler(page, scene, PreviewLoad())  # type: ignore[arg-type]
        maker = asyncio.create_task(running.run())
        running.request(request(0))
        for number in range(1, 60):
            if number % 3 == 1:
                work = await Work.made.get()
            running.request(request(number))
            if number % 3 == 0:
                work.finished.set()
        work.finished.set()
        (await Work.made.get()).finished.set()
        while not page.texts:
            await asyncio.sleep(0)
        maker.cancel()
        return page

    # A thread of its own: the tests of the browser leave this one with a running loop.
    with ThreadPoolExecutor(1) as thread:
        page = thread.submit(lambda: asyncio.run(asyncio.wait_for(drag(), 30))).result()
    shown = [int(each) for each in page.pictures]
    assert shown == [0, *range(3, 58, 3), 59]
    # Facts are those of the newest state alone.
    assert [each["id"] for each in page.texts] == [59]
