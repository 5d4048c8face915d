"""The facts of a media file and the time of every picture, from packets alone.

Times are seconds from the first picture. Nothing is decoded unless the packets carry no times.
"""

import errno
import math
from bisect import bisect_right
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.container import InputContainer
from av.video.stream import VideoStream

from idle_shimmer.core.animation.timecode import frame_at
from idle_shimmer.media.colour_tags import colour_of, is_wide
from idle_shimmer.media.errors import MediaError
from idle_shimmer.media.read.demuxers import (
    FORMAT_NAMES,
    OPEN_OPTIONS,
    STILL_DEMUXERS,
    still_demuxer,
)
from idle_shimmer.media.read.dynamic_range import TRANSFERS

# Timestamps are whole ticks: at a constant rate the steps between them differ by up to a tick.
_CONSTANT_RATE_TOLERANCE = 0.02
_TICKS_OFF = 1
_USUAL_RATE = Fraction(25)
# The lowest rate of an edit.
_LOWEST_RATE = Fraction(1)


@dataclass(frozen=True)
class FrameIndex:
    """Presentation times of every picture, in order, and which ones can be decoded alone."""

    pts: tuple[int, ...]
    keyframes: tuple[int, ...]
    time_base: Fraction
    last_duration: int

    @property
    def count(self) -> int:
        """The number of pictures."""
        return len(self.pts)

    def keyframe_before(self, number: int) -> int:
        """Return the last picture at or before ``number`` from which decoding can start."""
        return self.keyframes[max(0, bisect_right(self.keyframes, number) - 1)]

    def shown_at(self, time: Fraction) -> int:
        """Return the picture on screen at ``time`` seconds; after the end, the last one."""
        return self.number_at(self.pts[0] + time / self.time_base)

    def first_frame_of(self, number: int, rate: Fraction) -> int:
        """Return the first frame at a constant ``rate`` that shows picture ``number``.

        As in ``RateConvertedClip``, a frame shows the picture at the middle of its time.
        """
        begins_s = (self.pts[number] - self.pts[0]) * self.time_base
        return max(0, math.ceil(begins_s * rate - Fraction(1, 2)))

    def number_at(self, pts: int | Fraction) -> int:
        """Return the last picture that begins at or before the tick ``pts``."""
        return max(0, bisect_right(self.pts, pts) - 1)

    @property
    def duration(self) -> Fraction:
        """The seconds from the start of the first picture to the end of the last."""
        return (self.pts[-1] - self.pts[0] + self.last_duration) * self.time_base


@dataclass(frozen=True)
class MediaFacts:
    """The facts of a file. ``rate`` is in frames per second, ``bit_depth`` that of a component.

    ``colour`` is a name of ``colour_tags``; ``start_frame`` is what its timecode gives the first frame.
    """

    width: int
    height: int
    pixel_aspect: Fraction
    rate: Fraction
    frame_count: int
    duration: Fraction
    rotation_deg: int
    constant_rate: bool
    still: bool
    video_codec: str
    pixel_format: str
    bit_depth: int
    colour: str
    has_sound: bool
    notes: tuple[str, ...]
    start_frame: int = 0
    interlaced: bool = False


@contextmanager
def opened(path: Path) -> Iterator[InputContainer]:
    """Open a file for reading. Raises MediaError where it cannot be read."""
    if not path.is_file():
        raise MediaError(f"there is no file {path}: check the name")
    if path.stat().st_size == 0:
        raise MediaError(f"{path.name} is empty: it has 0 bytes")
    try:
        # The path is absolute, so that no part of a name is taken for a protocol.
        container = av.open(
            str(path.absolute()), mode="r", format=still_demuxer(path), options=dict(OPEN_OPTIONS)
        )
    except (av.FFmpegError, OSError, ValueError) as error:
        if getattr(error, "errno", None) == errno.ENOMEM:
            raise MemoryError(f"{path.name} needs more memory than it may take") from error
        raise MediaError(
            f"{path.name} is not a video or picture that can be read: choose an {FORMAT_NAMES} file"
        ) from error
    with container:
        yield container


