"""Gaussian blur whose cost does not grow with its radius.

Conventions: float32 (H, W, C), any light, no clamping; beyond the frame lies its half-sample mirror.
Small sigmas are convolved directly, truncated at 4 sigma. Large ones are computed on an
area-averaged copy, and brought back by linear interpolation. What those two steps spread by
themselves is subtracted: an average over w pixels (w² - 1) / 12, the variance of a discrete uniform
distribution, and linear interpolation between samples w apart w² / 6, that of a triangular one.
"""

import math

import cv2
import numpy as np

from idle_shimmer.core.bands import over_rows
from idle_shimmer.core.picture import Pixels

# At this sigma on the small copy, what the linear interpolation loses is below 8-bit rounding.
SMALL_COPY_SIGMA = 2.0
_TRUNCATE = 4.0


def gaussian(pixels: Pixels, *, sigma_x: float, sigma_y: float) -> Pixels:
    """Blurred with standard deviations in pixels, each at least 0; a new array."""
    height, width = pixels.shape[:2]
    small_w, left_x = _small_copy(width, sigma_x)
    small_h, left_y = _small_copy(height, sigma_y)
    if (small_w, small_h) == (width, height):
        return _direct(pixels, sigma_x, sigma_y)
    small = cv2.resize(pixels, (small_w, small_h), interpolation=cv2.INTER_AREA)
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


def _direct(pixels: Pixels, sigma_x: float, sigma_y: float) -> Pixels:
    out = np.empty_like(pixels)
    over_rows(_convolved_rows, pixels.shape[0], pixels, _taps(sigma_x), _taps(sigma_y), out)
    return out


def _convolved_rows(
    pixels: Pixels, across: Pixels, down: Pixels, out: Pixels, first: int, end: int
) -> None:
    """Rows ``first`` … ``end``, from as many more around them as the taps reach."""
    reach = down.size // 2
    top, bottom = max(0, first - reach), min(pixels.shape[0], end + reach)
    near = pixels[top:bottom]
    done = cv2.sepFilter2D(near, cv2.CV_32F, across, down, borderType=cv2.BORDER_REFLECT)
    out[first:end] = done[first - top : end - top]


def _taps(sigma: float) -> Pixels:
    if sigma == 0:
        return np.ones(1, np.float32)
    reach = int(_TRUNCATE * sigma + 0.5)
    at = np.arange(-reach, reach + 1)
    taps = np.exp(-0.5 * (at / sigma) ** 2)
    return (taps / taps.sum()).astype(np.float32)
