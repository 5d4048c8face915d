"""Writes one transition: a folder of PNG files with an index, a video file, or its sound alone."""

import json
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import numpy as np

from idle_shimmer.core.animation.retime import ClipSide
from idle_shimmer.core.animation.timing import rate_text
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.picture.output import Depth
from idle_shimmer.core.picture.yuv import Planes
from idle_shimmer.media.colour_tags import USUAL
from idle_shimmer.media.complete_files import complete_file
from idle_shimmer.media.sound.sound_parts import Sound, silence
from idle_shimmer.media.sound.wave_files import wave_bytes
from idle_shimmer.media.write.output_formats import (
    OutputFormat,
    Quality,
    format_of_file,
    is_video_name,
    output_format,
)
from idle_shimmer.output.folders import folder_written, require_folder
from idle_shimmer.output.kept_planes import Coded, frames_of
from idle_shimmer.output.plan import OutputSettings
from idle_shimmer.output.written_files import (
    INDEX,
    SOUND,
    Sequence,
    archive_at,
    png_bytes,
    write_pictures,
    write_video,
)
from idle_shimmer.transition.transition import Transition

_WAVE = ".wav"


@dataclass(frozen=True)
class TransitionOutput:
    """How a transition is written; ``sound`` is None where there is none, or none is wanted.

    ``depth`` is that of the pictures: by default 8 bits in a folder, and in a file the least that loses
    nothing of sources that are deeper than 8 bits (``is_deep``), where the format can hold it. ``planes`` gives
    those of a clip's own frame, where an untouched one may keep them.
    """

    size: tuple[int, int]
    margin: int
    sound: Iterable[Sound] | None
    format: str | None = None
    quality: Quality = "standard"
    depth: Depth | None = None
    is_deep: bool = False
    colour: str = USUAL
    planes: Callable[[ClipSide, int, Coded], Planes | None] | None = None


def write_transition(transition: Transition, out: Path, wanted: TransitionOutput) -> None:
    """Write the window and the margin around it into ``out``: a folder, or a file by its name's ending.

    Nothing appears at ``out`` before everything is written.
    """
    suffix = out.suffix.lower()
    if suffix == _WAVE:
        require_folder(out.parent)
        _write_sound(out, wanted)
    elif is_video_name(out) or suffix == ".zip":
        require_folder(out.parent)
        _write_file(transition, out, wanted)
    elif out.suffix and not out.is_dir():
        format_of_file(out)
    else:
        _write_folder(transition, out, wanted)


def _write_sound(out: Path, wanted: TransitionOutput) -> None:
    if wanted.sound is None:
        raise InvalidValue(
            f"there is no sound to write to {out.name}: neither clip has any", field="out"
        )
    with complete_file(out) as file:
        file.write_bytes(wave_bytes(_whole(wanted.sound)))


def _write_file(transition: Transition, out: Path, wanted: TransitionOutput) -> None:
    output = _format_of(out, wanted.format)
    depth = wanted.depth or output.depth(source_is_deep=wanted.is_deep)
    output.pixels_of(depth)
    coded = (
        None
        if output.video is None
        else Coded(output.pixels_of(depth), output.colour_of(wanted.colour))
    )
    sequence = _sequence(transition, wanted, depth, coded)
    settings = OutputSettings(output, wanted.quality)
    if output.video is not None:
        write_video(out, sequence, settings, _nothing)
        return
    with archive_at(out) as archive:
        write_pictures(archive, "", sequence, _nothing)


def _format_of(out: Path, name: str | None) -> OutputFormat:
    if out.suffix.lower() == ".zip" and name is None:
        return output_format("png8")
    return format_of_file(out, name)


def _nothing() -> None:
    """Do nothing: the command line shows no progress."""


def _sequence(
    transition: Transition, wanted: TransitionOutput, depth: Depth, coded: Coded | None
) -> Sequence:
    offsets = _offsets(transition, wanted.margin)

    def planes(side: ClipSide, number: int) -> Planes | None:
        return (
            None if coded is None or wanted.planes is None else wanted.planes(side, number, coded)
        )

    return Sequence(
        frames_of(transition, offsets, planes),
        wanted.sound,
        wanted.size,
        transition.rate,
        depth,
        len(offsets),
        0,
        wanted.colour,
        offsets.start,
    )


def _offsets(transition: Transition, margin: int) -> range:
    """Return the frames of the window and ``margin`` around it."""
    window = transition.window
    return range(-window.before - margin, window.after + margin)


def _whole(parts: Iterable[Sound]) -> Sound:
    return np.concatenate([silence(Fraction(0)), *parts])


def _write_folder(transition: Transition, out: Path, wanted: TransitionOutput) -> None:
    if out.exists() and not out.is_dir():
        raise InvalidValue(
            f"{out} is a file: give a folder, or a name that ends in .mp4, .mov, .mkv or .webm",
            field="out",
        )
    with folder_written(out) as folder:
        listed = []
        depth, offsets = wanted.depth or 8, _offsets(transition, wanted.margin)
        for number, (offset, frame) in enumerate(
            zip(offsets, transition.outputs(offsets), strict=True)
        ):
            file = f"frame_{number:04}.png"
            (folder / file).write_bytes(png_bytes(frame.codes(depth)))
            listed.append({"file": file, "offset": offset})
        index = {"rate": rate_text(transition.rate), "size": list(wanted.size), "frames": listed}
        (folder / INDEX).write_text(json.dumps(index, indent=1) + "\n", encoding="utf-8")
        if wanted.sound is not None:
            (folder / SOUND).write_bytes(wave_bytes(_whole(wanted.sound)))
