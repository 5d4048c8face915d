"""Reads and joins sound: float32 stereo, (samples, 2), -1…1, 48 000 samples per second.

Times count from the first picture, as everywhere: a container may begin before it, and its sound
earlier or later. What lies before the first picture is left out, what begins later is preceded by
silence. Edit lists and the priming of encoders are applied by FFmpeg, whose times are used.
"""

from collections.abc import Iterable, Iterator
from contextlib import suppress
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound
from idle_shimmer.media.read.index import opened

__all__ = ["SAMPLES_PER_SECOND", "Sound"]

_JOIN_FADE_S = 0.005
# The first picture to be shown comes within so many packets (H.264 reorders at most 16 frames).
_REORDERED_PICTURES = 32
LONGEST_PART_S = Fraction(30)
# Times may be wrong by so many samples without being followed; within so many they are met again;
# beyond so many they are a gap.
_ROUNDED_BY = SAMPLES_PER_SECOND // 500
_IN_STEP = SAMPLES_PER_SECOND // 10_000
_SUDDEN = SAMPLES_PER_SECOND // 50
# Pieces are stretched by one sample in so many: 3 cents of pitch, which nobody hears.
_STRETCH = 512

# Later than any sound.
_NO_MORE = (1 << 62, np.zeros((0, 2), np.float32))


def samples_in(duration_s: Fraction) -> int:
    """Return the number of samples in ``duration_s`` seconds."""
    return round(duration_s * SAMPLES_PER_SECOND)


def silence(duration_s: Fraction) -> Sound:
    """Return ``duration_s`` seconds of silence."""
    return np.zeros((samples_in(duration_s), 2), np.float32)


def read_sound(path: Path | None, start_s: Fraction, duration_s: Fraction) -> Sound:
    """Return ``duration_s`` seconds of a file's first sound stream from ``start_s``.

    Silence where there is no sound, or no ``path``.
    """
    return np.concatenate([silence(Fraction(0)), *sound_parts(path, start_s, duration_s)])


def sound_parts(path: Path | None, start_s: Fraction, duration_s: Fraction) -> Iterator[Sound]:
    """Yield what ``read_sound`` returns in parts of at most half a minute, to limit memory."""
    total = samples_in(duration_s)
    count = -(-total // samples_in(LONGEST_PART_S))
    # Parts of nearly equal length: none is too short to be faded.
    limits = [total * n // count for n in range(count + 1)] if count else [0]
    pieces = _pieces(path, round(start_s * SAMPLES_PER_SECOND))
    at, piece = next(pieces, _NO_MORE)
    for begin, end in pairwise(limits):
        part = np.zeros((end - begin, 2), np.float32)
        while at < end:
            _put(part, piece, at - begin)
            if at + len(piece) > end:
                break
            at, piece = next(pieces, _NO_MORE)
        yield part


def _pieces(path: Path | None, first: int) -> Iterator[tuple[int, Sound]]:
    """Yield the sound of a file as it is decoded: (samples after ``first``, piece)."""
    if path is None:
        return
    first += round(first_picture_s(path) * SAMPLES_PER_SECOND)
    with opened(path) as container:
        if not container.streams.audio:
            return
        stream = container.streams.audio[0]
        resampler = av.AudioResampler(format="flt", layout="stereo", rate=SAMPLES_PER_SECOND)
        before = Fraction(first, SAMPLES_PER_SECOND) - 1
        if before > 0 and stream.time_base:
            container.seek(int(before / stream.time_base), stream=stream, backward=True)
        steady = _Steady()
        # Damaged sound: what could be decoded is used, the rest is silent.
        with suppress(av.FFmpegError):
            for frame in container.decode(stream):
                for piece in resampler.resample(frame):
                    if piece.pts is None or piece.time_base is None:
                        continue
                    at = round(piece.pts * piece.time_base * SAMPLES_PER_SECOND) - first
                    samples = piece.to_ndarray().reshape(-1, 2).astype(np.float32, copy=False)
                    yield steady.placed(at, samples)


class _Steady:
    """Places decoded pieces one after another, in step with their times.

    Some files round their times, to whole milliseconds as Matroska: pieces that nearly meet are joined.
    Where a clock ran slow or fast, the difference grows: pieces are then stretched by a little until
    they are in step again. A sudden difference is a gap, or a cut in the file.
    """

    def __init__(self) -> None:
        self._follows: int | None = None
        self._is_catching_up = False

    def placed(self, at: int, samples: Sound) -> tuple[int, Sound]:
        """Return where a piece lies that should begin at sample ``at``, and its samples."""
        late = 0 if self._follows is None else at - self._follows
        if self._follows is None or abs(late) > _SUDDEN:
            self._is_catching_up = False
        else:
            at = self._follows
            if abs(late) > _ROUNDED_BY:
                self._is_catching_up = True
            elif abs(late) < _IN_STEP:
                self._is_catching_up = False
            if self._is_catching_up:
                most = max(1, len(samples) // _STRETCH)
                samples = _lengthened(samples, int(np.clip(late, -most, most)))
        self._follows = at + len(samples)
        return at, samples


def _lengthened(samples: Sound, by: int) -> Sound:
    """Return the samples over ``by`` more of them, between which they are interpolated."""
    count = len(samples)
    places = np.linspace(0, count - 1, count + by)
    channels = [np.interp(places, np.arange(count), samples[:, c]) for c in (0, 1)]
    return np.stack(channels, axis=1).astype(np.float32)


def first_picture_s(path: Path) -> Fraction:
    """Return the time of the first picture in the container's own time; without pictures, of its start."""
    with opened(path) as container:
        moving = [
            stream
            for stream in container.streams.video
            if not stream.disposition & av.stream.Disposition.attached_pic
        ]
        if not moving or moving[0].time_base is None:
            return Fraction(container.start_time or 0, av.time_base)
        found: list[int] = []
        with suppress(av.FFmpegError):
            for packet in container.demux(moving[0]):
                if packet.size and packet.pts is not None and not packet.is_discard:
                    found.append(packet.pts)
                if len(found) >= _REORDERED_PICTURES:
                    break
        return min(found, default=0) * moving[0].time_base


def _put(out: Sound, piece: NDArray[Any], at: int) -> None:
    start, end = max(at, 0), min(at + len(piece), len(out))
    if end > start:
        out[start:end] = piece[start - at : end - at]


def faded(part: Sound, *, at_start: bool, at_end: bool) -> Sound:
    """Return a copy with a fade of 5 ms at its joins, so that they do not click."""
    fade = round(_JOIN_FADE_S * SAMPLES_PER_SECOND)
    part = part.copy()
    if len(part) >= 2 * fade:
        ramp = np.linspace(0, 1, fade, dtype=np.float32)[:, None]
        if at_start:
            part[:fade] *= ramp
        if at_end:
            part[-fade:] *= ramp[::-1]
    return part


def faded_ends(parts: Iterable[Sound], *, at_start: bool, at_end: bool) -> Iterator[Sound]:
    """Yield the parts of a clip's sound, faded where the clip joins another."""
    held: Sound | None = None
    for part in parts:
        if held is not None:
            yield faded(held, at_start=at_start, at_end=False)
            at_start = False
        held = part
    if held is not None:
        yield faded(held, at_start=at_start, at_end=at_end)
