"""Gaussian blur whose cost does not grow with its radius.

Conventions: float32 (H, W) or (H, W, 3), any light, no clamping; beyond the frame lies its
half-sample mirror.

Small sigmas are convolved directly, truncated at 4 sigma. Large ones are computed on an
area-averaged copy, and brought back by linear interpolation. What those two steps spread by
themselves is subtracted: an average over w pixels (w² - 1) / 12, the variance of a discrete uniform
distribution, and linear interpolation between samples w apart w² / 6, that of a triangular one.
"""

import math
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.bands import over_rows
from idle_shimmer.core.filters.averages import averaged
from idle_shimmer.core.geometry.edges import MIRROR, fold_index, mirror_ends
from idle_shimmer.core.kernel import kernel
from idle_shimmer.core.picture import Pixels
from idle_shimmer.core.vectors import BLOCK, uncounted, weigh_four, weigh_pairs

# At this sigma on the small copy, what the linear interpolation loses is below 8-bit rounding.
SMALL_COPY_SIGMA = 1.5
_TRUNCATE = 4.0


def gaussian(pixels: Pixels, *, sigma_x: float, sigma_y: float) -> Pixels:
    """Blurred with standard deviations in pixels, each at least 0; a new array."""
    height, width = pixels.shape[:2]
    small_w, left_x = _small_copy(width, sigma_x)
    small_h, left_y = _small_copy(height, sigma_y)
    if (small_w, small_h) == (width, height):
        return _direct(pixels, sigma_x, sigma_y)
    small = np.ascontiguousarray(averaged(pixels, small_w, small_h)).reshape(small_h, -1)
    channels = small.shape[1] // small_w
    taps = _taps(left_x), _taps(left_y)
    ways = _between(small_w, width), _between(small_h, height)
    out = np.empty((height, width * channels), np.float32)
    over_rows(_enlarged_rows, height, small, *taps, channels, *ways[0], *ways[1], out)
    return out.reshape(pixels.shape)


def _small_copy(size: int, sigma: float) -> tuple[int, float]:
    """(pixels of the small copy, sigma left to do on it) for one axis."""
    most = sigma / SMALL_COPY_SIGMA
    if most < 2:
        return size, sigma
    # Averaging whole pixels is quickest: a divisor of the size, where one is not much too small.
    whole = next((n for n in range(math.floor(most), 1, -1) if size % n == 0), 1)
    small = size // whole if 2 * whole > most else max(1, math.ceil(size / most))
    factor = size / small
    left = sigma**2 - (factor**2 - 1) / 12 - factor**2 / 6
    return small, math.sqrt(max(left, 0.0)) / factor


