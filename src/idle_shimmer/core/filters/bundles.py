"""Averages along slanted lines: running sums, a bundle of neighbouring lines at a time.

Lines are one pixel apart and advance by one row or one column a step, and by ``slope`` sideways.
What the lines of a bundle meet at one step is a *slice* of it: the picture there, interpolated
linearly, mirrored beyond the frame. One step along the line adds a slice and takes one away.
"""

import math
from typing import Any

import numpy as np

from idle_shimmer.core.bands import over_rows
from idle_shimmer.core.geometry.edges import MIRROR, fold_index
from idle_shimmer.core.interpolation import cubic_weights
from idle_shimmer.core.kernel import kernel
from idle_shimmer.core.picture import Pixels
from idle_shimmer.core.vectors import move_four, prefetch

# Narrow bundles are followed only where they cross the frame; the slices of a long line still fit
# the second-level cache.
_LINES = 192
# Columns that are turned at once: two or three lines of the cache from each row.
_STEPS = 16


def along_lines(pixels: Pixels, *, extent: float, slope: float, by_columns: bool) -> Pixels:
    """Averages over ``extent`` rows (or columns) along lines, float32 (H, W, 3).

    A line goes ``slope`` columns right per row down, or rows down per column right; |slope| is at
    most 1. Line n passes through n + step · slope.
    """
    height, width = pixels.shape[:2]
    steps, across = (width, height) if by_columns else (height, width)
    drift = (steps - 1) * slope
    lowest = math.floor(min(0.0, -drift)) - 1
    highest = math.ceil(across + max(0.0, -drift)) + 1
    out = np.empty(pixels.shape, np.float32)
    flat, flat_out = np.ascontiguousarray(pixels).reshape(height, -1), out.reshape(height, -1)
    over_rows(_bundles, highest - lowest, flat, flat_out, extent, slope, by_columns, lowest)
    return out


@kernel
def _bundles(
    pixels: Any,
    out: Any,
    extent: float,
    slope: float,
    by_columns: bool,
    lowest: int,
    first: int,
    end: int,
) -> None:
    size = 3 * (_LINES + 3)
    slices = np.empty((2 * int(math.floor(extent / 2)) + _STEPS + 2, size), np.float32)
    sheet = np.empty((_STEPS, size + 3 * (_STEPS + 2)), np.float32)
    for batch in range(first, end, _LINES):
        start, stop = batch + lowest, min(batch + _LINES, end) + lowest
        _bundle(pixels, out, extent, slope, by_columns, slices, sheet, start, stop)


@kernel
def _bundle(
    pixels: Any,
    out: Any,
    extent: float,
    slope: float,
    by_columns: bool,
    slices: Any,
    sheet: Any,
    start: int,
    stop: int,
) -> None:
    """The output pixels between lines ``start`` and ``stop``, step after step."""
    height, width = pixels.shape[0], pixels.shape[1] // 3
    steps, across = (width, height) if by_columns else (height, width)
    one, other = 0.0, float(steps)
    if slope != 0:
        one, other = (across - start) / slope, (-stop - 1) / slope
    top = max(0, int(math.floor(min(one, other))))
    bottom = min(steps, int(math.ceil(max(one, other))) + 1)
    if top >= bottom:
        return
    size, held = 3 * (stop - start + 3), slices.shape[0]
    whole = int(math.floor(extent / 2))
    total, averages = np.zeros(size, np.float32), np.empty((_STEPS, size), np.float32)
    filled = top - whole - 1
    while filled < top + whole + 1:
        count = min(_STEPS, top + whole + 1 - filled)
        _fill(pixels, slope, by_columns, start - 1, filled, count, sheet, slices, size)
        filled += count
    for step in range(top - whole, top + whole + 1 if whole > 0 else top - whole):
        # Trapezoids: the first and the last step count half.
        weight = np.float32(0.5 if step in (top - whole, top + whole) else 1)
        _add(slices[step % held, :size], weight, total)
    for first in range(top, bottom, _STEPS):
        count = min(_STEPS, bottom - first)
        _fill(pixels, slope, by_columns, start - 1, filled, count, sheet, slices, size)
        filled += count
        for step in range(first, first + count):
            behind, ahead = step - whole, step + whole
            _average(
                slices[ahead % held, :size],
                slices[(ahead + 1) % held, :size],
                slices[(behind - 1) % held, :size],
                slices[behind % held, :size],
                slices[(behind + 1) % held, :size],
                extent,
                total,
                averages[step - first],
            )
        if by_columns:
            _gather_columns(averages, sheet, out, first, count, slope, start, stop)
        else:
            _gather_rows(averages, out, first, count, slope, start, stop)


