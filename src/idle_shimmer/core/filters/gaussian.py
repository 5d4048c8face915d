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
from idle_shimmer.core.kernel import kernel
from idle_shimmer.core.picture import Pixels

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
            row = pixels[i * down + k]
            for n in range(line.shape[0]):
                line[n] += row[n]
        for j in range(out.shape[1] // channels):
            for c in range(channels):
                total = np.float32(0)
                for n in range(across):
                    total += line[(j * across + n) * channels + c]
                out[i, j * channels + c] = total * share


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
    """Down, then across, both ways from the middle at once."""
    height, length, reach = pixels.shape[0], pixels.shape[1], across.shape[0] - 1
    room = reach * channels
    wide = np.empty(length + 2 * room, np.float32)
    middle = wide[room : room + length]
    for i in range(first, end):
        row, blurred = pixels[i], out[i]
        for n in range(length):
            middle[n] = down[0] * row[n]
        for k in range(1, down.shape[0]):
            above = pixels[fold_index(i - k, height, MIRROR)]
            below = pixels[fold_index(i + k, height, MIRROR)]
            for n in range(length):
                middle[n] += down[k] * (above[n] + below[n])
        mirror_ends(wide, reach, channels)
        for n in range(length):
            blurred[n] = across[0] * middle[n]
        for k in range(1, reach + 1):
            one, other = wide[room - k * channels :], wide[room + k * channels :]
            for n in range(length):
                blurred[n] += across[k] * (one[n] + other[n])


def _taps(sigma: float) -> Pixels:
    """The taps from the middle one outwards."""
    if sigma == 0:
        return np.ones(1, np.float32)
    at = np.arange(int(_TRUNCATE * sigma + 0.5) + 1)
    taps = np.exp(-0.5 * (at / sigma) ** 2)
    return (taps / (taps[0] + 2 * taps[1:].sum())).astype(np.float32)
