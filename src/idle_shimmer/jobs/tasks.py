"""The tasks that workers run."""

import errno
import uuid

import procrastinate
import structlog

from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.jobs.render import Cancelled, render_snapshot
from idle_shimmer.media.cuts import score_cuts
from idle_shimmer.settings import settings
from idle_shimmer.store import cut_detections, renders
from idle_shimmer.store.clips import path_of

tasks = procrastinate.Blueprint()
_REPORT_EVERY_PICTURES = 25
log = structlog.get_logger()


# Jobs that were deferred under the former name still run.
@tasks.task(name="detect_cuts", aliases=["find_cuts"], pass_context=True)
def detect_cuts(context: procrastinate.JobContext, clip_id: str) -> None:
    """Score how likely each picture of a finished video begins a new shot."""
    number = uuid.UUID(clip_id)
    file = cut_detections.begin(number)
    if file is None:
        return

    def go_on(done: int, total: int) -> None:
        if done % _REPORT_EVERY_PICTURES and done < total:
            return
        if not cut_detections.report_progress(number, done) or context.should_abort():
            raise Cancelled

    try:
        scores = score_cuts(path_of(file), go_on)
    except Cancelled:
        cut_detections.finish(number, "cancelled", message="Cancelled.")
    except ShimmerError as error:
        cut_detections.finish(number, "failed", message=str(error))
    except Exception:
        log.exception("detecting cuts failed", clip=clip_id)
        cut_detections.finish(
            number,
            "failed",
            message="The detection stopped because of an error in the program. Retry.",
        )
        raise
    else:
        cut_detections.finish(number, "done", scores=[round(float(each), 3) for each in scores])


class Interrupted(Exception):
    """The worker is stopping: the job is taken up again by the next one."""


@tasks.task(
    name="render",
    pass_context=True,
    retry=procrastinate.RetryStrategy(wait=0, retry_exceptions={Interrupted}),
)
def render(context: procrastinate.JobContext, render_id: str) -> None:
    """Render a snapshot; the row has its state and message."""
    claim = renders.begin(uuid.UUID(render_id))
    if claim is None:
        return

    def go_on(done: int) -> bool:
        if context.should_abort():
            raise Interrupted
        return renders.report_progress(claim, done)

    settings().renders.mkdir(parents=True, exist_ok=True)
    file = settings().renders / claim.file
    try:
        render_snapshot(claim.snapshot, file, go_on)
    except Cancelled:
        renders.finish(claim, "cancelled", message="Cancelled.")
    except Interrupted:
        renders.release(claim)
        raise
    except renders.ClaimLost:
        log.warning("another worker has taken the render up", render=render_id)
    except ShimmerError as error:
        renders.finish(claim, "failed", message=str(error))
    except Exception as error:
        log.exception("render failed", render=render_id)
        renders.finish(claim, "failed", message=_reason(error))
        raise
    else:
        if not renders.finish(claim, "done", file=claim.file):
            file.unlink(missing_ok=True)


def _reason(error: Exception) -> str:
    if isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT):
        return "The disk is full. Free some space, then retry."
    return "The render stopped because of an error in the program; its log has the details. Retry."
