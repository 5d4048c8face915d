"""Writes windows and edits as files: videos, PNG sequences, and several of them in a ZIP."""

import errno
import json
import zipfile
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np

from idle_shimmer.core.animation.timecode import timecode
from idle_shimmer.core.animation.timing import rate_text
from idle_shimmer.core.picture.encoding import Codes, DeepCodes
from idle_shimmer.core.picture.output import Depth
from idle_shimmer.core.picture.yuv import Planes
from idle_shimmer.media.complete_files import complete_file
from idle_shimmer.media.sound.sound_parts import Sound
from idle_shimmer.media.sound.wave_files import wave_bytes
from idle_shimmer.media.write.writer import Coding, SoundTrack, writing
from idle_shimmer.output.edit_sound import EditSound
from idle_shimmer.output.kept_planes import Coded, Frame
from idle_shimmer.output.names import distinct, window_name
from idle_shimmer.output.opened_edit import OpenedEdit
from idle_shimmer.output.plan import OutputSettings

INDEX = "index.json"
SOUND = "sound.wav"
# Receives each finished frame; raises to stop.
Advance = Callable[[], None]


@dataclass(frozen=True)
class Sequence:
    """Frames and sound to be written, of one size and rate; ``first`` numbers the first one.

    ``first_offset`` is that of a window's first frame from its cut, ``count`` the number of frames,
    ``colour`` the encoding that the sources share, see ``colour_tags``. ``accents`` are a sound track of
    their own, where they are not in ``sound``.
    """

    frames: Iterable[Frame]
    sound: Iterable[Sound] | None
    size: tuple[int, int]
    rate: Fraction
    depth: Depth
    count: int
    first: int
    colour: str
    first_offset: int = 0
    accents: Iterable[Sound] | None = None


def sequence_of_window(edit: OpenedEdit, place: int, settings: OutputSettings) -> Sequence:
    """Return a window with its handles."""
    offsets = edit.window_offsets(place, settings.handles)
    sides = [place, place + 1]
    depth = settings.output.depth(source_is_deep=edit.is_deep(sides))
    sound, accents = _sounds(
        edit, range(place, place + 1), settings, lambda part: part.window(place, offsets)
    )
    return Sequence(
        edit.window_pictures(place, offsets, _coded(edit, settings, depth, sides)),
        sound,
        edit.size,
        edit.plan.rate,
        depth,
        len(offsets),
        edit.plan.cut_frame(place) + offsets.start,
        edit.colour(sides),
        offsets.start,
        accents,
    )


def sequence_of_edit(
    edit: OpenedEdit, settings: OutputSettings, frames: range | None = None
) -> Sequence:
    """Return the whole edit; or some frames of it, counted from its first, without sound."""
    everything = list(range(len(edit.plan.placed)))
    depth = settings.output.depth(source_is_deep=edit.is_deep(everything))
    cuts = range(len(edit.plan.cuts))
    coded = _coded(edit, settings, depth, everything)
    whole = range(edit.plan.frame_count)
    sound, accents = (
        _sounds(edit, cuts, settings, EditSound.whole) if frames is None else (None, None)
    )
    wanted = whole if frames is None else frames
    return Sequence(
        edit.edit_pictures(coded, wanted),
        sound,
        edit.size,
        edit.plan.rate,
        depth,
        len(wanted),
        edit.plan.first_frame + wanted.start,
        edit.colour(everything),
        accents=accents,
    )


def _sounds(
    edit: OpenedEdit,
    cuts: range,
    settings: OutputSettings,
    sound_of: Callable[[EditSound], Iterator[Sound]],
) -> tuple[Iterator[Sound] | None, Iterator[Sound] | None]:
    """Return the sound, and that of accents where they are a track of their own; None where it is silent."""
    heard = edit.sound
    if not settings.sound or not heard.is_heard(cuts):
        return None, None
    others, accents = heard.hearing("clips", "music"), heard.hearing("accents")
    is_apart = settings.accents_apart and settings.output.holds_sound_tracks
    if is_apart and others.is_heard(cuts) and accents.is_heard(cuts):
        return sound_of(others), sound_of(accents)
    return sound_of(heard), None


def _coded(
    edit: OpenedEdit, settings: OutputSettings, depth: Depth, places: list[int]
) -> Coded | None:
    """Return how frames are coded, where a video codes them."""
    if settings.output.video is None:
        return None
    return Coded(settings.output.pixels_of(depth), settings.output.colour_of(edit.colour(places)))


