"""Long renders in segments: planned by the worker that has the render, rendered by every worker that is free.

The worker that has the render renders segments itself, takes up those of workers that are gone, waits for
the last ones, and joins the files. Whoever helps takes one segment after another until none waits.
"""

import os
import socket
import time
import uuid
from collections.abc import Callable
from pathlib import Path

from idle_shimmer.core.compute.interruption import interruptible
from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.edit.snapshot import Snapshot
from idle_shimmer.files.file_store import file_store
from idle_shimmer.files.store_mark import StoreUnreachable
from idle_shimmer.jobs.blueprint import Cancelled
from idle_shimmer.jobs.defer import defer_help
from idle_shimmer.jobs.patience import keep, patiently
from idle_shimmer.jobs.pulse import Pulse
from idle_shimmer.jobs.snapshot_render import opened
from idle_shimmer.output.segment_files import (
    SOUND_SUFFIX,
    join_parts,
    parts_of,
    read_tracks,
    write_part,
    write_sound,
)
from idle_shimmer.settings import settings
from idle_shimmer.store.claims import ClaimLost
from idle_shimmer.store.renders import render_segments
from idle_shimmer.store.renders.render_segments import SegmentClaim

# Shorter renders are written in one piece.
WHOLE_UP_TO_S = 30
# A segment without frames is the sound of the whole, which takes longest.
_SOUND = range(0)
_ASK_AGAIN_S = 0.3


def is_divided(snapshot: Snapshot) -> bool:
    """Whether a render is made of segments."""
    plan = snapshot.plan()
    is_video = snapshot.settings().output.video is not None
    return snapshot.what == "edit" and is_video and plan.frame_count > WHOLE_UP_TO_S * plan.rate


def worker_name() -> str:
    """Return the name of this worker: no other has it."""
    return f"{socket.gethostname()}-{os.getpid()}"


def render_in_segments(
    render_id: uuid.UUID,
    snapshot: Snapshot,
    out: Path,
    go_on: Callable[[int], bool],
) -> None:
    """Write a whole edit to ``out``, in segments. ``go_on`` receives the frames done; False cancels.

    While the segments are joined, it receives the frames joined.
    Other workers are asked to help.
    """
    with opened(snapshot) as edit:
        edit.require_room()
    parts = parts_of(snapshot.plan())
    if snapshot.sound:
        parts.insert(0, _SOUND)
    patiently(lambda: render_segments.plan(render_id, parts))
    patiently(lambda: defer_help(str(render_id), len(parts) - 1))
    settings().segments.mkdir(parents=True, exist_ok=True)
    while True:
        found = patiently(lambda: render_segments.progress(render_id))
        if not go_on(found.done_frames):
            raise Cancelled
        if found.is_complete:
            break

        def go_on_all() -> None:
            if not go_on(patiently(lambda: render_segments.progress(render_id)).done_frames):
                raise Cancelled

        if not render_next(render_id, snapshot, go_on_all):
            time.sleep(_ASK_AGAIN_S)
    files = patiently(lambda: render_segments.files(render_id))
    tracks = read_tracks(files.pop(0)) if snapshot.sound else ()

    def go_on_joining(joined_frames: int) -> None:
        if not go_on(joined_frames):
            raise Cancelled

    go_on_joining(0)
    join_parts(out, files, list(tracks), snapshot.plan(), snapshot.settings().output, go_on_joining)


def render_next(render_id: uuid.UUID, snapshot: Snapshot, go_on: Callable[[], None]) -> bool:
    """Render the next segment that waits; return False where none does. ``go_on`` may raise to stop."""
    suffixes = snapshot.settings().output.suffix, SOUND_SUFFIX
    claim = patiently(lambda: render_segments.take(render_id, worker_name(), *suffixes))
    if claim is None:
        return False
    settings().segments.mkdir(parents=True, exist_ok=True)
    try:
        _write(claim, snapshot, go_on)
    except ClaimLost:
        # Another worker has it: what was written here belongs to nobody.
        claim.file.unlink(missing_ok=True)
    except StoreUnreachable:
        patiently(lambda: render_segments.release(claim))
        raise
    except (ShimmerError, OSError) as error:
        message = str(error)
        patiently(lambda: render_segments.fail(claim, message))
        raise
    except BaseException:
        patiently(lambda: render_segments.release(claim))
        raise
    return True


def _write(claim: SegmentClaim, snapshot: Snapshot, go_on: Callable[[], None]) -> None:
    done = 0

    def report() -> None:
        if not patiently(lambda: render_segments.report(claim, done)):
            raise Cancelled
        go_on()

    pulse = Pulse(report)

    def advance() -> None:
        nonlocal done
        done += 1
        pulse()

    with opened(snapshot) as edit, interruptible(pulse):
        if claim.frames:
            write_part(claim.file, edit, claim.frames, snapshot.settings(), advance)
        else:
            write_sound(claim.file, edit, snapshot.settings(), pulse)
    keep(claim.file, pulse)
    if not patiently(lambda: render_segments.finish(claim)):
        file_store().delete(claim.file)
