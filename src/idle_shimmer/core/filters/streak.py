"""The average along a centred line, at any angle, at a cost that does not grow with its length.

Conventions: float32 (H, W, 3), any light, no clamping; beyond the frame lies its half-sample
mirror. Angles are degrees counter-clockwise as seen, 0 horizontal. The line is the continuous box
of full length L; between pixels the picture is interpolated linearly, as in an average of many
shifted copies.

Short lines are summed tap by tap. Long ones are running sums along parallel slanted lines one pixel
apart: one step along the line adds what enters and takes away what leaves, whatever the length.
"""

import math
from typing import Any

import cv2
import numpy as np

from idle_shimmer.core.bands import over_rows
from idle_shimmer.core.geometry.edges import MIRROR, fold_index, mirror_ends
from idle_shimmer.core.interpolation import cubic_weights
from idle_shimmer.core.kernel import copy, kernel
from idle_shimmer.core.picture import Pixels

LONGEST_BY_TAPS_PX = 6.0
_TAP_SUBSTEPS = 64
# At 45° rounding must not decide for the way that has to turn the picture.
_DIAGONAL_SLACK = 1e-9
# Slanted lines are followed in narrow bundles, so only where they cross the frame; level ones lose
# nothing by a bundle as wide as the first-level cache holds.
_TURNED_COLUMNS, _TURNED_ROWS = 16, 256
_SLANTED_LINES_AT_ONCE, _LEVEL_LINES_AT_ONCE = 128, 256


def streak(pixels: Pixels, *, length_px: float, angle_deg: float) -> Pixels:
    """The average over a line of ``length_px`` (at least 0) at ``angle_deg``; a new array."""
    run, rise = _direction(angle_deg)
    if length_px <= LONGEST_BY_TAPS_PX:
        return _by_taps(pixels, length_px * run, length_px * rise)
    if abs(rise) > abs(run) - _DIAGONAL_SLACK:
        return _by_lines(np.ascontiguousarray(pixels), length_px * abs(rise), run / rise)
    if rise == 0:
        return _along_rows(np.ascontiguousarray(pixels), length_px)
    turned = _transposed(np.ascontiguousarray(pixels))
    return _transposed(_by_lines(turned, length_px * abs(run), rise / run))


def _transposed(pixels: Pixels) -> Pixels:
    height, width = pixels.shape[:2]
    out = np.empty((width, height, 3), np.float32)
    over_rows(_transposed_rows, width, pixels, out)
    return out


@kernel
def _transposed_rows(pixels: Any, out: Any, first: int, end: int) -> None:
    # Parts small enough that the first-level cache holds what they read.
    for left in range(first, end, _TURNED_COLUMNS):
        right = min(left + _TURNED_COLUMNS, end)
        for top in range(0, pixels.shape[0], _TURNED_ROWS):
            bottom = min(top + _TURNED_ROWS, pixels.shape[0])
            for j in range(left, right):
                for i in range(top, bottom):
                    for c in range(3):
                        out[j, i, c] = pixels[i, j, c]


def _direction(angle_deg: float) -> tuple[float, float]:
    """(columns, rows) along the line per pixel of length, exact at the axes."""
    quarters = (angle_deg % 180.0) / 90
    if quarters in (0.0, 1.0):
        return (1.0, 0.0) if quarters == 0 else (0.0, 1.0)
    angle = math.radians(angle_deg)
    return math.cos(angle), -math.sin(angle)


def _by_taps(pixels: Pixels, run_px: float, rise_px: float) -> Pixels:
    """Convolution with the line drawn as bilinear taps: the exact average, for short lines."""
    reach_x, reach_y = math.ceil(abs(run_px) / 2) + 1, math.ceil(abs(rise_px) / 2) + 1
    taps = np.zeros((2 * reach_y + 1, 2 * reach_x + 1))
    for at in (np.arange(_TAP_SUBSTEPS) + 0.5) / _TAP_SUBSTEPS - 0.5:
        x, y = reach_x + run_px * at, reach_y + rise_px * at
        j, i = math.floor(x), math.floor(y)
        across, down = np.array([1 - (x - j), x - j]), np.array([1 - (y - i), y - i])
        taps[i : i + 2, j : j + 2] += np.outer(down, across)
    rows, columns = np.flatnonzero(taps.any(axis=1)), np.flatnonzero(taps.any(axis=0))
    reach = max(reach_x - columns[0], 0), max(reach_y - rows[0], 0)
    taps = taps[
        reach_y - reach[1] : reach_y + reach[1] + 1, reach_x - reach[0] : reach_x + reach[0] + 1
    ]
    return cv2.filter2D(
        pixels, cv2.CV_32F, (taps / _TAP_SUBSTEPS).astype(np.float32), borderType=cv2.BORDER_REFLECT
    )


