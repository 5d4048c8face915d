"""The tasks that workers run."""

import uuid

import procrastinate
import structlog

from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.jobs.render import Cancelled, render_snapshot
from idle_shimmer.settings import settings
from idle_shimmer.store import renders

tasks = procrastinate.Blueprint()
log = structlog.get_logger()


@tasks.task(name="render", pass_context=True)
def render(context: procrastinate.JobContext, render_id: str) -> None:
    """Render what was asked for; its state and message tell how it went."""
    number = uuid.UUID(render_id)
    asked = renders.begin(number)
    if asked is None:
        return
    settings().renders.mkdir(parents=True, exist_ok=True)
    file = f"{number}.mp4"
    try:
        render_snapshot(
            asked.snapshot,
            settings().renders / file,
            lambda done: renders.report_progress(number, done) and not context.should_abort(),
        )
    except Cancelled:
        renders.finish(number, "cancelled", message="Cancelled.")
    except ShimmerError as error:
        renders.finish(number, "failed", message=str(error))
    except Exception:
        log.exception("render failed", render=render_id)
        renders.finish(
            number,
            "failed",
            message="The render stopped by a fault of the program; its log has the details. Try again.",
        )
        raise
    else:
        renders.finish(number, "done", file=file)
