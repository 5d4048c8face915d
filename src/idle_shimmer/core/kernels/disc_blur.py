"""The average over a disc: the blur of a lens that is out of focus.

Pictures are float32 (H, W, C), in any encoding, without clamping; beyond the frame lies the mirrored
picture (half-sample symmetric). The disc's edge is soft over one pixel. Large discs are averaged on
an area-averaged copy, so that the cost does not grow with the radius. Each row of the disc is a
difference of two running sums.
"""

import math
from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import inlined, kernel
from idle_shimmer.core.compute.parallel import parallel_rows
from idle_shimmer.core.geometry.edge_modes import MIRROR, fold_index
from idle_shimmer.core.picture.encoding import Pixels

# Highlights that reach white were clipped: their discs get back part of what was lost.
CLIPPED_FROM, CLIPPED_GAIN = 0.85, 6.0
_MAX_RADIUS_ON_COPY_PX = 14.0
_MIN_RADIUS_PX = 0.75


class _Disc(NamedTuple):
    """Half widths by row from the middle down, one over the area, and room beside each row."""

    spans: Any
    share: Any
    margin: int


def disc_blur(pixels: Pixels, *, radius_px: float) -> Pixels:
    """Return the average over a disc of ``radius_px`` (at least 0) around each pixel; a new array."""
    height, width = pixels.shape[:2]
    if radius_px < _MIN_RADIUS_PX:
        # A smaller disc lies within its pixel: it fades in from the picture itself.
        share = radius_px / _MIN_RADIUS_PX
        return cv2.addWeighted(pixels, 1 - share, _average(pixels, _MIN_RADIUS_PX), share, 0)
    factor = max(1.0, radius_px / _MAX_RADIUS_ON_COPY_PX)
    if factor == 1:
        return _average(pixels, radius_px)
    size = max(2, round(width / factor)), max(2, round(height / factor))
    small = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    blurred = _average(small, radius_px * size[1] / height)
    return cv2.resize(blurred, (width, height), interpolation=cv2.INTER_CUBIC)


def lens_blur(pixels: Pixels, *, radius_px: float) -> Pixels:
    """Return ``disc_blur`` with more weight on clipped highlights, so that their discs stay bright.

    A weighted average: a constant picture stays constant, and one without clipped highlights is
    blurred as by ``disc_blur``. The weight (common practice, no published source) rises smoothly
    from 1 at CLIPPED_FROM to 1 + CLIPPED_GAIN at white, by the brightest channel.
    """
    height, width = pixels.shape[:2]
    # The weights are averaged along with the picture, as a fourth channel.
    weighted = np.empty((height, width, 4), np.float32)
    parallel_rows(_weigh_rows, height, np.ascontiguousarray(pixels), weighted)
    out = np.empty_like(pixels)
    parallel_rows(_divide_rows, height, disc_blur(weighted, radius_px=radius_px), out)
    return out


@kernel
def _weigh_rows(pixels: Any, out: Any, first: int, end: int) -> None:
    start, width = np.float32(CLIPPED_FROM), np.float32(1 / (1 - CLIPPED_FROM))
    gain, one, three = np.float32(CLIPPED_GAIN), np.float32(1), np.float32(3)
    for i in range(first, end):
        for j in range(pixels.shape[1]):
            brightest = max(pixels[i, j, 0], pixels[i, j, 1], pixels[i, j, 2])
            near = min(max((brightest - start) * width, np.float32(0)), one)
            weight = one + gain * near * near * (three - near - near)
            for c in range(3):
                out[i, j, c] = pixels[i, j, c] * weight
            out[i, j, 3] = weight


@kernel
def _divide_rows(weighted: Any, out: Any, first: int, end: int) -> None:
    for i in range(first, end):
        for j in range(out.shape[1]):
            share = np.float32(1) / max(weighted[i, j, 3], np.float32(1))
            for c in range(3):
                out[i, j, c] = weighted[i, j, c] * share


def _spans(radius: float) -> NDArray[np.float64]:
    """Return half the disc's width, in pixels, on each row from its middle down."""
    reach = math.ceil(radius - 0.5)
    rows = np.arange(reach + 1, dtype=np.float64)
    # The mean over the pixel's height of the circle's half width, numerically.
    fine = rows[:, None] + (np.arange(16) + 0.5) / 16 - 0.5
    return np.sqrt(np.maximum(radius**2 - fine**2, 0)).mean(axis=1)


def _average(pixels: Pixels, radius: float) -> Pixels:
    spans = _spans(radius)
    area = float((2 * spans).sum() * 2 - 2 * spans[0])
    height, _, channels = pixels.shape
    margin = math.ceil(radius) + 2
    out = np.empty_like(pixels)
    flat, flat_out = np.ascontiguousarray(pixels).reshape(height, -1), out.reshape(height, -1)
    disc = _Disc(spans, np.float32(1 / area), margin)
    parallel_rows(_disc_rows, height, flat, channels, disc, flat_out)
    return out


@inlined
def _running_sums(row: Any, channels: int, margin: int, sums: Any) -> None:
    """Write sums of a row up to each pixel, mirrored at its ends; they begin ``margin`` before it."""
    width, count = row.shape[0] // channels, sums.shape[0] // channels
    for c in range(channels):
        sums[c] = np.float32(0)
    for k in range(count - 1):
        at, to = fold_index(k - margin, width, MIRROR) * channels, k * channels
        for c in range(channels):
            sums[to + channels + c] = sums[to + c] + row[at + c]


@kernel
def _disc_rows(pixels: Any, channels: int, disc: Any, out: Any, first: int, end: int) -> None:
    spans, margin = disc.spans, disc.margin
    height, length = pixels.shape[0], pixels.shape[1]
    reach = spans.shape[0] - 1
    kept = 2 * reach + 1
    # Single precision: what a sum over one row loses is far below a code of the disc's mean.
    ring = np.empty((kept, length + (2 * margin + 1) * channels), np.float32)
    total = np.empty(length, np.float32)
    for row in range(first - reach, first + reach):
        folded = pixels[fold_index(row, height, MIRROR)]
        _running_sums(folded, channels, margin, ring[row % kept])
    for i in range(first, end):
        newest = i + reach
        folded = pixels[fold_index(newest, height, MIRROR)]
        _running_sums(folded, channels, margin, ring[newest % kept])
        total[:] = 0
        for d in range(-reach, reach + 1):
            sums = ring[(i + d) % kept]
            half = spans[abs(d)]
            low, high = 0.5 - half, half + 0.5
            a, b = int(math.floor(low)), int(math.floor(high))
            fa, fb = np.float32(low - a), np.float32(high - b)
            start, stop = (margin + a) * channels, (margin + b) * channels
            lower, lower_next = sums[start : start + length], sums[start + channels :]
            upper, upper_next = sums[stop : stop + length], sums[stop + channels :]
            for q in range(length):
                above = upper[q] + fb * (upper_next[q] - upper[q])
                total[q] += above - lower[q] - fa * (lower_next[q] - lower[q])
        for q in range(length):
            out[i, q] = total[q] * disc.share
