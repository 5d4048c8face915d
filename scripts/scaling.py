"""Writes docs/scaling.md: what several workers gain for a long render, and what they ask of the database."""

import heapq
import os
import platform
import statistics
import time
import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

import typer
from tests.support.server import empty_database

from idle_shimmer.api.renders.render_requests import NewRender, Prepared
from idle_shimmer.demo.load_demo import load_demo
from idle_shimmer.edit.snapshot import Snapshot
from idle_shimmer.jobs.segmented_render import _ASK_AGAIN_S
from idle_shimmer.jobs.snapshot_render import opened
from idle_shimmer.output.segment_files import (
    SEGMENT_S,
    SOUND_SUFFIX,
    join_parts,
    parts_of,
    read_tracks,
    write_part,
    write_sound,
)
from idle_shimmer.store.database import session_scope
from scripts.large_edit import SHOT_FRAMES, make_large_edit
from scripts.worker_load import Load, load_of

PAGE = Path(__file__).parent.parent / "docs" / "scaling.md"
EDIT_S = 600
WORKERS = (1, 4, 16, 64)


@dataclass(frozen=True, slots=True)
class Measured:
    """Seconds that segments, the sound of the whole, and joining took, and how many segments there are."""

    segments_s: Sequence[float]
    sound_s: float
    join_s: float
    count: int
    frames: int
    segment_bytes: float


def main(
    sample: Annotated[
        int, typer.Option(help="Segments that are rendered to be measured", min=2)
    ] = 6,
    length_s: Annotated[float, typer.Option(help="Seconds of database load a measurement")] = 40,
) -> None:
    """Measure, simulate, and write the page."""
    empty_database()
    load_demo()
    snapshot = _long_snapshot()
    found = _measured(snapshot, sample)
    segments = ", ".join(f"{each:.1f}" for each in found.segments_s)
    typer.echo(f"segments {segments} s, sound {found.sound_s:.1f} s, join {found.join_s:.1f} s")
    segment_s = statistics.mean(found.segments_s)
    loads = [load_of(snapshot, workers, segment_s, length_s) for workers in WORKERS]
    PAGE.write_text(_page(snapshot, found, loads), encoding="utf-8")


