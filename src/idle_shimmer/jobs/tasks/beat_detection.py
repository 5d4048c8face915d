"""Detects the beats of a sound."""

import uuid
from dataclasses import asdict

import structlog

from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.core.sound.beats import find_beats
from idle_shimmer.jobs.blueprint import AGAIN, tasks
from idle_shimmer.jobs.patience import patiently
from idle_shimmer.store.clips import beat_detections
from idle_shimmer.store.clips.clips import sound_of_clip

_log = structlog.get_logger(__name__)


@tasks.task(name="detect_beats", retry=AGAIN)
def detect_beats(beats_of: str) -> None:
    """Find the beats of a clip's sound; the row has the state, and what was found."""
    clip_id = uuid.UUID(beats_of)
    patiently(lambda: beat_detections.set_state(clip_id, "running"))
    try:
        found = find_beats(sound_of_clip(beats_of))
        problem = "" if found else "No beat could be found. Tap the tempo, or type it."
    except ShimmerError as error:
        found, problem = None, error.message
    except Exception:
        _log.exception("a job failed", what="beat detection", id=beats_of)
        message = "The detection stopped because of an error in the program. Retry."
        patiently(lambda: beat_detections.set_state(clip_id, "failed", message=message))
        raise
    state = "failed" if found is None else "done"
    document = None if found is None else asdict(found)
    patiently(lambda: beat_detections.set_state(clip_id, state, message=problem, found=document))
