"""A small copy of a picture, by averages over boxes.

Pictures are float32 (H, W) or (H, W, 3), in any encoding.
"""

from typing import Any

import cv2
import numpy as np

from idle_shimmer.core.compute.jit import copy, kernel
from idle_shimmer.core.compute.parallel import parallel_rows
from idle_shimmer.core.compute.special_paths import is_on
from idle_shimmer.core.picture.encoding import Pixels

# Up to so many pixels across, three sums for each place, two of them unused, are fastest.
_FEW = 3


def box_resample(pixels: Pixels, small_w: int, small_h: int) -> Pixels:
    """Return ``small_w`` averages across and ``small_h`` down, each of an equal area; float32."""
    height, width = pixels.shape[:2]
    if width % small_w or height % small_h or not is_on("box_resample"):
        return cv2.resize(pixels, (small_w, small_h), interpolation=cv2.INTER_AREA)
    flat = np.ascontiguousarray(pixels).reshape(height, -1)
    channels = flat.shape[1] // width
    out = np.empty((small_h, small_w * channels), np.float32)
    box = height // small_h, width // small_w
    parallel_rows(_average_rows, small_h, flat, box, channels, out, min_rows=max(1, 32 // box[0]))
    return out.reshape(small_h, small_w, *pixels.shape[2:])


@kernel
def _average_rows(pixels: Any, box: Any, channels: int, out: Any, first: int, end: int) -> None:
    """Average boxes of (down, across) pixels: whole rows are summed first."""
    down, across = box
    line, sums = np.empty(pixels.shape[1], np.float32), np.empty(pixels.shape[1], np.float32)
    share = np.float32(1 / (down * across))
    for i in range(first, end):
        _weight(pixels[i * down], share, line)
        for k in range(1, down):
            _add_weighted(pixels[i * down + k], share, line)
        if across == 1:
            copy(line, out[i])
        elif channels == 3 and across <= _FEW:
            _sum_few(line, across, sums, out[i])
        else:
            _sum_many(line, across, channels, out[i])


@kernel
def _weight(row: Any, weight: Any, total: Any) -> None:
    for n in range(total.shape[0]):
        total[n] = weight * row[n]


@kernel
def _add_weighted(row: Any, weight: Any, total: Any) -> None:
    for n in range(total.shape[0]):
        total[n] += weight * row[n]


@kernel
def _sum_few(line: Any, across: int, sums: Any, out: Any) -> None:
    """Sum RGB pixels by two or three: from every place, which vectorises, and picked from that."""
    kept = line.shape[0] - 3 * (across - 1)
    one, two = line[:kept], line[3:]
    if across == 2:
        for n in range(kept):
            sums[n] = one[n] + two[n]
    else:
        three = line[6:]
        for n in range(kept):
            sums[n] = one[n] + two[n] + three[n]
    count = out.shape[0] // 3
    for j in range(count):
        for c in range(3):
            out[3 * j + c] = sums[3 * across * j + c]


@kernel
def _sum_many(line: Any, across: int, channels: int, out: Any) -> None:
    for j in range(out.shape[0] // channels):
        for c in range(channels):
            total = np.float32(0)
            for n in range(across):
                total += line[(j * across + n) * channels + c]
            out[j * channels + c] = total
