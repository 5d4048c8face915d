"""Samples a picture at mapped points: the inner loops of the warp.

``source`` is a flat float32 picture of RGB pixels. Points folded into the frame have at most taps
around them beyond it; those are folded by the edge. What is seen is added to ``line``, flat float32
with four floats a pixel, the last without meaning.

Where a point lies is computed for a whole row first: that loop is vectorised, and the loop over the
taps has no branches. In one loop both take twice as long.
"""

import math
from typing import Any, NamedTuple

import numpy as np

from idle_shimmer.core.compute.jit import inlined, kernel
from idle_shimmer.core.geometry.edge_modes import BLACK, coverage, fold_index, fold_row
from idle_shimmer.core.picture.resampling import (
    POINTS_AHEAD,
    add_cubic,
    cubic_rgb,
    cubic_weights,
    fetch_taps,
    put_cubic,
)

# Taps before a point and after it.
_BEFORE, _AFTER = 1.0, 2.0
MIN_SIDE = 5


class Sampling(NamedTuple):
    """How a picture is sampled: its size and the edge."""

    rows: int
    columns: int
    edge: int


class RowPoints(NamedTuple):
    """Memory for a row of points, one entry a point.

    ``first`` is the first float of the first tap; ``fx`` and ``fy`` are fractions, ``weight`` the
    share of the point; ``x`` and ``y`` are folded coordinates; ``a`` … ``d`` the weights of the four
    rows of taps.
    """

    first: Any
    fx: Any
    fy: Any
    weight: Any
    x: Any
    y: Any
    a: Any
    b: Any
    c: Any
    d: Any


# These are compiled by themselves: inlined, their many live values slow down every caller's loop.
@kernel
def sample_folded(
    source: Any, start: int, rows: int, columns: int, x: float, y: float, edge: int
) -> tuple[Any, Any, Any]:
    """Return the cubic interpolation near the edges of the picture that begins at float ``start``."""
    j, i = int(math.floor(x)), int(math.floor(y))
    wx, wy = cubic_weights(np.float32(x - j)), cubic_weights(np.float32(y - i))
    red, green, blue = np.float32(0), np.float32(0), np.float32(0)
    for b in range(4):
        r = fold_index(i + b - 1, rows, edge)
        for a in range(4):
            at = start + (r * columns + fold_index(j + a - 1, columns, edge)) * 3
            w = wy[b] * wx[a]
            red += w * source[at]
            green += w * source[at + 1]
            blue += w * source[at + 2]
    return red, green, blue


@kernel
def sample(
    source: Any, start: int, rows: int, columns: int, x: float, y: float, edge: int
) -> tuple[Any, Any, Any]:
    """Return the cubic interpolation at one point of the picture that begins at float ``start``."""
    q, p = int(math.floor(x)), int(math.floor(y))
    if 1 <= p < rows - 2 and 1 <= q < columns - 2:
        base = start + ((p - 1) * columns + q - 1) * 3
        return cubic_rgb(source, base, columns * 3, np.float32(x - q), np.float32(y - p))
    return sample_folded(source, start, rows, columns, x, y, edge)


@kernel
def row_points(length: int) -> Any:
    """Return uninitialised memory for ``length`` points."""
    return RowPoints(
        np.empty(length, np.int32),
        np.empty(length, np.float32),
        np.empty(length, np.float32),
        np.empty(length, np.float32),
        np.empty(length),
        np.empty(length),
        np.empty(length, np.float32),
        np.empty(length, np.float32),
        np.empty(length, np.float32),
        np.empty(length, np.float32),
    )