def _along_rows(pixels: Pixels, extent: float) -> Pixels:
    """Averages over ``extent`` columns, row by row: nothing has to be turned for that."""
    out = np.empty_like(pixels)
    height = pixels.shape[0]
    over_rows(_level_rows, height, pixels.reshape(height, -1), out.reshape(height, -1), extent)
    return out


@kernel
def _level_rows(pixels: Any, out: Any, extent: float, first: int, end: int) -> None:
    width = pixels.shape[1] // 3
    whole = int(math.floor(extent / 2))
    f = np.float32(extent / 2 - whole)
    share, half_f2 = np.float32(1 / extent), np.float32(0.5) * f * f
    room = whole + 2
    line = np.empty((width + 2 * room) * 3, np.float32)
    for i in range(first, end):
        row, averages = pixels[i], out[i]
        copy(row, line[3 * room : 3 * (room + width)])
        mirror_ends(line, room, 3)
        for c in range(3):
            behind, ahead = 3 * (room - whole) + c, 3 * (room + whole) + c
            # Trapezoids: the first and the last column count half.
            total = -0.5 * (line[behind] + line[ahead])
            for k in range(behind, ahead + 1, 3):
                total += line[k]
            for j in range(width):
                b, a = behind + 3 * j, ahead + 3 * j
                # The integral of the linear interpolant beyond the whole columns, at both ends.
                ends = f * (line[a] + line[b]) + half_f2 * (
                    line[a + 3] - line[a] + line[b - 3] - line[b]
                )
                averages[3 * j + c] = (np.float32(total) + ends) * share
                total += 0.5 * (line[a] + line[a + 3] - line[b] - line[b + 3])


def _by_lines(pixels: Pixels, extent: float, slope: float) -> Pixels:
    """Averages over ``extent`` rows along lines that go ``slope`` columns right per row down.

    |slope| is at most 1. Line n passes through column n + row * slope.
    """
    height, width = pixels.shape[:2]
    drift = (height - 1) * slope
    lowest = math.floor(min(0.0, -drift)) - 1
    highest = math.ceil(width + max(0.0, -drift)) + 1
    out = np.empty_like(pixels)
    flat, flat_out = pixels.reshape(height, -1), out.reshape(height, -1)
    at_once = _SLANTED_LINES_AT_ONCE if slope else _LEVEL_LINES_AT_ONCE
    over_rows(_lines, highest - lowest, flat, flat_out, extent, slope, at_once, lowest)
    return out


@kernel
def _slanted_row(pixels: Any, row: int, line: int, slope: float, target: Any) -> None:
    """What lines ``line``, ``line`` + 1, … meet at ``row``, interpolated linearly."""
    height, width = pixels.shape[0], pixels.shape[1] // 3
    at = row * slope
    whole = int(math.floor(at))
    f = np.float32(at - whole)
    source = pixels[fold_index(row, height, MIRROR)]
    count = target.shape[0] // 3
    shift = line + whole
    inside_from = min(max(-shift, 0), count)
    inside_end = max(min(width - 1 - shift, count), inside_from)
    if inside_end > inside_from:
        near = source[(inside_from + shift) * 3 : (inside_end + shift) * 3]
        far = source[(inside_from + shift + 1) * 3 : (inside_end + shift + 1) * 3]
        inner = target[inside_from * 3 : inside_end * 3]
        for q in range(inner.shape[0]):
            inner[q] = near[q] + f * (far[q] - near[q])
    _folded(source, shift, 0, inside_from, f, target)
    _folded(source, shift, inside_end, count, f, target)


