"""Reads and joins sound: float32 stereo, (samples, 2), -1…1, 48 000 samples a second."""

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.media.index import opened

Sound = NDArray[np.float32]
SAMPLES_PER_SECOND = 48_000
_JOIN_FADE_S = 0.005
# Some files round their times to whole milliseconds: pieces that all but meet follow one another,
# or there would be a hole or a repeat of some samples at each.
_ROUNDED_BY = SAMPLES_PER_SECOND // 500


def samples_in(duration_s: Fraction) -> int:
    """How many samples last ``duration_s`` seconds."""
    return round(duration_s * SAMPLES_PER_SECOND)


def silence(duration_s: Fraction) -> Sound:
    """Silence of ``duration_s`` seconds."""
    return np.zeros((samples_in(duration_s), 2), np.float32)


def read_sound(path: Path | None, start_s: Fraction, duration_s: Fraction) -> Sound:
    """``duration_s`` seconds of a file's first sound stream from ``start_s``, silence where none is.

    Without a ``path`` all of it is silence.
    """
    out = silence(duration_s)
    if path is None:
        return out
    with opened(path) as container:
        if not container.streams.audio:
            return out
        stream = container.streams.audio[0]
        resampler = av.AudioResampler(format="flt", layout="stereo", rate=SAMPLES_PER_SECOND)
        if start_s > 1 and stream.time_base:
            container.seek(int((start_s - 1) / stream.time_base), stream=stream, backward=True)
        first, follows = round(start_s * SAMPLES_PER_SECOND), None
        try:
            for frame in container.decode(stream):
                for piece in resampler.resample(frame):
                    if piece.pts is None or piece.time_base is None:
                        continue
                    at = round(piece.pts * piece.time_base * SAMPLES_PER_SECOND) - first
                    if follows is not None and abs(at - follows) <= _ROUNDED_BY:
                        at = follows
                    if at >= len(out):
                        return out
                    _put(out, piece.to_ndarray().reshape(-1, 2), at)
                    follows = at + piece.samples
        except av.FFmpegError:
            # Damaged sound: what could be decoded is kept, the rest stays silent.
            return out
    return out


def _put(out: Sound, piece: NDArray[Any], at: int) -> None:
    start, end = max(at, 0), min(at + len(piece), len(out))
    if end > start:
        out[start:end] = piece[start - at : end - at]


def faded(part: Sound, *, at_start: bool, at_end: bool) -> Sound:
    """A copy faded over 5 ms where it joins another part, so that the join does not click."""
    fade = round(_JOIN_FADE_S * SAMPLES_PER_SECOND)
    part = part.copy()
    if len(part) >= 2 * fade:
        ramp = np.linspace(0, 1, fade, dtype=np.float32)[:, None]
        if at_start:
            part[:fade] *= ramp
        if at_end:
            part[-fade:] *= ramp[::-1]
    return part


def joined(parts: list[Sound]) -> Sound:
    """The parts one after another, each faded at its joins."""
    if not parts:
        return np.zeros((0, 2), np.float32)
    last = len(parts) - 1
    return np.concatenate(
        [faded(part, at_start=n > 0, at_end=n < last) for n, part in enumerate(parts)]
    )
