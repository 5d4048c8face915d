"""Gaussian blur whose cost does not grow with its radius.

Pictures are float32 (H, W) or (H, W, 3), in any encoding, without clamping; beyond the frame lies the
mirrored picture (half-sample symmetric).

Small sigmas are convolved directly, truncated at 4 sigma. Large ones are computed on an
area-averaged copy, which is enlarged by linear interpolation. What those two steps blur by
themselves is subtracted: an average over w pixels (w² - 1) / 12, the variance of a discrete uniform
distribution, and linear interpolation between samples w apart w² / 6, that of a triangular one.
"""

import math
from functools import lru_cache
from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.compute.parallel import parallel_rows
from idle_shimmer.core.compute.simd import BLOCK, mix_pixels, sum_taps
from idle_shimmer.core.geometry.edge_modes import MIRROR, fold_index, mirror_ends
from idle_shimmer.core.kernels.box_resample import box_resample
from idle_shimmer.core.picture.encoding import Pixels

# At this sigma on the small copy, what the linear interpolation loses is below 8-bit rounding.
SMALL_COPY_SIGMA = 1.5
_TRUNCATE = 4.0


class _RowMemory(NamedTuple):
    """A row with room at its ends, and how far its taps lie: left and right, up and down."""

    wide: Any
    left: Any
    right: Any
    up: Any
    below: Any


class _Enlarging(NamedTuple):
    """For each output pixel of an axis the small one before it, and the fraction towards the next."""

    before: Any
    fraction: Any


def gaussian(
    pixels: Pixels, *, sigma_x: float, sigma_y: float, onto: Pixels | None = None
) -> Pixels:
    """Return the picture blurred with standard deviations in pixels, at least 0; a new array.

    With ``onto`` it is added to that array, which is returned.
    """
    height, width = pixels.shape[:2]
    small_w, left_x = _small_copy(width, sigma_x)
    small_h, left_y = _small_copy(height, sigma_y)
    taps = _taps(left_x), _taps(left_y)
    if (small_w, small_h) == (width, height):
        flat = np.ascontiguousarray(pixels).reshape(height, -1)
        direct = np.empty_like(flat)
        channels = flat.shape[1] // width
        parallel_rows(_convolve_rows, height, flat, taps, channels, direct, min_rows=16)
        blurred = direct.reshape(pixels.shape)
        return blurred if onto is None else cv2.add(onto, blurred, dst=onto)
    small = np.ascontiguousarray(box_resample(pixels, small_w, small_h)).reshape(small_h, -1)
    channels = small.shape[1] // small_w
    enlarging = _enlarging(small_w, width), _enlarging(small_h, height)
    out = np.empty(pixels.shape, np.float32) if onto is None else onto
    flat = out.reshape(height, -1)
    parallel_rows(_enlarge_rows, height, small, taps, enlarging, (channels, onto is not None), flat)
    return out


def _small_copy(size: int, sigma: float) -> tuple[int, float]:
    """Return (pixels of the small copy, sigma that is left to blur on it) for one axis."""
    most = sigma / SMALL_COPY_SIGMA
    if most < 2:
        return size, sigma
    # Averaging whole pixels is fastest: a divisor of the size, where one is not much too small.
    whole = next((n for n in range(math.floor(most), 1, -1) if size % n == 0), 1)
    small = size // whole if 2 * whole > most else max(1, math.ceil(size / most))
    factor = size / small
    left = sigma**2 - (factor**2 - 1) / 12 - factor**2 / 6
    return small, math.sqrt(max(left, 0.0)) / factor


@kernel
def _convolve_rows(pixels: Any, taps: Any, channels: int, out: Any, first: int, end: int) -> None:
    memory = _row_memory(pixels.shape[1], taps, channels)
    for i in range(first, end):
        _convolve_row(pixels, taps, memory, i, out[i])


@kernel
def _row_memory(length: int, taps: Any, channels: int) -> Any:
    across, down = taps
    right = channels * np.arange(across.shape[0])
    wide = np.empty(length + 2 * right[-1], np.float32)
    up, below = np.empty(down.shape[0], np.int64), np.empty(down.shape[0], np.int64)
    return _RowMemory(wide, -right, right, up, below)