@kernel
def add_points(source: Any, sampling: Any, points: Any, memory: Any, line: Any) -> None:
    """Add what a row of points shows to ``line``.

    ``points`` are (xs, ys, weights), unfolded; with a black edge the weights are reduced to what is
    covered.
    """
    xs, ys, weights = points
    large = min(sampling.rows, sampling.columns) >= MIN_SIDE
    if large and not _place(sampling, xs, ys, weights, memory):
        add_placed(source, sampling, memory, 0, xs.shape[0], line)
        return
    across, down = memory.x[: xs.shape[0]], memory.y[: xs.shape[0]]
    _fold_points(sampling, points, across, down)
    if large:
        _place(sampling, across, down, weights, memory)
        add_placed(source, sampling, memory, 0, xs.shape[0], line)
    _add_beyond(source, sampling, (across, down, weights), not large, line)


@inlined
def _all_taps_inside(x: float, y: float, sampling: Any) -> bool:
    low = (x >= _BEFORE) & (y >= _BEFORE)
    return low & (x < sampling.columns - _AFTER) & (y < sampling.rows - _AFTER)


@kernel
def _place(sampling: Any, xs: Any, ys: Any, weights: Any, memory: Any) -> bool:
    """Find each point's first tap; return whether some points have taps beyond the frame.

    Those are placed at some pixel inside, with a weight of 0.
    """
    columns = np.int32(sampling.columns)
    back = np.int32(_BEFORE) * (columns + np.int32(1))
    first, fx, fy, shown = memory.first, memory.fx, memory.fy, memory.weight
    beyond = False
    for j in range(xs.shape[0]):
        x, y = xs[j] - 0.5, ys[j] - 0.5
        inside = _all_taps_inside(x, y, sampling)
        beyond |= not inside
        q, p = np.int32(x), np.int32(y)
        fx[j], fy[j] = np.float32(x - np.float64(q)), np.float32(y - np.float64(p))
        first[j] = (p * columns + q - back) * np.int32(3) if inside else np.int32(0)
        shown[j] = weights[j] if inside else np.float32(0)
    return beyond


@kernel
def add_placed(source: Any, sampling: Any, memory: Any, begin: int, end: int, line: Any) -> None:
    """Add the points ``begin`` … ``end`` - 1, whose places are in ``memory``."""
    first, fx, fy, shown = memory.first, memory.fx, memory.fy, memory.weight
    a, b, c, d = memory.a, memory.b, memory.c, memory.d
    row = sampling.columns * 3
    _weigh_rows(fy[begin:end], shown[begin:end], (a[begin:], b[begin:], c[begin:], d[begin:]))
    for j in range(begin, end):
        if shown[j] != 0:
            fetch_taps(source, np.int64(first[min(j + POINTS_AHEAD, end - 1)]), row)
            down = (a[j], b[j], c[j], d[j])
            add_cubic(source, np.int64(first[j]), row, (fx[j], down), line, j * 4)


@kernel
def put_points(source: Any, sampling: Any, points: Any, memory: Any, out: Any, begin: int) -> bool:
    """Write what a row of points shows to the floats of ``out`` from ``begin`` on; return whether it did.

    It does not where the picture is too small. ``points`` are those of ``add_points``.
    """
    xs, ys, weights = points
    if min(sampling.rows, sampling.columns) < MIN_SIDE:
        return False
    beyond = _place(sampling, xs, ys, weights, memory)
    across, down = memory.x[: xs.shape[0]], memory.y[: xs.shape[0]]
    if beyond:
        _fold_points(sampling, points, across, down)
        _place(sampling, across, down, weights, memory)
    _put_placed(source, sampling, memory, xs.shape[0], out, begin)
    if beyond:
        _put_beyond(source, sampling, (across, down, weights), out, begin)
    return True


@kernel
def _fold_points(sampling: Any, points: Any, across: Any, down: Any) -> None:
    """Write where points lie once they are folded; a black edge reduces their weights."""
    xs, ys, weights = points
    width, height = float(sampling.columns), float(sampling.rows)
    if sampling.edge == BLACK:
        for j in range(xs.shape[0]):
            weights[j] *= np.float32(coverage(xs[j], width) * coverage(ys[j], height))
    fold_row(xs, width, sampling.edge, across)
    fold_row(ys, height, sampling.edge, down)


