"""What many workers ask of the database: their own processes, with stand-ins for the rendering.

Run as a program it is such a worker, whose segments take as many seconds as its argument says.
"""

import os
import subprocess
import sys
import time
import uuid
from collections.abc import Callable
from contextlib import nullcontext
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from unittest.mock import patch

import psycopg
from sqlalchemy import func, select

from idle_shimmer.edit.snapshot import Snapshot
from idle_shimmer.jobs import segmented_render as segments
from idle_shimmer.jobs import worker
from idle_shimmer.jobs.defer import MOST_HELPERS, JobKind, defer, defer_help
from idle_shimmer.settings import settings
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.renders import render_segments
from idle_shimmer.store.tables import Render, RenderSegment

_SEGMENT_FRAMES = 250
_LOOK_AGAIN_S = 1.0


@dataclass(frozen=True, slots=True)
class Load:
    """What so many workers asked for."""

    workers: int
    connections: int
    transactions_per_s: float
    processors: float


def load_of(snapshot: Snapshot, workers: int, segment_s: float, length_s: float) -> Load:
    """Run ``workers`` workers on segments that take ``segment_s`` and compute nothing.

    They are measured for ``length_s`` seconds, once all of them have a segment.
    """
    render = _at_work(snapshot, round(workers * (length_s + 600) / segment_s) + workers)
    defer_help(str(render), workers)
    command = [sys.executable, "-m", "scripts.worker_load", str(segment_s)]
    # Our own module; the number is that of a measurement.
    running = [subprocess.Popen(command, start_new_session=True) for _ in range(workers)]  # noqa: S603
    try:
        while _at_it(render) < min(workers, MOST_HELPERS):
            time.sleep(_LOOK_AGAIN_S)
        before, began = _used(), time.monotonic()
        time.sleep(length_s)
        after, took = _used(), time.monotonic() - began
    finally:
        for each in running:
            each.kill()
        for each in running:
            each.wait()
        render_segments.clear(render)
        with session_scope() as session:
            session.delete(session.get_one(Render, render))
    return Load(
        workers,
        after.connections,
        (after.transactions - before.transactions) / took,
        (after.processor_s - before.processor_s) / took,
    )


def _at_it(render: uuid.UUID) -> int:
    """Return how many workers have a segment."""
    count = func.count(RenderSegment.worker.distinct())
    running = RenderSegment.state == "running"
    with session_scope() as session:
        wanted = select(count).where(RenderSegment.render_id == render, running)
        return session.scalar(wanted) or 0


def stand_in_worker(segment_s: float) -> None:
    """Work as a worker does, but compute nothing."""
    frame_s = segment_s / _SEGMENT_FRAMES

    def stand_in(
        path: Path, _edit: Any, frames: range, _settings: Any, advance: Callable[[], None]
    ) -> None:
        due = time.monotonic()
        for _ in frames:
            due += frame_s
            time.sleep(max(0.0, due - time.monotonic()))
            advance()
        path.write_bytes(b"")

    with (
        patch.object(segments, "opened", lambda _: nullcontext()),
        patch.object(segments, "write_part", stand_in),
        patch.object(worker, "warm_up", lambda: None),
    ):
        worker.run_worker()


def _at_work(snapshot: Snapshot, count: int) -> uuid.UUID:
    """Return a render that is at work and has ``count`` segments."""
    render = uuid.uuid4()
    with session_scope() as session:
        document = snapshot.model_dump(mode="json")
        session.add(
            Render(id=render, title="Load", snapshot=document, total_frames=1, state="running")
        )
        # A job that nobody takes: the workers' upkeep would queue a render that has none.
        defer(session, JobKind("render", "nobody", "render_id"), str(render), f"nobody-{render}")
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


if __name__ == "__main__":
    stand_in_worker(float(sys.argv[1]))
