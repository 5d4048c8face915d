"""Twenty editors at once on one server: how long reading and saving take while two of them drag."""

import asyncio
import random
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import httpx
import pytest
from websockets.asyncio.client import connect

from idle_shimmer.demo.load_demo import load_demo
from tests.benchmarks.test_preview_load import RECIPES, Editor
from tests.support.server import Application, empty_database

EDITORS, DRAGGING = 20, 2
LENGTH_S, DRAGS_PER_S = 20.0, 25
# Seconds between one change and the next of an editor: without a stop, and as when one looks at it.
PAUSES_S = (1.0, 4.0)
GOAL_S = 0.2
LIGHT = next(iter(RECIPES.values()))


@pytest.fixture(params=[1, 2], ids=lambda each: f"{each} processes")
def application(request: pytest.FixtureRequest) -> Iterator[tuple[Application, int]]:
    empty_database()
    load_demo()
    with Application(worker=False, processes=request.param) as running:
        yield running, request.param


async def work(
    address: str,
    edit: dict[str, Any],
    number: int,
    pause_s: float,
    times: dict[str, list[float]],
) -> None:
    """Open the edit, then read and save one of its cuts, again and again."""
    choice = random.Random(number)
    async with httpx.AsyncClient(base_url=address, trust_env=False, timeout=60) as browser:

        async def timed(kind: str, method: str, path: str, **body: Any) -> httpx.Response:
            began = time.perf_counter()
            answer = await browser.request(method, path, **body)
            times[kind].append(time.perf_counter() - began)
            answer.raise_for_status()
            return answer

        until = time.monotonic() + LENGTH_S
        await asyncio.sleep(choice.random() * pause_s)
        while time.monotonic() < until:
            await timed("read", "GET", f"/api/edits/{edit['id']}")
            cut = choice.choice(edit["cuts"])["id"]
            found = (await timed("read", "GET", f"/api/cuts/{cut}")).json()
            body = {name: found[name] for name in ("version", "before", "after", "recipe")}
            await timed("save", "PUT", f"/api/cuts/{cut}", json={**body, "label": "a value"})
            await asyncio.sleep(pause_s)


async def drag(address: str, cut: str, shown: list[float]) -> None:
    async with connect(
        f"{address.replace('http', 'ws')}/api/cuts/{cut}/preview", proxy=None
    ) as socket:
        editor = Editor(socket, LIGHT)
        began = time.monotonic()
        await editor.drag(DRAGS_PER_S, began + LENGTH_S)
        shown.append(editor.seen.per_second(began + 2, began + LENGTH_S))


async def measured(
    address: str, edits: list[dict[str, Any]], pause_s: float
) -> tuple[dict[str, list[float]], list[float]]:
    times: dict[str, list[float]] = {"read": [], "save": []}
    shown: list[float] = []
    numbered = list(enumerate(edits))
    tasks = [drag(address, edit["cuts"][0]["id"], shown) for _, edit in numbered[:DRAGGING]]
    tasks += [work(address, edit, number, pause_s, times) for number, edit in numbered[DRAGGING:]]
    await asyncio.gather(*tasks)
    return times, shown


@pytest.mark.parametrize("pause_s", PAUSES_S)
def test_twenty_editors(pause_s: float, application: tuple[Application, int], report: Any) -> None:
    running, processes = application
    with httpx.Client(base_url=running.address, trust_env=False, timeout=60) as browser:
        demo = browser.get("/api/edits").json()[0]["id"]
        edits = [browser.post(f"/api/edits/{demo}/duplicate").json() for _ in range(EDITORS)]
    with ThreadPoolExecutor(1) as thread:
        asked = measured(running.address, edits, pause_s)
        times, shown = thread.submit(lambda: asyncio.run(asked)).result()
    what = f"{EDITORS} editors, a change every {pause_s:.0f} s each, {DRAGGING} dragging, processes: {processes}"
    for kind, each in times.items():
        late = sorted(each)[int(0.95 * (len(each) - 1))]
        report(
            f"{what}, {kind}",
            f"95th percentile {late * 1000:.0f} ms (goal {GOAL_S * 1000:.0f}), most"
            f" {max(each) * 1000:.0f} ms of {len(each)}",
        )
    report(
        f"{what}, pictures",
        f"{min(shown):.1f} and {max(shown):.1f} a second of {DRAGS_PER_S} asked for",
    )