@kernel
def _put_placed(source: Any, sampling: Any, memory: Any, count: int, out: Any, begin: int) -> None:
    """Write ``count`` points, whose places are in ``memory``."""
    first, fx, shown, last = memory.first, memory.fx, memory.weight, count - 1
    a, b, c, d = memory.a, memory.b, memory.c, memory.d
    row = sampling.columns * 3
    _weigh_rows(memory.fy[:count], shown, (a, b, c, d))
    for j in range(last):
        fetch_taps(source, np.int64(first[min(j + POINTS_AHEAD, last)]), row)
        down = (a[j], b[j], c[j], d[j])
        put_cubic(source, np.int64(first[j]), row, (fx[j], down), out, begin + 3 * j)
    # Four floats are written for each point: of the last, the fourth would be another row's.
    red, green, blue = cubic_rgb(source, np.int64(first[last]), row, fx[last], memory.fy[last])
    at, weight = begin + 3 * last, shown[last]
    out[at], out[at + 1], out[at + 2] = red * weight, green * weight, blue * weight


@kernel
def _put_beyond(source: Any, sampling: Any, points: Any, out: Any, begin: int) -> None:
    """Write the points that have taps beyond the frame, over what stands there."""
    xs, ys, weights = points
    for j in range(xs.shape[0]):
        x, y = xs[j] - 0.5, ys[j] - 0.5
        if weights[j] != 0 and not _all_taps_inside(x, y, sampling):
            red, green, blue = sample_folded(
                source, 0, sampling.rows, sampling.columns, x, y, sampling.edge
            )
            at, weight = begin + 3 * j, weights[j]
            out[at], out[at + 1], out[at + 2] = red * weight, green * weight, blue * weight


@kernel
def _weigh_rows(fy: Any, shown: Any, weights: Any) -> None:
    a, b, c, d = weights
    for j in range(fy.shape[0]):
        one, two, three, four = cubic_weights(fy[j])
        a[j], b[j], c[j], d[j] = one * shown[j], two * shown[j], three * shown[j], four * shown[j]


@kernel
def add_point(
    source: Any, sampling: Any, x: float, y: float, weight: Any, line: Any, j: int
) -> None:
    """Add what one point, counted from the first pixel's centre, shows to pixel ``j`` of ``line``."""
    columns = sampling.columns
    if _all_taps_inside(x, y, sampling):
        q, p = int(x), int(y)
        fx, fy = np.float32(x - q), np.float32(y - p)
        base = ((p - 1) * columns + q - 1) * 3
        a, b, c, d = cubic_weights(fy)
        down = (a * weight, b * weight, c * weight, d * weight)
        add_cubic(source, base, columns * 3, (fx, down), line, j * 4)
        return
    red, green, blue = sample_folded(source, 0, sampling.rows, columns, x, y, sampling.edge)
    line[4 * j] += weight * red
    line[4 * j + 1] += weight * green
    line[4 * j + 2] += weight * blue


@kernel
def _add_beyond(source: Any, sampling: Any, points: Any, all_points: bool, line: Any) -> None:
    """Add the points that have taps beyond the frame, or ``all_points``."""
    xs, ys, weights = points
    for j in range(xs.shape[0]):
        x, y = xs[j] - 0.5, ys[j] - 0.5
        inside = _all_taps_inside(x, y, sampling)
        if weights[j] != 0 and (all_points or not inside):
            add_point(source, sampling, x, y, weights[j], line, j)


@kernel
def add_line(line: Any, out: Any) -> None:
    """Add the colours of ``line`` to pixels (length, 3)."""
    for j in range(out.shape[0]):
        for c in range(3):
            out[j, c] += line[4 * j + c]


@kernel
def put_line(line: Any, out: Any) -> None:
    """Write the colours of ``line`` to pixels (length, 3)."""
    for j in range(out.shape[0]):
        for c in range(3):
            out[j, c] = line[4 * j + c]