def video_stream(container: InputContainer, path: Path) -> VideoStream:
    """Return the first video stream. Raises MediaError where there is none."""
    for stream in container.streams.video:
        if not stream.disposition & av.stream.Disposition.attached_pic:
            return stream
    if container.streams.video:
        return container.streams.video[0]
    raise MediaError(f"{path.name} has no pictures, only sound or data: choose a video file")


def read_facts(path: Path) -> tuple[MediaFacts, FrameIndex]:
    """Return the facts and the frame index of a file. Raises MediaError where it is not a video."""
    with opened(path) as container:
        stream = video_stream(container, path)
        still = container.format.name in STILL_DEMUXERS
        has_sound = bool(container.streams.audio)
        aspect, codec = stream.sample_aspect_ratio or Fraction(1), stream.codec_context.name
        told_rate, code = stream.average_rate, _start_timecode(container)
        index = _index_from_packets(container, stream)
    if index is None:
        index = _index_by_decoding(path)
    first = _first_picture(path)
    width, height = _shown_size(first, aspect)
    rate, constant, rate_notes = _rate(index, told_rate)
    return MediaFacts(
        width=width,
        height=height,
        pixel_aspect=aspect,
        rate=rate,
        frame_count=index.count,
        duration=index.duration,
        rotation_deg=quarter_turn_deg(first),
        constant_rate=constant,
        still=still,
        video_codec=codec,
        pixel_format=first.format.name,
        bit_depth=max(each.bits for each in first.format.components),
        colour=colour_of(first),
        has_sound=has_sound,
        notes=(*_notes(first), *rate_notes),
        start_frame=(frame_at(code, rate) or 0) if constant else 0,
        interlaced=bool(first.interlaced_frame),
    ), index


def _start_timecode(container: InputContainer) -> str:
    """Return the timecode of the first frame as the file or one of its tracks states it; empty without one."""
    stated = [container.metadata, *(stream.metadata for stream in container.streams)]
    codes = (code for each in stated for name, code in each.items() if name.lower() == "timecode")
    return next(codes, "")


def _index_from_packets(container: InputContainer, stream: VideoStream) -> FrameIndex | None:
    """Return the index, or None where packets lack times or repeat them."""
    found: list[tuple[int, bool]] = []
    duration = 0
    try:
        for packet in container.demux(stream):
            if packet.size == 0 or packet.is_discard:
                continue
            if packet.pts is None:
                return None
            found.append((packet.pts, packet.is_keyframe))
            duration = packet.duration or duration
    except av.FFmpegError:
        # A truncated file: use what could be read.
        pass
    found.sort()
    if not found or len({pts for pts, _ in found}) != len(found) or not any(k for _, k in found):
        return None
    return _index(found, stream, duration)


def _index_by_decoding(path: Path) -> FrameIndex:
    """Return the index of a file whose packets have no usable times, by decoding every picture."""
    found: list[tuple[int | None, bool]] = []
    with opened(path) as container:
        stream = video_stream(container, path)
        # A truncated file: use what could be read.
        with suppress(av.FFmpegError):
            found.extend((frame.pts, frame.key_frame) for frame in container.decode(stream))
        if not found:
            raise MediaError(
                f"{path.name} has no picture that can be decoded: it may be truncated. Export it again"
            )
        timed = [(pts, key) for pts, key in found if pts is not None]
        if len(timed) == len(found):
            return _index(sorted(dict(timed).items()), stream, 0)
        # An elementary stream has no times: number its pictures at its rate.
        rate = stream.average_rate or stream.guessed_rate or _USUAL_RATE
        return FrameIndex(tuple(range(len(found))), (0,), 1 / rate, 1)


def _index(found: list[tuple[int, bool]], stream: VideoStream, duration: int) -> FrameIndex:
    pts = tuple(time for time, _ in found)
    keyframes = [number for number, (_, key) in enumerate(found) if key]
    if not keyframes or keyframes[0] != 0:
        keyframes.insert(0, 0)
    time_base = stream.time_base or Fraction(1, 1000)
    if len(pts) > 1:
        usual = int(np.median(np.diff(pts)))
    else:
        rate = stream.average_rate or _USUAL_RATE
        usual = max(1, round(1 / (rate * time_base)))
    return FrameIndex(pts, tuple(keyframes), time_base, duration or usual)


