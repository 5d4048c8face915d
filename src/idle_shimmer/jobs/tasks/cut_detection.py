"""Detects the cuts of a finished video."""

import uuid
from functools import partial

import procrastinate

from idle_shimmer.jobs.blueprint import AGAIN, Ending, ending, tasks
from idle_shimmer.jobs.patience import patiently
from idle_shimmer.jobs.pulse import Progress
from idle_shimmer.media.detection import score_cuts
from idle_shimmer.store.clips import cut_detections
from idle_shimmer.store.clips.clips import path_of


# Jobs that were deferred under the former name still run.
@tasks.task(name="detect_cuts", aliases=["find_cuts"], pass_context=True, retry=AGAIN)
def detect_cuts(context: procrastinate.JobContext, clip_id: str) -> None:
    """Score how likely each picture of a finished video begins a new shot."""
    claim = cut_detections.begin(uuid.UUID(clip_id))
    if claim is None:
        return

    progress = Progress(context, partial(cut_detections.report_progress, claim))

    def finish(state: str, message: str) -> None:
        cut_detections.finish(claim, state, message=message)

    with ending(claim, Ending("detection", finish, cut_detections.release)):
        found = score_cuts(path_of(claim.subject), lambda done, _: progress.at(done))
        progress.report()
        scores = [round(float(each), 3) for each in found]
        patiently(lambda: cut_detections.finish(claim, "done", scores=scores))
