"""The tasks that workers run."""

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


@tasks.task(name="render", pass_context=True)
def render(context: procrastinate.JobContext, render_id: str) -> None:
    """Render a snapshot; the row has its state and message."""
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
            message="The render stopped because of an error in the program; its log has the details. Retry.",
        )
        raise
    else:
        renders.finish(number, "done", file=file)