def _long_snapshot() -> Snapshot:
    """Return the render of a ten-minute edit of the demo's clips, a transition about every second and a half."""
    with session_scope() as session:
        rate = 25
        edit = make_large_edit(EDIT_S * rate // SHOT_FRAMES, "Lantern night, ten minutes")
        wanted = NewRender(edit=uuid.UUID(edit), what="edit", format="h264", quality="draft")
    with session_scope() as session:
        return Snapshot.read(Prepared(session, wanted).render().snapshot)


def _measured(snapshot: Snapshot, sample: int) -> Measured:
    """Render some of the segments, evenly spaced, and join as many as the edit has out of their files."""
    plan, settings = snapshot.plan(), snapshot.settings()
    parts = [each for each in parts_of(plan) if len(each) == SEGMENT_S * plan.rate]
    chosen = [parts[n * len(parts) // sample] for n in range(sample)]
    folder = Path(os.environ["IDLE_SHIMMER_DATA"])
    files, times = [], []
    with opened(snapshot) as edit:
        # What every worker loads once.
        write_part(
            folder / "first.mp4",
            edit,
            range(chosen[0].start, chosen[0].start + 5),
            settings,
            _nothing,
        )
    for number, frames in enumerate(chosen):
        files.append(folder / f"{number}.mp4")
        began = time.perf_counter()
        with opened(snapshot) as edit:
            write_part(files[-1], edit, frames, settings, _nothing)
        times.append(time.perf_counter() - began)
    began, sound = time.perf_counter(), folder / f"sound{SOUND_SUFFIX}"
    with opened(snapshot) as edit:
        write_sound(sound, edit, settings, _nothing)
    sound_s = time.perf_counter() - began
    began, whole = time.perf_counter(), [files[n % sample] for n in range(len(parts))]
    join_parts(
        folder / "whole.mp4", whole, list(read_tracks(sound)), plan, settings.output, _joined
    )
    join_s = time.perf_counter() - began
    size = statistics.mean(each.stat().st_size for each in files)
    return Measured(times, sound_s, join_s, len(parts), len(chosen[0]), size)


def _joined(_: int) -> None:
    """Take the number of frames joined."""


def _nothing() -> None:
    """Report nothing."""


def simulated_s(found: Measured, workers: int) -> float:
    """Return how long a render takes: workers take the next segment as soon as they are free, then it is joined.

    The sound comes first. Segments take the measured times by turns. The worker that joins asks again after a pause.
    """
    free = [found.sound_s, *[0.0] * (workers - 1)]
    heapq.heapify(free)
    for number in range(found.count):
        took = found.segments_s[number % len(found.segments_s)]
        heapq.heappush(free, heapq.heappop(free) + took)
    return max(free) + _ASK_AGAIN_S + found.join_s


def _page(snapshot: Snapshot, found: Measured, loads: Sequence[Load]) -> str:
    return f"""# Scaling

What several workers gain for one long render, and what they ask of the database. This page is written by
`scripts/scaling`, from what it measures on one machine.

{_render_section(snapshot, found)}
{_database_section(loads)}
Measured on {platform.machine()} with {os.cpu_count()} processors.
"""


def _render_section(snapshot: Snapshot, found: Measured) -> str:
    alone = simulated_s(found, 1)
    longest = max(found.segments_s)
    rows = []
    for workers in WORKERS:
        took = simulated_s(found, workers)
        rows.append(
            f"| {workers} | {took / 60:.1f} min | {alone / took:.1f} | {alone / took / workers:.0%} |"
            f" {found.join_s / took:.0%} |"
        )
    return f"""## A ten-minute edit

Of an edit of {EDIT_S // 60} minutes at {snapshot.width}×{snapshot.height}, with a transition every
{SHOT_FRAMES} frames, as H.264 at draft quality, {len(found.segments_s)} of the {found.count} segments of
{SEGMENT_S} s were rendered: {min(found.segments_s):.1f} to {longest:.1f} s each, {statistics.mean(found.segments_s):.1f} s
on average. The sound of the whole took {found.sound_s:.1f} s, joining everything {found.join_s:.1f} s. From these
times the render is simulated with several workers, each on a machine like this one: one of them makes the sound,
whoever is free takes the next segment, and when the last one is done the worker that has the render joins them.

| workers | render | faster than one | of the ideal | joining |
| ---: | ---: | ---: | ---: | ---: |
{chr(10).join(rows)}

Two things bound it. Segments and the sound are whole: the last ones keep some workers while the others are idle, and
with as many workers as segments ({found.count}) the render takes as long as the slowest of them ({longest:.0f} s) or the
sound ({found.sound_s:.0f} s). And joining is done by one worker ({found.join_s:.0f} s). With a store, each segment is also written and read once:
{found.segment_bytes / 1e6:.1f} MB on average, {found.segment_bytes * 8 / 1e6 / statistics.mean(found.segments_s):.1f} Mbit/s a
worker while it renders. Copying to and from a store is not in the times above.
"""


def _database_section(loads: Sequence[Load]) -> str:
    rows = [
        f"| {each.workers} | {each.connections} | {each.transactions_per_s:.0f} |"
        f" {each.processors:.2f} |"
        for each in loads
    ]
    most = loads[-1]
    return f"""## The database

Workers wait for jobs, report what they have done every five frames, and look after jobs that were lost. Here their
own code runs so, with stand-ins for the rendering that take as long as the segments above and compute nothing.
PostgreSQL was on the same machine, which has {os.cpu_count()} processors.

| workers | connections | transactions a second | processors that PostgreSQL took |
| ---: | ---: | ---: | ---: |
{chr(10).join(rows)}

PostgreSQL takes 100 connections unless `max_connections` says more: allow {most.connections / most.workers:.0f} for each
worker, and 20 for each server process.
"""


if __name__ == "__main__":
    typer.run(main)