@kernel
def _convolve_row(pixels: Any, taps: Any, memory: Any, i: int, out: Any) -> None:
    """Convolve down, then across."""
    across, down = taps
    up, below = memory.up, memory.below
    wide = memory.wide
    height, length = pixels.shape
    for k in range(down.shape[0]):
        up[k] = (fold_index(i - k, height, MIRROR) - i) * length
        below[k] = (fold_index(i + k, height, MIRROR) - i) * length
    room = memory.right[-1]
    _convolve(pixels.reshape(-1), i * length, (up, below, down), wide[room : room + length])
    reach = across.shape[0] - 1
    if reach > 0:
        mirror_ends(wide, reach, room // reach)
    _convolve(wide, room, (memory.left, memory.right, across), out)


@kernel
def _convolve(source: Any, start: int, taps: Any, out: Any) -> None:
    """Convolve around ``source[start]`` and so on, as many values as ``out`` has room for.

    ``taps`` are (before, after, weights), as for ``sum_taps``.
    """
    before, after, weights = taps
    length = out.shape[0]
    if length < BLOCK:
        for n in range(length):
            total = weights[0] * source[start + n]
            for k in range(1, weights.shape[0]):
                pair = source[start + n + before[k]] + source[start + n + after[k]]
                total += weights[k] * pair
            out[n] = total
        return
    for n in range(0, length - BLOCK + 1, BLOCK):
        sum_taps(source, start + n, taps, out, n)
    if length % BLOCK > 0:
        # What is left, and some of the block before once more.
        last = length - BLOCK
        sum_taps(source, start + last, taps, out, last)


@lru_cache(maxsize=64)
def _taps(sigma: float) -> Pixels:
    """Return the weights from the middle one outwards."""
    if sigma == 0:
        return np.ones(1, np.float32)
    at = np.arange(int(_TRUNCATE * sigma + 0.5) + 1)
    taps = np.exp(-0.5 * (at / sigma) ** 2)
    return (taps / (taps[0] + 2 * taps[1:].sum())).astype(np.float32)


@lru_cache(maxsize=64)
def _enlarging(small: int, size: int) -> _Enlarging:
    at = np.clip((np.arange(size) + 0.5) * small / size - 0.5, 0, small - 1)
    before: NDArray[np.int64] = np.minimum(at.astype(np.int64), max(small - 2, 0))
    return _Enlarging(before, (at - before).astype(np.float32))


@kernel
def _enlarge_rows(
    small: Any, taps: Any, enlarging: Any, how: Any, out: Any, first: int, end: int
) -> None:
    """Convolve each small row once, and enlarge by linear interpolation; ``how`` is (channels, is added)."""
    channels, is_added = how
    columns, rows = enlarging
    length = small.shape[1]
    memory = _row_memory(length, taps, channels)
    # Beyond the last pixel lies itself, for frames one pixel wide, and what a vector reads past it.
    line = np.zeros(length + 2 * channels + 1, np.float32)
    lines = np.empty((2, out.shape[1]), np.float32)
    ready = rows.before[first]
    for i in range(first, end):
        k = rows.before[i]
        below = min(k + 1, small.shape[0] - 1)
        while ready <= below:
            _convolve_row(small, taps, memory, ready, line[:length])
            _enlarge_row(line, columns, channels, lines[ready % 2])
            ready += 1
        if is_added:
            _add_interpolated(lines[k % 2], lines[below % 2], rows.fraction[i], out[i])
        else:
            _interpolate(lines[k % 2], lines[below % 2], rows.fraction[i], out[i])


@kernel
def _enlarge_row(line: Any, columns: Any, channels: int, out: Any) -> None:
    before, fraction = columns.before, columns.fraction
    count, done = before.shape[0], 0
    if channels == 3:
        done = count - 1
        for j in range(done):
            mix_pixels(line, 3 * before[j], np.float32(1) - fraction[j], fraction[j], out, 3 * j)
    for j in range(done, count):
        n = before[j] * channels
        for c in range(channels):
            one, two = line[n + c], line[n + channels + c]
            out[j * channels + c] = one + fraction[j] * (two - one)


@kernel
def _interpolate(above: Any, below: Any, fraction: Any, out: Any) -> None:
    for n in range(out.shape[0]):
        out[n] = above[n] + fraction * (below[n] - above[n])


@kernel
def _add_interpolated(above: Any, below: Any, fraction: Any, out: Any) -> None:
    for n in range(out.shape[0]):
        out[n] += above[n] + fraction * (below[n] - above[n])