@kernel
def _folded(source: Any, shift: int, first: int, end: int, f: Any, target: Any) -> None:
    """The members ``first`` … ``end`` of a slanted row that lie beyond the frame: its mirror."""
    width = source.shape[0] // 3
    for n in range(first, end):
        j = fold_index(n + shift, width, MIRROR) * 3
        k = fold_index(n + shift + 1, width, MIRROR) * 3
        for c in range(3):
            target[n * 3 + c] = source[j + c] + f * (source[k + c] - source[j + c])


@kernel
def _lines(
    pixels: Any,
    out: Any,
    extent: float,
    slope: float,
    at_once: int,
    lowest: int,
    first: int,
    end: int,
) -> None:
    for batch in range(first, end, at_once):
        stop = min(batch + at_once, end)
        _batch(pixels, out, extent, slope, batch + lowest, stop + lowest)


@kernel
def _batch(pixels: Any, out: Any, extent: float, slope: float, start: int, stop: int) -> None:
    """The output pixels between lines ``start`` and ``stop``, row after row."""
    height, width = pixels.shape[0], pixels.shape[1] // 3
    one, other = 0.0, float(height)
    if slope != 0:
        one, other = (width - start) / slope, (-stop - 1) / slope
    top = max(0, int(math.floor(min(one, other))))
    bottom = min(height, int(math.ceil(max(one, other))) + 1)
    if top >= bottom:
        return
    whole = int(math.floor(extent / 2))
    f = np.float32(extent / 2 - whole)
    share, half_f2 = np.float32(1 / extent), np.float32(0.5) * f * f
    line = start - 1
    size = (stop - start + 3) * 3
    ahead, ahead_next = np.empty(size, np.float32), np.empty(size, np.float32)
    behind_last, behind = np.empty(size, np.float32), np.empty(size, np.float32)
    behind_next = np.empty(size, np.float32)
    total, average = np.zeros(size, np.float32), np.empty(size, np.float32)
    for row in range(top - whole, top + whole + 1 if whole > 0 else top - whole):
        # Trapezoids: the first and the last row count half.
        _slanted_row(pixels, row, line, slope, ahead)
        weight = np.float32(0.5) if row in (top - whole, top + whole) else np.float32(1)
        for q in range(size):
            total[q] += weight * ahead[q]
    _slanted_row(pixels, top + whole, line, slope, ahead)
    _slanted_row(pixels, top - whole - 1, line, slope, behind_last)
    _slanted_row(pixels, top - whole, line, slope, behind)
    for row in range(top, bottom):
        _slanted_row(pixels, row + whole + 1, line, slope, ahead_next)
        _slanted_row(pixels, row - whole + 1, line, slope, behind_next)
        for q in range(size):
            # The integral of the linear interpolant beyond the whole rows, at both ends.
            ends = f * (ahead[q] + behind[q]) + half_f2 * (
                ahead_next[q] - ahead[q] + behind_last[q] - behind[q]
            )
            average[q] = (total[q] + ends) * share
            total[q] += np.float32(0.5) * (ahead[q] + ahead_next[q] - behind[q] - behind_next[q])
        _gather(average, out, row, slope, start, stop)
        ahead, ahead_next = ahead_next, ahead
        behind_last, behind, behind_next = behind, behind_next, behind_last


@kernel
def _gather(average: Any, out: Any, row: int, slope: float, start: int, stop: int) -> None:
    """The pixels of one row from the four lines around each; ``average`` begins at start - 1."""
    width = out.shape[1] // 3
    at = -row * slope
    whole = int(math.floor(at))
    a, b, c, d = cubic_weights(np.float32(at - whole))
    first, end = max(0, start - whole), min(width, stop - whole)
    if end <= first:
        return
    count, k = (end - first) * 3, (first + whole - start) * 3
    line0, line1 = average[k : k + count], average[k + 3 : k + 3 + count]
    line2, line3 = average[k + 6 : k + 6 + count], average[k + 9 : k + 9 + count]
    inner = out[row, first * 3 : end * 3]
    for q in range(count):
        inner[q] = a * line0[q] + b * line1[q] + c * line2[q] + d * line3[q]
