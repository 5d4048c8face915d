"""Detects the beats of a sound."""

import uuid
from collections.abc import Iterator
from dataclasses import asdict
from fractions import Fraction

import structlog

from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.core.sound.beats import find_beats
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound
from idle_shimmer.files.store_mark import StoreUnreachable
from idle_shimmer.jobs.blueprint import AGAIN, tasks
from idle_shimmer.jobs.patience import patiently
from idle_shimmer.media.decode.client import remote_sound_parts
from idle_shimmer.store.clips import beat_detections
from idle_shimmer.store.clips.clips import clip_by_id, path_of
from idle_shimmer.store.database import session_scope

_log = structlog.get_logger(__name__)


@tasks.task(name="detect_beats", retry=AGAIN)
def detect_beats(beats_of: str) -> None:
    """Find the beats of a clip's sound; the row has the state, and what was found."""
    clip_id = uuid.UUID(beats_of)
    patiently(lambda: beat_detections.set_state(clip_id, "running"))
    try:
        found = find_beats(_sound_of(clip_id))
        problem = "" if found else "No beat could be found. Tap the tempo, or type it."
    except StoreUnreachable:
        patiently(lambda: beat_detections.set_state(clip_id, "waiting"))
        raise
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


def _sound_of(clip_id: uuid.UUID) -> Iterator[Sound]:
    with session_scope() as session:
        clip = clip_by_id(session, clip_id)
        file, length_s = path_of(clip.file), Fraction(clip.duration_s)
    yield from remote_sound_parts(file, Fraction(0), length_s.limit_denominator(SAMPLES_PER_SECOND))
