"""Parts of an edit as files of their own, and the edit joined from them without coding them again.

Every part is written by one start of the encoder with the same parameters, so that its first frame begins
a group of pictures and its headers are those of every other part.
"""

import math
from collections.abc import Sequence
from itertools import pairwise
from pathlib import Path

import av

from idle_shimmer.core.animation.timecode import timecode
from idle_shimmer.media.local_copies import at_hand
from idle_shimmer.media.writer import coded_sounds, muxing_options
from idle_shimmer.output.files import Advance, sequence_of_edit, tracks_of, write_video
from idle_shimmer.output.opened import OpenedEdit
from idle_shimmer.output.plan import EditPlan, OutputSettings

SEGMENT_S = 10


def parts_of(plan: EditPlan) -> list[range]:
    """Return the frames of each part of an edit: about ten seconds, whole seconds of frames."""
    second = max(1, round(plan.rate))
    length = second * SEGMENT_S
    count = max(1, math.ceil(plan.frame_count / length))
    limits = [*range(0, count * length, length), plan.frame_count]
    return [range(first, end) for first, end in pairwise(limits)]


def write_part(
    path: Path, edit: OpenedEdit, frames: range, settings: OutputSettings, advance: Advance
) -> None:
    """Write some frames of an edit, without sound."""
    write_video(path, sequence_of_edit(edit, settings, frames), settings, advance)


def join_parts(
    path: Path, parts: Sequence[Path], edit: OpenedEdit, settings: OutputSettings
) -> None:
    """Write the whole edit from the files of its parts, with its sound; it appears when it is complete."""
    sequence = sequence_of_edit(edit, settings)
    unfinished = path.with_name(f".{path.stem}.unfinished{path.suffix}")
    output = settings.output
    try:
        with av.open(str(unfinished), mode="w", options=muxing_options(output)) as joined:
            joined.metadata["timecode"] = timecode(max(0, sequence.first), sequence.rate)
            with av.open(str(at_hand(parts[0]))) as first:
                source = first.streams.video[0]
                # Without a rate there is no timecode track.
                video = joined.add_stream_from_template(source, opaque=True, rate=sequence.rate)
                if output.suffix in (".mp4", ".mov"):
                    video.codec_context.codec_tag = source.codec_context.codec_tag
            sounds = coded_sounds(joined, output, tracks_of(sequence) if output.sound else [])
            done = 0
            for part in parts:
                with av.open(str(at_hand(part))) as container:
                    stream = container.streams.video[0]
                    for packet in container.demux(stream):
                        if packet.dts is None or packet.pts is None:
                            continue
                        late = round(done / sequence.rate / packet.time_base)
                        packet.pts, packet.dts = packet.pts + late, packet.dts + late
                        until = packet.pts * packet.time_base
                        packet.stream = video
                        joined.mux(packet)
                        for sound in sounds:
                            sound.write_until(until)
                    done += _frames_in(part)
            for sound in sounds:
                sound.finish()
        unfinished.replace(path)
    finally:
        unfinished.unlink(missing_ok=True)


def _frames_in(part: Path) -> int:
    with av.open(str(part)) as container:
        stream = container.streams.video[0]
        return sum(1 for packet in container.demux(stream) if packet.size)
