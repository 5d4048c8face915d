"""Renders what the snapshot of a render holds."""

import uuid
from pathlib import Path

import procrastinate

from idle_shimmer.edit.snapshot import Snapshot, snapshot_suffix
from idle_shimmer.files.file_store import file_store
from idle_shimmer.files.space import disk_full, is_full
from idle_shimmer.jobs.blueprint import AGAIN, Cancelled, Ending, Interrupted, ending, tasks
from idle_shimmer.jobs.patience import keep, patiently
from idle_shimmer.jobs.segmented_render import is_divided, render_in_segments
from idle_shimmer.jobs.snapshot_render import render_snapshot
from idle_shimmer.settings import settings
from idle_shimmer.store.claims import Claim
from idle_shimmer.store.renders import render_segments, renders


@tasks.task(name="render", pass_context=True, retry=AGAIN)
def render(context: procrastinate.JobContext, render_id: str) -> None:
    """Render a snapshot; the row has its state and message."""
    claim = renders.begin(uuid.UUID(render_id))
    if claim is None:
        return
    settings().renders.mkdir(parents=True, exist_ok=True)
    file = settings().renders / renders.file_name(claim, snapshot_suffix(claim.subject))
    done_frames = 0

    def go_on(done: int) -> bool:
        nonlocal done_frames
        done_frames = done
        if context.should_abort():
            raise Interrupted
        return patiently(lambda: renders.report_progress(claim, done))

    def report() -> None:
        if not go_on(done_frames):
            raise Cancelled

    def finish(state: str, message: str) -> None:
        if state == "cancelled":
            render_segments.clear(claim.id)
        renders.finish(claim, state, message=message)

    with ending(claim, Ending("render", finish, renders.release)):
        try:
            snapshot = Snapshot.read(claim.subject)
            if is_divided(snapshot):
                render_in_segments(claim.id, snapshot, file, go_on)
            else:
                render_snapshot(claim.subject, file, go_on)
            size = file.stat().st_size
            keep(file, report)
        except OSError as error:
            if is_full(error):
                raise disk_full("The render", _needed(claim, file, done_frames)) from error
            raise
        if patiently(lambda: renders.finish(claim, "done", file=file.name, size=size)):
            patiently(lambda: render_segments.clear(claim.id))
        else:
            file_store().delete(file)


def _needed(claim: Claim, file: Path, done_frames: int) -> int | None:
    """Return about how many bytes a render takes, from what it has written so far."""
    total = renders.total_frames_of(claim)
    written = sum(
        each.stat().st_size for each in file.parent.glob(f"*{file.stem}*") if each.is_file()
    )
    return round(written * total / done_frames) if done_frames and written else None
