"""Averages along slanted lines: running sums, a bundle of neighbouring lines at a time.

Lines are one pixel apart and advance by one row or one column a step, and by ``slope`` sideways. What
the lines of a bundle meet at one step is a *slice* of it: the picture there, interpolated linearly,
mirrored beyond the frame. One step along the line adds a slice and takes one away.
"""

import math
from typing import Any, NamedTuple

import numpy as np

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.compute.parallel import parallel_rows
from idle_shimmer.core.geometry.edge_modes import MIRROR, fold_index
from idle_shimmer.core.picture.encoding import Pixels
from idle_shimmer.core.picture.resampling import cubic_weights

# Narrow bundles are followed only where they cross the frame; the slices of a long line still fit
# the second-level cache.
_LINES = 192
# Columns that are transposed at once: two or three cache lines of each row.
_STEPS = 16


class _Lines(NamedTuple):
    """The box's length in steps, how far lines go sideways a step, and along which axis they go."""

    extent: float
    slope: float
    by_columns: bool


class _Slices(NamedTuple):
    """Memory of a bundle: a ring of slices, transposed columns, averages of some steps."""

    ring: Any
    sheet: Any
    averages: Any
    total: Any


class _Bundle(NamedTuple):
    """The lines ``start`` … ``stop`` - 1, and how many floats a slice of them has."""

    start: int
    stop: int
    size: int


