"""Parts of an edit as files of their own, and the edit joined from them without coding them again.

The sound is written once, by itself. Every part is written by one start of the encoder with the same parameters, so that its first frame begins
a group of pictures and its headers are those of every other part.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any

import av
import numpy as np

from idle_shimmer.core.animation.timecode import timecode
from idle_shimmer.core.sound.samples import Sound
from idle_shimmer.media.complete_files import complete_file
from idle_shimmer.media.local_copies import at_hand
from idle_shimmer.media.write.output_formats import OutputFormat
from idle_shimmer.media.write.writer import (
    CodedSound,
    SoundTrack,
    coded_sounds,
    muxing_options,
)
from idle_shimmer.output.opened_edit import OpenedEdit
from idle_shimmer.output.plan import EditPlan, OutputSettings
from idle_shimmer.output.written_files import Advance, sequence_of_edit, tracks_of, write_video

SEGMENT_S = 10
SOUND_SUFFIX = ".mkv"
_UNCODED = OutputFormat("sound", "Uncoded sound", SOUND_SUFFIX, None, None, None, "pcm_f32le")


def parts_of(plan: EditPlan) -> list[range]:
    """Return the frames of each part of an edit: whole seconds, at most ten, as even as can be."""
    second = max(1, round(plan.rate))
    count = max(1, math.ceil(plan.frame_count / (second * SEGMENT_S)))
    length = second * max(1, math.ceil(plan.frame_count / (second * count)))
    limits = [*range(0, plan.frame_count, length), plan.frame_count]
    return [range(first, end) for first, end in pairwise(limits)]


def write_part(
    path: Path, edit: OpenedEdit, frames: range, settings: OutputSettings, advance: Advance
) -> None:
    """Write some frames of an edit, without sound."""
    write_video(path, sequence_of_edit(edit, settings, frames), settings, advance)


def write_sound(
    path: Path, edit: OpenedEdit, settings: OutputSettings, go_on: Callable[[], None]
) -> None:
    """Write the sound of a whole edit, not coded yet: a stream for each of its tracks; nothing where it is silent.

    ``path`` ends in ``SOUND_SUFFIX``. ``go_on`` is called every second of sound, and may raise to stop.
    """
    sequence = sequence_of_edit(edit, settings)
    tracks = tracks_of(sequence) if settings.output.sound else []
    if not tracks:
        path.write_bytes(b"")
        return
    with complete_file(path) as file, av.open(str(file), mode="w") as container:
        sounds = coded_sounds(container, _UNCODED, tracks)
        for second in range(math.ceil(sequence.count / sequence.rate)):
            for sound in sounds:
                sound.write_until(Fraction(second))
            go_on()
        for sound in sounds:
            sound.finish()


def read_tracks(path: Path) -> Iterator[SoundTrack]:
    """Yield the tracks of a file of ``write_sound``."""
    if at_hand(path).stat().st_size == 0:
        return
    with av.open(str(path)) as container:
        titles = [each.metadata.get("title", "") for each in container.streams.audio]
    for number, title in enumerate(titles):
        yield SoundTrack(_track(path, number), title)


def _track(path: Path, number: int) -> Iterator[Sound]:
    with av.open(str(path)) as container:
        for frame in container.decode(audio=number):
            yield np.asarray(frame.to_ndarray().reshape(-1, 2), np.float32)


def join_parts(
    path: Path,
    parts: Sequence[Path],
    tracks: Sequence[SoundTrack],
    plan: EditPlan,
    output: OutputFormat,
    go_on: Callable[[int], None],
) -> None:
    """Write the whole edit from the files of its parts and its sound; it appears when it is complete.

    ``go_on`` receives the number of frames joined, after each part, and may raise to stop.
    """
    rate = plan.rate
    with (
        complete_file(path) as file,
        av.open(str(file), mode="w", options=muxing_options(output)) as joined,
    ):
        joined.metadata["timecode"] = timecode(max(0, plan.first_frame), rate)
        with av.open(str(at_hand(parts[0]))) as first:
            source = first.streams.video[0]
            # Without a rate there is no timecode track.
            video = joined.add_stream_from_template(source, opaque=True, rate=rate)
            if output.suffix in (".mp4", ".mov"):
                video.codec_context.codec_tag = source.codec_context.codec_tag
        sounds = coded_sounds(joined, output, tracks)
        done = 0
        for part in parts:
            done += _append(joined, video, at_hand(part), done / rate, sounds)
            go_on(done)
        for sound in sounds:
            sound.finish()


def _append(
    joined: Any, video: Any, part: Path, begin_s: Fraction, sounds: Sequence[CodedSound]
) -> int:
    """Append the pictures of a part, coded as they are, with the sound beside them; return their number."""
    count = 0
    with av.open(str(part)) as container:
        for packet in container.demux(container.streams.video[0]):
            if packet.dts is None or packet.pts is None:
                continue
            count += 1
            late = round(begin_s / packet.time_base)
            packet.pts, packet.dts = packet.pts + late, packet.dts + late
            until = packet.pts * packet.time_base
            packet.stream = video
            joined.mux(packet)
            for sound in sounds:
                sound.write_until(until)
    return count