def _direct(pixels: Pixels, sigma_x: float, sigma_y: float) -> Pixels:
    height, width = pixels.shape[:2]
    flat = np.ascontiguousarray(pixels).reshape(height, -1)
    out, taps = np.empty_like(flat), (_taps(sigma_x), _taps(sigma_y))
    over_rows(_convolved_rows, height, flat, *taps, flat.shape[1] // width, out, fewest=16)
    return out.reshape(pixels.shape)


@kernel
def _convolved_rows(
    pixels: Any, across: Any, down: Any, channels: int, out: Any, first: int, end: int
) -> None:
    wide, ways = _room_for_a_row(pixels.shape[1], across, down, channels)
    for i in range(first, end):
        _convolved_row(pixels, across, down, wide, ways, i, out[i])


@kernel
def _room_for_a_row(length: int, across: Any, down: Any, channels: int) -> Any:
    """Room for a row with its ends, and how far to its taps: left and right, up and down."""
    to_right = channels * np.arange(across.shape[0])
    wide = np.empty(length + 2 * to_right[-1], np.float32)
    up, below = np.empty(down.shape[0], np.int64), np.empty(down.shape[0], np.int64)
    return wide, (-to_right, to_right, up, below)


@kernel
def _convolved_row(
    pixels: Any, across: Any, down: Any, wide: Any, ways: Any, i: int, out: Any
) -> None:
    """Down, then across."""
    pixels, wide, out = uncounted(pixels), uncounted(wide), uncounted(out)
    to_left, to_right, up, below = ways
    height, length = pixels.shape
    for k in range(down.shape[0]):
        up[k] = (fold_index(i - k, height, MIRROR) - i) * length
        below[k] = (fold_index(i + k, height, MIRROR) - i) * length
    room = to_right[-1]
    _convolve(pixels.reshape(-1), i * length, up, below, down, wide[room : room + length])
    reach = across.shape[0] - 1
    if reach > 0:
        mirror_ends(wide, reach, room // reach)
    _convolve(wide, room, to_left, to_right, across, out)


@kernel
def _convolve(source: Any, start: int, before: Any, after: Any, taps: Any, out: Any) -> None:
    """``taps`` on both sides of ``source[start]`` and so on, as many as ``out`` has room for."""
    length = out.shape[0]
    if length < BLOCK:
        for n in range(length):
            total = taps[0] * source[start + n]
            for k in range(1, taps.shape[0]):
                total += taps[k] * (source[start + n + before[k]] + source[start + n + after[k]])
            out[n] = total
        return
    for n in range(0, length - BLOCK + 1, BLOCK):
        weigh_pairs(source, start + n, before, after, taps, out, n)
    if length % BLOCK > 0:
        # What is left, and some of the block before once more.
        last = length - BLOCK
        weigh_pairs(source, start + last, before, after, taps, out, last)


@lru_cache(maxsize=64)
def _taps(sigma: float) -> Pixels:
    """The taps from the middle one outwards."""
    if sigma == 0:
        return np.ones(1, np.float32)
    at = np.arange(int(_TRUNCATE * sigma + 0.5) + 1)
    taps = np.exp(-0.5 * (at / sigma) ** 2)
    return (taps / (taps[0] + 2 * taps[1:].sum())).astype(np.float32)


@lru_cache(maxsize=64)
def _between(small: int, size: int) -> tuple[NDArray[np.int64], Pixels]:
    """For each of ``size`` pixels the one of ``small`` before it, and how far it is to the next."""
    at = np.clip((np.arange(size) + 0.5) * small / size - 0.5, 0, small - 1)
    before = np.minimum(at.astype(np.int64), max(small - 2, 0))
    return before, (at - before).astype(np.float32)


@kernel
def _enlarged_rows(
    small: Any,
    across: Any,
    down: Any,
    channels: int,
    columns: Any,
    columns_past: Any,
    rows: Any,
    rows_past: Any,
    out: Any,
    first: int,
    end: int,
) -> None:
    """Convolved, and brought to full size by linear interpolation, each small row once."""
    out, length = uncounted(out), small.shape[1]
    wide, ways = _room_for_a_row(length, across, down, channels)
    # Beyond the last pixel lies itself, for frames one pixel wide, and what a vector reads past it.
    line = np.zeros(length + 2 * channels + 1, np.float32)
    lines = np.empty((2, out.shape[1]), np.float32)
    ready = rows[first]
    for i in range(first, end):
        k = rows[i]
        below = min(k + 1, small.shape[0] - 1)
        while ready <= below:
            _convolved_row(small, across, down, wide, ways, ready, line[:length])
            _widened(line, columns, columns_past, channels, lines[ready % 2])
            ready += 1
        _between_rows(lines[k % 2], lines[below % 2], rows_past[i], out[i])


@kernel
def _widened(line: Any, before: Any, past: Any, channels: int, out: Any) -> None:
    count, plain = before.shape[0], 0
    if channels == 3:
        plain = count - 1
        for j in range(plain):
            weigh_four(line, 3 * before[j], np.float32(1) - past[j], past[j], out, 3 * j)
    for j in range(plain, count):
        n = before[j] * channels
        for c in range(channels):
            one, two = line[n + c], line[n + channels + c]
            out[j * channels + c] = one + past[j] * (two - one)


@kernel
def _between_rows(above: Any, below: Any, past: Any, out: Any) -> None:
    for n in range(out.shape[0]):
        out[n] = above[n] + past * (below[n] - above[n])
