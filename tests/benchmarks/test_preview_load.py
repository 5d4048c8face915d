"""The live preview while values are dragged without a pause: pictures shown, and how old they are."""

import asyncio
import itertools
import json
import statistics
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import Any

import pytest
from websockets.asyncio.client import ClientConnection, connect

from tests.browser.conftest import address, api, demo  # noqa: F401

# Fixtures are arguments of the name under which they are imported.
# ruff: noqa: F811

DRAG_S = 6.0
SETTLE_S = 1.0
EDITORS = 8
RECIPES: dict[str, Callable[[float], list[dict[str, Any]]]] = {
    "light (one transform)": lambda x: [
        {"id": "t", "kind": "transform", "edge": "mirror", "shift_x": 0.1 * x}
    ],
    "heavy (zoom through a lens, two rolls)": lambda x: [
        {"id": "t", "kind": "transform", "edge": "mirror", "scale": 0.4 + 0.1 * x},
        {"id": "l", "kind": "lens", "k1": 0.2},
        *({"id": f"r{n}", "kind": "roll", "edge": "tile", "y": 0.2 + 0.01 * n} for n in (1, 2)),
        {"id": "z", "kind": "radial_blur", "amount": 0.3},
    ],
}


@dataclass
class Seen:
    """The pictures that one editor got: when each came, and its age since it was asked for."""

    at: list[float] = field(default_factory=list)
    ages: list[float] = field(default_factory=list)

    def per_second(self, since: float, until: float) -> float:
        return sum(since <= at < until for at in self.at) / (until - since)


class Editor:
    """One page's side of the socket."""

    def __init__(self, socket: ClientConnection, recipe: Callable[[float], Any]) -> None:
        self._socket, self._recipe = socket, recipe
        self._ids = itertools.count(1)
        self._asked: dict[int, float] = {}
        self.seen = Seen()

    async def ask(self) -> None:
        number = next(self._ids)
        recipe = {"filters": self._recipe(number % 50 / 50)}
        self._asked[number] = time.monotonic()
        body = {"id": number, "before": 8, "after": 8, "shown": 0, "rest": False, "recipe": recipe}
        await self._socket.send(json.dumps(body))

    async def picture(self) -> None:
        """Wait for the next picture."""
        while isinstance(message := await self._socket.recv(), str):
            assert json.loads(message)["kind"] != "problem", message
        length = int.from_bytes(message[:4], "big")
        now = time.monotonic()
        self.seen.at.append(now)
        self.seen.ages.append(now - self._asked[json.loads(message[4 : 4 + length])["id"]])

    async def drag(self, rate: float, until: float) -> None:
        """Ask ``rate`` times a second, whatever comes back."""
        receiving = asyncio.create_task(self._receive())
        due = time.monotonic()
        while due < until:
            await self.ask()
            due += 1 / rate
            await asyncio.sleep(max(0.0, due - time.monotonic()))
        receiving.cancel()

    async def one_by_one(self, until: float) -> None:
        """Ask for the next picture when one has come: as many as the machine can make."""
        while time.monotonic() < until:
            await self.ask()
            await self.picture()

    async def _receive(self) -> None:
        while True:
            await self.picture()


async def measured(
    url: str, cuts: list[str], recipe: Callable[[float], Any], rate: float | None
) -> list[tuple[float, list[float]]]:
    """(Pictures per second, ages) of each editor; ``rate`` None asks one by one."""
    sockets = [await connect(f"{url}/api/cuts/{cut}/preview", proxy=None) for cut in cuts]
    editors = [Editor(socket, recipe) for socket in sockets]
    began = time.monotonic()
    until = began + SETTLE_S + DRAG_S
    work = [e.one_by_one(until) if rate is None else e.drag(rate, until) for e in editors]
    await asyncio.gather(*work)
    for socket in sockets:
        await socket.close()
    return [
        (e.seen.per_second(began + SETTLE_S, until), e.seen.ages[len(e.seen.ages) // 6 :])
        for e in editors
    ]


@pytest.mark.parametrize("count", [1, EDITORS])
@pytest.mark.parametrize("name", RECIPES)
def test_pictures_while_dragging(
    address: str, demo: dict[str, Any], report: Any, name: str, count: int
) -> None:
    url = address.replace("http", "ws")
    cuts = [demo["cuts"][n % len(demo["cuts"])]["id"] for n in range(count)]

    def run(rate: float | None) -> list[tuple[float, list[float]]]:
        with ThreadPoolExecutor(1) as thread:
            asked = measured(url, cuts, RECIPES[name], rate)
            return thread.submit(lambda: asyncio.run(asked)).result()

    run(None)
    capable = sum(rate for rate, _ in run(None))
    for rate in (20, 60):
        found = run(rate)
        shown = [each for each, _ in found]
        ages = sorted(age for _, each in found for age in each)
        wanted = min(capable, rate * count)
        late = ages[int(0.95 * (len(ages) - 1))]
        report(
            f"dragging at {rate}/s, {name}, editors: {count}",
            f"{sum(shown):.1f} pictures/s of {wanted:.1f} possible ({sum(shown) / wanted:.0%}, goal"
            f" 80 %); slowest to fastest {min(shown) / max(shown):.0%} (goal 50 %); age median"
            f" {statistics.median(ages) * 1000:.0f} ms, 95th {late * 1000:.0f} ms",
        )