def write_video(path: Path, sequence: Sequence, settings: OutputSettings, advance: Advance) -> None:
    """Write a sequence as a video file, which appears when it is complete."""
    with writing(
        path,
        sequence.size,
        sequence.rate,
        Coding(settings.output, settings.quality, sequence.depth, sequence.colour),
        tracks=tracks_of(sequence) if settings.output.sound else (),
        timecode=timecode(max(0, sequence.first), sequence.rate),
    ) as writer:
        for frame in sequence.frames:
            writer.write(frame)
            # It is rounded by now: while the next one is made, its memory is wanted.
            del frame
            advance()


def tracks_of(sequence: Sequence) -> list[SoundTrack]:
    """Return the sound tracks of a sequence."""
    if sequence.accents is None:
        return [] if sequence.sound is None else [SoundTrack(sequence.sound)]
    return [
        SoundTrack(sequence.sound or (), "Clips and music"),
        SoundTrack(sequence.accents, "Accents"),
    ]


def write_pictures(
    archive: zipfile.ZipFile, folder: str, sequence: Sequence, advance: Advance
) -> None:
    """Write a sequence as PNG files, an index and its sound, into a folder of ``archive``."""
    listed = []
    for number, frame in enumerate(sequence.frames):
        if isinstance(frame, Planes):
            raise TypeError("pictures are written from frames, not from planes")
        file = f"frame_{number:04}.png"
        archive.writestr(f"{folder}{file}", png_bytes(frame.codes(sequence.depth)))
        listed.append({"file": file, "offset": sequence.first_offset + number})
        advance()
    index = {
        "rate": rate_text(sequence.rate),
        "size": list(sequence.size),
        "timecode": timecode(max(0, sequence.first), sequence.rate),
        "frames": listed,
    }
    archive.writestr(f"{folder}{INDEX}", json.dumps(index, indent=1) + "\n")
    if sequence.sound is not None:
        whole = np.concatenate([np.zeros((0, 2), np.float32), *sequence.sound])
        archive.writestr(f"{folder}{SOUND}", wave_bytes(whole))


def png_bytes(picture: Codes | DeepCodes) -> bytes:
    """Return a picture as a PNG file. Raises OSError where it cannot be coded."""
    done, data = cv2.imencode(".png", cv2.cvtColor(picture, cv2.COLOR_RGB2BGR))
    if not done:
        raise OSError(errno.EIO, "the picture could not be coded")
    return data.tobytes()


@contextmanager
def archive_at(path: Path) -> Iterator[zipfile.ZipFile]:
    """Open a ZIP that appears when it is complete. Its members are compressed already, and stored."""
    with complete_file(path) as file, zipfile.ZipFile(file, "w", zipfile.ZIP_STORED) as archive:
        yield archive


def add_video(
    archive: zipfile.ZipFile,
    name: str,
    scratch: Path,
    sequence: Sequence,
    settings: OutputSettings,
    advance: Advance,
) -> None:
    """Write a sequence as a video file of ``archive``, by way of a file beside ``scratch``."""
    part = scratch.with_name(f".{scratch.stem}.unfinished.part{settings.output.suffix}")
    try:
        write_video(part, sequence, settings, advance)
        archive.write(part, name)
    finally:
        part.unlink(missing_ok=True)


def write_one(path: Path, sequence: Sequence, settings: OutputSettings, advance: Advance) -> None:
    """Write one sequence: a video file, or a ZIP of PNG files."""
    if settings.output.video is not None:
        write_video(path, sequence, settings, advance)
        return
    with archive_at(path) as archive:
        write_pictures(archive, "", sequence, advance)


def write_windows(
    path: Path, edit: OpenedEdit, places: list[int], settings: OutputSettings, advance: Advance
) -> None:
    """Write windows into a ZIP, each as a file or a folder of its own."""
    names = distinct([window_name(settings.window_name, edit.plan, place) for place in places])
    with archive_at(path) as archive:
        for place, name in zip(places, names, strict=True):
            sequence = sequence_of_window(edit, place, settings)
            if settings.output.video is None:
                write_pictures(archive, f"{name}/", sequence, advance)
            else:
                member = f"{name}{settings.output.suffix}"
                add_video(archive, member, path, sequence, settings, advance)
            edit.close_before(place)
