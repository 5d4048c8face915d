"""The average over a disc: the blur of a lens that is out of focus.

Conventions: float32 (H, W, 3), any light, no clamping; beyond the frame lies its half-sample
mirror. The disc's edge is soft over one pixel. Large discs are averaged on an area-averaged copy, so
that the cost does not grow with the radius. Each row of the disc is a difference of two running
sums.
"""

import math
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.bands import over_rows
from idle_shimmer.core.geometry.edges import MIRROR, fold_index
from idle_shimmer.core.kernel import kernel
from idle_shimmer.core.picture import Pixels

# Light that reaches white is clipped: the disc that it makes is given back part of what was lost.
CLIPPED_FROM, CLIPPED_GAIN = 0.85, 6.0
_WIDEST_ON_COPY_PX = 14.0
_SMALLEST_PX = 0.75


def disc(pixels: Pixels, *, radius_px: float) -> Pixels:
    """The average over a disc of ``radius_px`` (at least 0) around each pixel; a new array."""
    height, width = pixels.shape[:2]
    if radius_px < _SMALLEST_PX:
        # A smaller disc lies within its pixel: it fades out of the picture itself.
        share = radius_px / _SMALLEST_PX
        return cv2.addWeighted(pixels, 1 - share, _whole(pixels, _SMALLEST_PX), share, 0)
    factor = max(1.0, radius_px / _WIDEST_ON_COPY_PX)
    if factor == 1:
        return _whole(pixels, radius_px)
    size = max(2, round(width / factor)), max(2, round(height / factor))
    small = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    blurred = _whole(small, radius_px * size[1] / height)
    return cv2.resize(blurred, (width, height), interpolation=cv2.INTER_CUBIC)


def lens_disc(pixels: Pixels, *, radius_px: float) -> Pixels:
    """``disc`` in which clipped highlights weigh more, so that their discs stay bright.

    A weighted average: a constant picture stays constant, and one without clipped light is treated
    as by ``disc``. The weight (common practice, no published source) rises smoothly from 1 at
    CLIPPED_FROM to 1 + CLIPPED_GAIN at white, by the brightest channel.
    """
    brightest = pixels.max(axis=2)
    near = np.clip((brightest - CLIPPED_FROM) / (1 - CLIPPED_FROM), 0, 1)
    if not near.any():
        return disc(pixels, radius_px=radius_px)
    weights = (1 + CLIPPED_GAIN * near * near * (3 - 2 * near)).astype(np.float32)[..., None]
    total = disc(pixels * weights, radius_px=radius_px)
    share = disc(np.repeat(weights, 3, axis=2), radius_px=radius_px)
    return (total / np.maximum(share, np.float32(1))).astype(np.float32)


def _spans(radius: float) -> NDArray[np.float64]:
    """Half the disc's width, in pixels, on each row from its middle down."""
    reach = math.ceil(radius - 0.5)
    rows = np.arange(reach + 1, dtype=np.float64)
    # The mean over the pixel's height of the circle's half width, by a fine sum.
    fine = rows[:, None] + (np.arange(16) + 0.5) / 16 - 0.5
    return np.sqrt(np.maximum(radius**2 - fine**2, 0)).mean(axis=1)


def _whole(pixels: Pixels, radius: float) -> Pixels:
    spans = _spans(radius)
    area = float((2 * spans).sum() * 2 - 2 * spans[0])
    height, width = pixels.shape[:2]
    margin = math.ceil(radius) + 2
    out = np.empty_like(pixels)
    flat = np.ascontiguousarray(pixels).reshape(height, width, 3)
    over_rows(_disc_rows, height, flat, spans, 1 / area, margin, out)
    return out


@kernel
def _running_sums(row: Any, margin: int, sums: Any) -> None:
    """Sums of a row, mirrored at its ends, up to each pixel; sums[k] is up to pixel k - margin."""
    width = row.shape[0]
    red = green = blue = 0.0
    for k in range(sums.shape[0]):
        sums[k, 0], sums[k, 1], sums[k, 2] = red, green, blue
        at = fold_index(k - margin, width, MIRROR)
        red += row[at, 0]
        green += row[at, 1]
        blue += row[at, 2]


@kernel
def _disc_rows(
    pixels: Any, spans: Any, share: float, margin: int, out: Any, first: int, end: int
) -> None:
    height, width = pixels.shape[0], pixels.shape[1]
    reach = spans.shape[0] - 1
    kept = 2 * reach + 1
    ring = np.empty((kept, width + 2 * margin + 1, 3))
    total = np.empty((width, 3))
    for row in range(first - reach, first + reach):
        _running_sums(pixels[fold_index(row, height, MIRROR)], margin, ring[row % kept])
    for i in range(first, end):
        newest = i + reach
        _running_sums(pixels[fold_index(newest, height, MIRROR)], margin, ring[newest % kept])
        total[:] = 0
        for d in range(-reach, reach + 1):
            sums = ring[(i + d) % kept]
            half = spans[abs(d)]
            low, high = -half + 0.5, half + 0.5
            a, b = int(math.floor(low)), int(math.floor(high))
            fa, fb = low - a, high - b
            one, two = (
                sums[margin + a : margin + a + width + 1],
                sums[margin + b : margin + b + width + 1],
            )
            for j in range(width):
                for c in range(3):
                    upper = two[j, c] + fb * (two[j + 1, c] - two[j, c])
                    lower = one[j, c] + fa * (one[j + 1, c] - one[j, c])
                    total[j, c] += upper - lower
        for j in range(width):
            for c in range(3):
                out[i, j, c] = np.float32(total[j, c] * share)
