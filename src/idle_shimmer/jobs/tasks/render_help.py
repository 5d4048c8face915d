"""Renders segments of a render that another worker has."""

import uuid

import procrastinate
import structlog

from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.edit.snapshot import Snapshot
from idle_shimmer.jobs.blueprint import AGAIN, Cancelled, Interrupted, tasks
from idle_shimmer.jobs.patience import patiently
from idle_shimmer.jobs.segmented_render import render_next
from idle_shimmer.store.renders import renders

_log = structlog.get_logger(__name__)


@tasks.task(name="help_render", pass_context=True, retry=AGAIN)
def help_render(context: procrastinate.JobContext, segments_of: str) -> None:
    """Render segments of a render until none waits; what goes wrong is said by the render itself."""
    render_id = uuid.UUID(segments_of)
    document = patiently(lambda: renders.snapshot_at_work(render_id))
    if document is None:
        return
    snapshot = Snapshot.read(document)

    def go_on() -> None:
        if context.should_abort():
            raise Interrupted

    try:
        while render_next(render_id, snapshot, go_on):
            go_on()
    except (Cancelled, ShimmerError, OSError) as error:
        _log.warning("a segment was not rendered", render=segments_of, reason=str(error))