@kernel
def _add(values: Any, weight: Any, total: Any) -> None:
    for q in range(total.shape[0]):
        total[q] += weight * values[q]


@kernel
def _average(
    ahead: Any,
    ahead_next: Any,
    behind_last: Any,
    behind: Any,
    behind_next: Any,
    extent: float,
    total: Any,
    average: Any,
) -> None:
    """The average at one step; ``total`` goes on to the next."""
    f = np.float32(extent / 2 - math.floor(extent / 2))
    share, half_f2 = np.float32(1 / extent), np.float32(0.5) * f * f
    for q in range(total.shape[0]):
        # The integral of the linear interpolant beyond the whole steps, at both ends.
        ends = f * (ahead[q] + behind[q]) + half_f2 * (
            ahead_next[q] - ahead[q] + behind_last[q] - behind[q]
        )
        average[q] = (total[q] + ends) * share
        total[q] += np.float32(0.5) * (ahead[q] + ahead_next[q] - behind[q] - behind_next[q])


@kernel
def _fill(
    pixels: Any,
    slope: float,
    by_columns: bool,
    line: int,
    first: int,
    count: int,
    sheet: Any,
    slices: Any,
    size: int,
) -> None:
    """The slices of ``count`` steps from ``first`` on, from line ``line`` on."""
    held = slices.shape[0]
    if by_columns:
        lowest = _turn(pixels, slope, line, first, count, sheet, size // 3)
    for step in range(first, first + count):
        target = slices[step % held, :size]
        at = step * slope
        whole = int(math.floor(at))
        f = np.float32(at - whole)
        if by_columns:
            begin = 3 * (line + whole - lowest)
            column = sheet[step - first]
            _between(column[begin : begin + size], column[begin + 3 : begin + 3 + size], f, target)
        else:
            source = pixels[fold_index(step, pixels.shape[0], MIRROR)]
            _slanted_row(source, line + whole, f, target)


@kernel
def _between(near: Any, far: Any, f: Any, target: Any) -> None:
    for q in range(target.shape[0]):
        target[q] = near[q] + f * (far[q] - near[q])


@kernel
def _turn(
    pixels: Any, slope: float, line: int, first: int, count: int, sheet: Any, lines: int
) -> int:
    """Columns ``first`` … of the picture into the rows of ``sheet``; the first of its pixels' rows."""
    height, length, stride = pixels.shape[0], pixels.shape[1], sheet.shape[1]
    one = int(math.floor(first * slope))
    other = int(math.floor((first + count - 1) * slope))
    lowest, end = line + min(one, other), line + max(one, other) + lines + 1
    flat, turned = pixels.reshape(-1), sheet.reshape(-1)
    # Four floats are read for each pixel: inside the row even after its last one.
    inside = first >= 0 and 3 * (first + count) < length
    for r in range(lowest, end):
        row = fold_index(r, height, MIRROR)
        q = 3 * (r - lowest)
        if inside:
            at = row * length + 3 * first
            for line_of_cache in range(3):
                prefetch(flat, min(at + 3 * count + 16 * line_of_cache, flat.shape[0] - 1))
            for k in range(count):
                move_four(flat, at + 3 * k, turned, k * stride + q)
        else:
            for k in range(count):
                j = 3 * fold_index(first + k, length // 3, MIRROR)
                for c in range(3):
                    sheet[k, q + c] = pixels[row, j + c]
    return lowest


@kernel
def _slanted_row(source: Any, shift: int, f: Any, target: Any) -> None:
    """What the lines meet in a row: from column ``shift`` on, ``f`` towards the next one."""
    width, count = source.shape[0] // 3, target.shape[0] // 3
    inside_from = min(max(-shift, 0), count)
    inside_end = max(min(width - 1 - shift, count), inside_from)
    if inside_end > inside_from:
        near = source[(inside_from + shift) * 3 : (inside_end + shift) * 3]
        far = source[(inside_from + shift + 1) * 3 : (inside_end + shift + 1) * 3]
        _between(near, far, f, target[inside_from * 3 : inside_end * 3])
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
def _gather_rows(
    averages: Any, out: Any, first: int, count: int, slope: float, start: int, stop: int
) -> None:
    """The pixels of ``count`` rows from the four lines around each."""
    width = out.shape[1] // 3
    for row in range(first, first + count):
        low, end, whole, f = _met(row, slope, width, start, stop)
        if end > low:
            begin = 3 * (low + whole - start)
            _cubic(averages[row - first], begin, f, out[row, 3 * low : 3 * end])


@kernel
def _gather_columns(
    averages: Any, sheet: Any, out: Any, first: int, count: int, slope: float, start: int, stop: int
) -> None:
    """The pixels of ``count`` columns from the four lines around each, turned back."""
    height = out.shape[0]
    one, another = _met(first, slope, height, start, stop), first + count - 1
    other = _met(another, slope, height, start, stop)
    lowest = min(one[0], other[0])
    # The rows that all columns share, and those that some of them have.
    every_from, every_end = max(one[0], other[0]), min(one[1], other[1])
    for step in range(first, first + count):
        low, end, whole, f = _met(step, slope, height, start, stop)
        if end > low:
            begin = 3 * (low + whole - start)
            target = sheet[step - first, 3 * (low - lowest) : 3 * (end - lowest)]
            _cubic(averages[step - first], begin, f, target)
            for row in range(low, end):
                if row < every_from or row >= every_end:
                    for c in range(3):
                        out[row, 3 * step + c] = sheet[step - first, 3 * (row - lowest) + c]
    flat, turned, stride = out.reshape(-1), sheet.reshape(-1), sheet.shape[1]
    for row in range(every_from, every_end):
        at, q = row * out.shape[1] + 3 * first, 3 * (row - lowest)
        # The last pixel alone: what follows it is not always written after it.
        for k in range(count - 1):
            move_four(turned, k * stride + q, flat, at + 3 * k)
        for c in range(3):
            flat[at + 3 * (count - 1) + c] = sheet[count - 1, q + c]


@kernel
def _met(step: int, slope: float, across: int, start: int, stop: int) -> tuple[int, int, int, Any]:
    """(first, end) of the pixels of a step in the bundle; whole and broken part of their line."""
    at = -step * slope
    whole = int(math.floor(at))
    return max(0, start - whole), min(across, stop - whole), whole, np.float32(at - whole)


@kernel
def _cubic(average: Any, begin: int, f: Any, target: Any) -> None:
    """Keys's cubic between the lines; ``average`` begins one line before the first pixel's."""
    a, b, c, d = cubic_weights(f)
    count = target.shape[0]
    line0, line1 = average[begin : begin + count], average[begin + 3 : begin + 3 + count]
    line2, line3 = average[begin + 6 : begin + 6 + count], average[begin + 9 : begin + 9 + count]
    for q in range(count):
        target[q] = a * line0[q] + b * line1[q] + c * line2[q] + d * line3[q]
