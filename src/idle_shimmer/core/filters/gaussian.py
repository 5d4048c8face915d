"""Gaussian blur whose cost does not grow with its radius.

Conventions: float32 (H, W) or (H, W, 3), any light, no clamping; beyond the frame lies its
half-sample mirror.

Small sigmas are convolved directly, truncated at 4 sigma. Large ones are computed on an
area-averaged copy, and brought back by linear interpolation. What those two steps spread by
themselves is subtracted: an average over w pixels (w² - 1) / 12, the variance of a discrete uniform
distribution, and linear interpolation between samples w apart w² / 6, that of a triangular one.
"""

import math
from typing import Any

import cv2
import numpy as np

from idle_shimmer.core.bands import over_rows
from idle_shimmer.core.geometry.edges import MIRROR, fold_index, mirror_ends
from idle_shimmer.core.kernel import kernel, move_four
from idle_shimmer.core.picture import Pixels

# At this sigma on the small copy, what the linear interpolation loses is below 8-bit rounding.
SMALL_COPY_SIGMA = 1.5
_TRUNCATE = 4.0
# So many pixels across are averaged quickest with three sums of each, two of which are not used.
_FEW = 3


def gaussian(pixels: Pixels, *, sigma_x: float, sigma_y: float) -> Pixels:
    """Blurred with standard deviations in pixels, each at least 0; a new array."""
    height, width = pixels.shape[:2]
    small_w, left_x = _small_copy(width, sigma_x)
    small_h, left_y = _small_copy(height, sigma_y)
    if (small_w, small_h) == (width, height):
        return _direct(pixels, sigma_x, sigma_y)
    small = _averaged(pixels, small_w, small_h)
    blurred = _direct(small, left_x, left_y)
    return cv2.resize(blurred, (width, height), interpolation=cv2.INTER_LINEAR)


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


def _averaged(pixels: Pixels, small_w: int, small_h: int) -> Pixels:
    """Area averages, as many as told across and down."""
    height, width = pixels.shape[:2]
    if width % small_w or height % small_h:
        return cv2.resize(pixels, (small_w, small_h), interpolation=cv2.INTER_AREA)
    flat = np.ascontiguousarray(pixels).reshape(height, -1)
    channels = flat.shape[1] // width
    out = np.empty((small_h, small_w * channels), np.float32)
    down, across = height // small_h, width // small_w
    fewest = max(1, 32 // down)
    over_rows(_averaged_rows, small_h, flat, down, across, channels, out, fewest=fewest)
    return out.reshape(small_h, small_w, *pixels.shape[2:])


@kernel
def _averaged_rows(
    pixels: Any, down: int, across: int, channels: int, out: Any, first: int, end: int
) -> None:
    """Averages of ``down`` by ``across`` pixels: whole rows are summed first."""
    line = np.empty(pixels.shape[1], np.float32)
    share = np.float32(1 / (down * across))
    for i in range(first, end):
        line[:] = 0
        for k in range(down):
            _add(pixels[i * down + k], line)
        if channels == 3 and across <= _FEW:
            _few_averaged(line, across, share, out[i])
        else:
            _many_averaged(line, across, channels, share, out[i])


@kernel
def _add(row: Any, line: Any) -> None:
    for n in range(line.shape[0]):
        line[n] += row[n]


@kernel
def _few_averaged(line: Any, across: int, share: Any, out: Any) -> None:
    """RGB pixels by two or three: summed from every place, as vectors are, and picked from that."""
    kept = line.shape[0] - 3 * (across - 1)
    if across == 2:
        one, two = line[:kept], line[3:]
        for n in range(kept):
            one[n] = (one[n] + two[n]) * share
    else:
        one, two, three = line[:kept], line[3 : 3 + kept], line[6:]
        for n in range(kept):
            one[n] = (one[n] + two[n] + three[n]) * share
    count = out.shape[0] // 3
    for j in range(count - 1):
        move_four(line, 3 * across * j, out, 3 * j)
    for c in range(3):
        out[3 * (count - 1) + c] = line[3 * across * (count - 1) + c]


@kernel
def _many_averaged(line: Any, across: int, channels: int, share: Any, out: Any) -> None:
    for j in range(out.shape[0] // channels):
        for c in range(channels):
            total = np.float32(0)
            for n in range(across):
                total += line[(j * across + n) * channels + c]
            out[j * channels + c] = total * share


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
    """Down, then across, both ways from the middle at once, two taps at a time."""
    height, length, reach = pixels.shape[0], pixels.shape[1], across.shape[0] - 1
    room = reach * channels
    wide = np.empty(length + 2 * room, np.float32)
    middle = wide[room : room + length]
    for i in range(first, end):
        _weighted(pixels[i], down[0], middle)
        for k in range(1, down.shape[0], 2):
            near = k if k + 1 == down.shape[0] else k + 1
            _add_pairs(
                pixels[fold_index(i - k, height, MIRROR)],
                pixels[fold_index(i + k, height, MIRROR)],
                down[k],
                pixels[fold_index(i - near, height, MIRROR)],
                pixels[fold_index(i + near, height, MIRROR)],
                down[near] if near > k else np.float32(0),
                middle,
            )
        mirror_ends(wide, reach, channels)
        blurred = out[i]
        _weighted(middle, across[0], blurred)
        for k in range(1, reach + 1, 2):
            near = k if k == reach else k + 1
            _add_pairs(
                wide[room - k * channels :],
                wide[room + k * channels :],
                across[k],
                wide[room - near * channels :],
                wide[room + near * channels :],
                across[near] if near > k else np.float32(0),
                blurred,
            )


@kernel
def _weighted(row: Any, weight: Any, total: Any) -> None:
    for n in range(total.shape[0]):
        total[n] = weight * row[n]


@kernel
def _add_pairs(
    before: Any, after: Any, weight: Any, further: Any, beyond: Any, next_weight: Any, total: Any
) -> None:
    for n in range(total.shape[0]):
        more = next_weight * (further[n] + beyond[n])
        total[n] += weight * (before[n] + after[n]) + more


def _taps(sigma: float) -> Pixels:
    """The taps from the middle one outwards."""
    if sigma == 0:
        return np.ones(1, np.float32)
    at = np.arange(int(_TRUNCATE * sigma + 0.5) + 1)
    taps = np.exp(-0.5 * (at / sigma) ** 2)
    return (taps / (taps[0] + 2 * taps[1:].sum())).astype(np.float32)
