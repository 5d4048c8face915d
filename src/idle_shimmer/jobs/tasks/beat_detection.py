"""Detects the beats of a sound."""

import uuid
from collections.abc import Iterator
from dataclasses import asdict
from fractions import Fraction
from functools import partial
from pathlib import Path

import procrastinate

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.sound.beats import find_beats
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound
from idle_shimmer.jobs.blueprint import AGAIN, Ending, ending, tasks
from idle_shimmer.jobs.patience import patiently
from idle_shimmer.jobs.pulse import Progress
from idle_shimmer.media.decode.client import remote_sound_parts
from idle_shimmer.store.clips import beat_detections
from idle_shimmer.store.clips.clips import path_of


@tasks.task(name="detect_beats", pass_context=True, retry=AGAIN)
def detect_beats(context: procrastinate.JobContext, beats_of: str) -> None:
    """Find the beats of a clip's sound; the row has the state, and what was found."""
    claim = beat_detections.begin(uuid.UUID(beats_of))
    if claim is None:
        return
    file, length_s = claim.subject
    progress = Progress(context, partial(beat_detections.report_progress, claim))

    def finish(state: str, message: str) -> None:
        beat_detections.finish(claim, state, message=message)

    with ending(claim, Ending("detection of the beats", finish, beat_detections.release)):
        found = find_beats(_reported(_sound_of(path_of(file), length_s), progress))
        progress.report()
        if found is None:
            raise InvalidValue("No beat could be found. Tap the tempo, or type it.")
        document = asdict(found)
        patiently(lambda: beat_detections.finish(claim, "done", found=document))


def _sound_of(file: Path, length_s: float) -> Iterator[Sound]:
    length = Fraction(length_s).limit_denominator(SAMPLES_PER_SECOND)
    return iter(remote_sound_parts(file, Fraction(0), length))


def _reported(parts: Iterator[Sound], progress: Progress) -> Iterator[Sound]:
    """Yield the parts, and report how many seconds of sound have been read."""
    samples = 0
    for part in parts:
        yield part
        samples += len(part)
        progress.at(samples // SAMPLES_PER_SECOND)
