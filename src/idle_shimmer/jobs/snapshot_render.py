"""Renders a stored snapshot into a file; clips are decoded in processes of their own."""

from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any

from idle_shimmer.core.compute.interruption import interruptible
from idle_shimmer.edit.snapshot import Snapshot
from idle_shimmer.jobs.blueprint import Cancelled
from idle_shimmer.jobs.pulse import Pulse
from idle_shimmer.media.decode.client import RemoteReader, probe_index, remote_sound_parts
from idle_shimmer.media.read.reader import Size
from idle_shimmer.output.opened_edit import Access, OpenedEdit
from idle_shimmer.output.render_edit import render_edit
from idle_shimmer.store.clips.clips import matte_of_clip, sound_of_clip


def render_snapshot(document: dict[str, Any], out: Path, go_on: Callable[[int], bool]) -> None:
    """Write the snapshot to ``out``. ``go_on`` receives the frames done, twice a second; False cancels."""
    snapshot = Snapshot.read(document)
    done = 0

    def report() -> None:
        if not go_on(done):
            raise Cancelled

    pulse = Pulse(report)

    def advance() -> None:
        nonlocal done
        pulse()
        done += 1

    with opened(snapshot) as edit, interruptible(pulse):
        render_edit(edit, snapshot.what, snapshot.settings(), out, advance, place=snapshot.place)
    go_on(done)


def opened(snapshot: Snapshot) -> OpenedEdit:
    """Return the edit of a snapshot, at the size that is written; clips are decoded in their processes."""
    plan = snapshot.plan()
    # One file may be placed many times: it is indexed once.
    known = cache(probe_index)

    def open_reader(path: Path, size: Size) -> RemoteReader:
        return RemoteReader(path, size, known(path), deep=True)

    size = snapshot.settings().size_of(plan.size)
    return OpenedEdit(
        plan, size, Access(open_reader, matte_of_clip, remote_sound_parts, sound_of_clip)
    )
