"""What many workers ask of the database: their own code, with stand-ins for the rendering."""

import asyncio
import os
import threading
import time
import uuid
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack, nullcontext
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from unittest.mock import patch

import psycopg

from idle_shimmer.jobs import queue, segments
from idle_shimmer.jobs.snapshot import Snapshot
from idle_shimmer.settings import settings
from idle_shimmer.store import render_segments
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.models import Render

# Workers have begun after so long.
_SETTLE_S = 15
_SEGMENT_FRAMES = 250


@dataclass(frozen=True, slots=True)
class Load:
    """What so many workers asked for."""

    workers: int
    connections: int
    transactions_per_s: float
    processors: float
    reports_per_s: float


def load_of(snapshot: Snapshot, workers: int, segment_s: float, length_s: float) -> Load:
    """Run ``workers`` workers for ``length_s`` seconds on segments that take ``segment_s`` and compute nothing."""
    reports = 0
    count = threading.Lock()
    frame_s = segment_s / _SEGMENT_FRAMES

    def stand_in(path: Path, _edit: Any, frames: range, _settings: Any, advance: Any) -> None:
        nonlocal reports
        due = time.monotonic()
        for number in range(len(frames)):
            due += frame_s
            time.sleep(max(0.0, due - time.monotonic()))
            advance()
            if number % segments._REPORT_EVERY_FRAMES == 0:
                with count:
                    reports += 1
        path.write_bytes(b"")

    async def work() -> Load:
        asyncio.get_running_loop().set_default_executor(ThreadPoolExecutor(4 * workers + 8))
        stop = asyncio.Event()
        running = [
            asyncio.create_task(queue._work_until(stop, queue._working())) for _ in range(workers)
        ]
        await asyncio.sleep(_SETTLE_S)
        before, began, reported = _used(), time.monotonic(), reports
        await asyncio.sleep(length_s)
        after, took = _used(), time.monotonic() - began
        load = Load(
            workers,
            after.connections,
            (after.transactions - before.transactions) / took,
            (after.processor_s - before.processor_s) / took,
            (reports - reported) / took,
        )
        with session_scope() as session:
            session.get_one(Render, render).cancel_asked = True
        stop.set()
        await asyncio.gather(*running)
        return load

    render = _at_work(snapshot, round(workers * (length_s + 3 * _SETTLE_S) / segment_s) + workers)
    queue.defer_help(str(render), workers)
    settings().segments.mkdir(parents=True, exist_ok=True)
    with ExitStack() as stood_in:
        stood_in.enter_context(patch.object(segments, "opened", lambda _: nullcontext()))
        stood_in.enter_context(patch.object(segments, "write_part", stand_in))
        load = asyncio.run(work())
    render_segments.clear(render)
    return load


def _at_work(snapshot: Snapshot, count: int) -> uuid.UUID:
    """Return a render that is at work and has ``count`` segments."""
    render = uuid.uuid4()
    with session_scope() as session:
        document = snapshot.model_dump(mode="json")
        session.add(
            Render(id=render, title="Load", snapshot=document, total_frames=1, state="running")
        )
        # A job that nobody takes: the workers' upkeep would queue a render that has none.
        with queue._connection_of(session) as connection:
            queue._deferring().configure_task(
                "shimmer:render", queue="nobody", connection=connection
            ).defer(render_id=str(render))
    length = _SEGMENT_FRAMES
    render_segments.plan(render, [range(n * length, (n + 1) * length) for n in range(count)])
    return render


@dataclass(frozen=True, slots=True)
class _Used:
    connections: int
    transactions: int
    processor_s: float


def _used() -> _Used:
    """Return what the database has been asked for so far, and the processor time that it took."""
    with psycopg.connect(settings().plain_database()) as connection:
        row = connection.execute(
            "SELECT (SELECT count(*) FROM pg_stat_activity WHERE datname = current_database()),"
            " xact_commit + xact_rollback FROM pg_stat_database WHERE datname = current_database()"
        ).fetchone()
    assert row is not None
    return _Used(row[0] - 1, row[1], sum(map(_processor_s, Path("/proc").glob("[0-9]*/stat"))))


def _processor_s(stat: Path) -> float:
    """Return the processor time of a process of PostgreSQL and its ended children, else 0."""
    try:
        name, _, rest = stat.read_text(encoding="ascii", errors="replace").rpartition(")")
    except OSError:
        return 0.0
    if not name.endswith("(postgres"):
        return 0.0
    ticks = sum(map(int, rest.split()[11:15]))
    return ticks / os.sysconf("SC_CLK_TCK")
