"""Detects the cuts of a finished video."""

import uuid

import procrastinate

from idle_shimmer.jobs.blueprint import AGAIN, Cancelled, Ending, Interrupted, ending, tasks
from idle_shimmer.jobs.patience import patiently
from idle_shimmer.media.detection import score_cuts
from idle_shimmer.store.clips import cut_detections
from idle_shimmer.store.clips.clips import path_of

_REPORT_EVERY_PICTURES = 25


# Jobs that were deferred under the former name still run.
@tasks.task(name="detect_cuts", aliases=["find_cuts"], pass_context=True, retry=AGAIN)
def detect_cuts(context: procrastinate.JobContext, clip_id: str) -> None:
    """Score how likely each picture of a finished video begins a new shot."""
    claim = cut_detections.begin(uuid.UUID(clip_id))
    if claim is None:
        return

    def go_on(done: int, total: int) -> None:
        if done % _REPORT_EVERY_PICTURES and done < total:
            return
        if context.should_abort():
            raise Interrupted
        if not patiently(lambda: cut_detections.report_progress(claim, done)):
            raise Cancelled

    def finish(state: str, message: str) -> None:
        cut_detections.finish(claim, state, message=message)

    with ending(claim, Ending("detection", finish, cut_detections.release)):
        found = score_cuts(path_of(claim.subject), go_on)
        scores = [round(float(each), 3) for each in found]
        patiently(lambda: cut_detections.finish(claim, "done", scores=scores))