def _first_picture(path: Path) -> av.VideoFrame:
    with opened(path) as container:
        stream = video_stream(container, path)
        try:
            for frame in container.decode(stream):
                return frame
        except av.FFmpegError:
            pass
    raise MediaError(
        f"{path.name} has no picture that can be decoded: it may be truncated. Export it again"
    )


def quarter_turn_deg(frame: av.VideoFrame) -> int:
    """Return the quarter turn, in degrees counter-clockwise, next to what the file says of a picture."""
    return round(frame.rotation / 90) * 90 % 360


def _shown_size(frame: av.VideoFrame, aspect: Fraction) -> tuple[int, int]:
    """Return (width, height) with square pixels and after the rotation flag."""
    width = round(frame.width * aspect)
    return (frame.height, width) if quarter_turn_deg(frame) % 180 else (width, frame.height)


def _rate(index: FrameIndex, stated: Fraction | None) -> tuple[Fraction, bool, tuple[str, ...]]:
    """Return (frames per second, whether it is constant, notes), from the times of the pictures.

    The rate that the file states is used where the times agree with it to a tick: times in whole
    milliseconds do not distinguish 30 from 29.97 in a short file. Pictures so far apart that no edit could
    have their rate count at that of their usual steps.
    """
    if index.count < 2:
        one_s = index.last_duration * index.time_base
        return max(_LOWEST_RATE, Fraction(1 / one_s).limit_denominator(1001)), True, ()
    steps = np.diff(np.array(index.pts, dtype=np.int64))
    spread = float(np.abs(steps - steps.mean()).max())
    constant = spread <= max(1.0, _CONSTANT_RATE_TOLERANCE * float(steps.mean()))
    span_s = (index.pts[-1] - index.pts[0]) * index.time_base
    if stated and abs((index.count - 1) / stated - span_s) <= _TICKS_OFF * index.time_base:
        found = _common_rate(stated)
    else:
        found = _common_rate((index.count - 1) / span_s)
    if found >= _LOWEST_RATE:
        return found, constant, ()
    usual = 1 / (Fraction(float(np.median(steps))) * index.time_base)
    rate = _common_rate(max(_LOWEST_RATE, usual))
    gap_s = float(int(steps.max()) * index.time_base)
    note = (
        f"The pictures of the clip are up to {gap_s:.0f} s apart: it counts at {float(rate):g} frames a second,"
        " and each picture stays until the next."
    )
    return rate, False, (note,)


def _common_rate(rate: Fraction) -> Fraction:
    """Return ``rate`` rounded to a whole one, or one times 1000/1001, within 1 in 1000."""
    for candidate in (Fraction(round(rate)), Fraction(round(rate * 1001 / 1000) * 1000, 1001)):
        if candidate > 0 and abs(candidate - rate) < rate * Fraction(4, 10_000):
            return candidate
    return rate.limit_denominator(1001)


def _notes(frame: av.VideoFrame) -> tuple[str, ...]:
    """Return notes on the coding of the pictures."""
    notes = []
    if transfer := TRANSFERS.get(int(frame.color_trc)):
        notes.append(
            f"The clip is HDR ({transfer}): it is shown and rendered as SDR, highlights compressed."
        )
    if is_wide(frame):
        notes.append(
            "The clip has BT.2020 colours: they are brought to BT.709, the most vivid ones clipped."
        )
    if any(component.is_alpha for component in frame.format.components):
        notes.append("The clip has transparency: it is shown over black.")
    if frame.rotation % 90:
        notes.append(
            f"The file turns the clip by {frame.rotation}°, which is no quarter turn: it is shown turned by"
            f" {quarter_turn_deg(frame)}°."
        )
    if frame.interlaced_frame:
        notes.append(
            "The clip is interlaced: Deinterlace, in its panel, makes whole frames of its fields."
        )
    return tuple(notes)