def average_along_lines(pixels: Pixels, *, extent: float, slope: float, by_columns: bool) -> Pixels:
    """Return averages over ``extent`` rows (or columns) along lines, float32 (H, W, 3).

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
    lines = _Lines(extent, slope, by_columns)
    parallel_rows(_average_bundles, highest - lowest, flat, flat_out, lines, lowest)
    return out


@kernel
def _average_bundles(pixels: Any, out: Any, lines: Any, lowest: int, first: int, end: int) -> None:
    size = 3 * (_LINES + 3)
    ring = np.empty((2 * int(math.floor(lines.extent / 2)) + _STEPS + 2, size), np.float32)
    sheet = np.empty((_STEPS, size + 3 * (_STEPS + 2)), np.float32)
    memory = _Slices(ring, sheet, np.empty((_STEPS, size), np.float32), np.empty(size, np.float32))
    for batch in range(first, end, _LINES):
        start, stop = batch + lowest, min(batch + _LINES, end) + lowest
        bundle = _Bundle(start, stop, 3 * (stop - start + 3))
        _average_bundle(pixels, out, lines, bundle, memory)


@kernel
def _average_bundle(pixels: Any, out: Any, lines: Any, bundle: Any, memory: Any) -> None:
    """Write the output pixels between the lines of a bundle, step after step."""
    height, width = pixels.shape[0], pixels.shape[1] // 3
    steps, across = (width, height) if lines.by_columns else (height, width)
    one, other = 0.0, float(steps)
    if lines.slope != 0:
        one, other = (across - bundle.start) / lines.slope, (-bundle.stop - 1) / lines.slope
    top = max(0, int(math.floor(min(one, other))))
    bottom = min(steps, int(math.ceil(max(one, other))) + 1)
    if top >= bottom:
        return
    ring, size, held = memory.ring, bundle.size, memory.ring.shape[0]
    whole = int(math.floor(lines.extent / 2))
    total = memory.total[:size]
    total[:] = 0
    filled = top - whole - 1
    while filled < top + whole + 1:
        count = min(_STEPS, top + whole + 1 - filled)
        _fill(pixels, lines, bundle, filled, count, memory)
        filled += count
    for step in range(top - whole, top + whole + 1 if whole > 0 else top - whole):
        # Trapezoids: the first and the last step count half.
        weight = np.float32(0.5 if step in (top - whole, top + whole) else 1)
        _add(ring[step % held, :size], weight, total)
    for first in range(top, bottom, _STEPS):
        count = min(_STEPS, bottom - first)
        _fill(pixels, lines, bundle, filled, count, memory)
        filled += count
        for step in range(first, first + count):
            behind, ahead = step - whole, step + whole
            slices = (
                ring[ahead % held, :size],
                ring[(ahead + 1) % held, :size],
                ring[(behind - 1) % held, :size],
                ring[behind % held, :size],
                ring[(behind + 1) % held, :size],
            )
            _average(slices, lines.extent, total, memory.averages[step - first])
        if lines.by_columns:
            _gather_columns(memory, out, first, count, lines.slope, bundle)
        else:
            _gather_rows(memory.averages, out, first, count, lines.slope, bundle)


@kernel
def _add(values: Any, weight: Any, total: Any) -> None:
    for q in range(total.shape[0]):
        total[q] += weight * values[q]


@kernel
def _average(slices: Any, extent: float, total: Any, average: Any) -> None:
    """Write the average at one step; ``total`` goes on to the next."""
    ahead, ahead_next, behind_last, behind, behind_next = slices
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
def _fill(pixels: Any, lines: Any, bundle: Any, first: int, count: int, memory: Any) -> None:
    """Fill the slices of ``count`` steps from ``first`` on, from the line before the bundle on."""
    ring, sheet = memory.ring, memory.sheet
    held, size, line = ring.shape[0], bundle.size, bundle.start - 1
    lowest = 0
    if lines.by_columns:
        lowest = _transpose(pixels, lines.slope, bundle, first, count, sheet)
    for step in range(first, first + count):
        target = ring[step % held, :size]
        at = step * lines.slope
        whole = int(math.floor(at))
        f = np.float32(at - whole)
        if lines.by_columns:
            begin = 3 * (line + whole - lowest)
            column = sheet[step - first]
            near, far = column[begin : begin + size], column[begin + 3 : begin + 3 + size]
            _interpolate(near, far, f, target)
        else:
            source = pixels[fold_index(step, pixels.shape[0], MIRROR)]
            _slanted_row(source, line + whole, f, target)


@kernel
def _interpolate(near: Any, far: Any, f: Any, target: Any) -> None:
    for q in range(target.shape[0]):
        target[q] = near[q] + f * (far[q] - near[q])


@kernel
def _transpose(pixels: Any, slope: float, bundle: Any, first: int, count: int, sheet: Any) -> int:
    """Write columns ``first`` … of the picture to rows of ``sheet``; return its first pixels' row."""
    height, length = pixels.shape
    line = bundle.start - 1
    one = int(math.floor(first * slope))
    other = int(math.floor((first + count - 1) * slope))
    lowest, end = line + min(one, other), line + max(one, other) + bundle.size // 3 + 1
    flat = pixels.reshape(-1)
    inside = first >= 0 and 3 * (first + count) <= length
    for r in range(lowest, end):
        row = fold_index(r, height, MIRROR)
        q = 3 * (r - lowest)
        if inside:
            at = row * length + 3 * first
            for k in range(count):
                for c in range(3):
                    sheet[k, q + c] = flat[at + 3 * k + c]
        else:
            for k in range(count):
                j = 3 * fold_index(first + k, length // 3, MIRROR)
                for c in range(3):
                    sheet[k, q + c] = pixels[row, j + c]
    return lowest


@kernel
def _slanted_row(source: Any, shift: int, f: Any, target: Any) -> None:
    """Write what the lines meet in a row: from column ``shift`` on, ``f`` towards the next one."""
    width, count = source.shape[0] // 3, target.shape[0] // 3
    inside_from = min(max(-shift, 0), count)
    inside_end = max(min(width - 1 - shift, count), inside_from)
    if inside_end > inside_from:
        near = source[(inside_from + shift) * 3 : (inside_end + shift) * 3]
        far = source[(inside_from + shift + 1) * 3 : (inside_end + shift + 1) * 3]
        _interpolate(near, far, f, target[inside_from * 3 : inside_end * 3])
    _slanted_beyond(source, shift, 0, inside_from, f, target)
    _slanted_beyond(source, shift, inside_end, count, f, target)


@kernel
def _slanted_beyond(source: Any, shift: int, first: int, end: int, f: Any, target: Any) -> None:
    """Write the members ``first`` … ``end`` - 1 of a slanted row, which lie beyond the frame."""
    width = source.shape[0] // 3
    for n in range(first, end):
        j = fold_index(n + shift, width, MIRROR) * 3
        k = fold_index(n + shift + 1, width, MIRROR) * 3
        for c in range(3):
            target[n * 3 + c] = source[j + c] + f * (source[k + c] - source[j + c])


@kernel
def _gather_rows(
    averages: Any, out: Any, first: int, count: int, slope: float, bundle: Any
) -> None:
    """Write the pixels of ``count`` rows from the four lines around each."""
    width = out.shape[1] // 3
    for row in range(first, first + count):
        low, end, whole, f = _covered_pixels(row, slope, width, bundle)
        if end > low:
            begin = 3 * (low + whole - bundle.start)
            _cubic(averages[row - first], begin, f, out[row, 3 * low : 3 * end])


@kernel
def _gather_columns(
    memory: Any, out: Any, first: int, count: int, slope: float, bundle: Any
) -> None:
    """Write the pixels of ``count`` columns from the four lines around each, transposed back."""
    averages, sheet, height = memory.averages, memory.sheet, out.shape[0]
    one = _covered_pixels(first, slope, height, bundle)
    other = _covered_pixels(first + count - 1, slope, height, bundle)
    lowest = min(one[0], other[0])
    # The rows that all columns share, and those that some of them have.
    shared_from, shared_end = max(one[0], other[0]), min(one[1], other[1])
    for step in range(first, first + count):
        low, end, whole, f = _covered_pixels(step, slope, height, bundle)
        if end > low:
            begin = 3 * (low + whole - bundle.start)
            target = sheet[step - first, 3 * (low - lowest) : 3 * (end - lowest)]
            _cubic(averages[step - first], begin, f, target)
            for row in range(low, end):
                if row < shared_from or row >= shared_end:
                    for c in range(3):
                        out[row, 3 * step + c] = sheet[step - first, 3 * (row - lowest) + c]
    flat = out.reshape(-1)
    for row in range(shared_from, shared_end):
        at, q = row * out.shape[1] + 3 * first, 3 * (row - lowest)
        for k in range(count):
            for c in range(3):
                flat[at + 3 * k + c] = sheet[k, q + c]


@kernel
def _covered_pixels(step: int, slope: float, across: int, bundle: Any) -> tuple[int, int, int, Any]:
    """Return (first, end) of the bundle's pixels at a step; whole and fractional shift of the line."""
    at = -step * slope
    whole = int(math.floor(at))
    first, end = max(0, bundle.start - whole), min(across, bundle.stop - whole)
    return first, end, whole, np.float32(at - whole)


@kernel
def _cubic(average: Any, begin: int, f: Any, target: Any) -> None:
    """Interpolate between lines; ``average`` begins one line before the first pixel's."""
    a, b, c, d = cubic_weights(f)
    count = target.shape[0]
    line0, line1 = average[begin : begin + count], average[begin + 3 : begin + 3 + count]
    line2, line3 = average[begin + 6 : begin + 6 + count], average[begin + 9 : begin + 9 + count]
    for q in range(count):
        target[q] = a * line0[q] + b * line1[q] + c * line2[q] + d * line3[q]
