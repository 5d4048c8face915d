"""The lookup of rows through affine stages that do not shrink the picture.

Beyond the frame lie its mirrored or repeated copies. While a row of output points stays within one
copy at every stage, all stages together are one straight line through the picture, walked in even
steps: nothing has to be traced or folded point by point. Only where a row crosses a seam, a few
points are.
"""

import math
from typing import Any

import numpy as np

from idle_shimmer.core.geometry.edges import BLACK, MIRROR, TILE, coverage, fold
from idle_shimmer.core.geometry.sampling import (
    LEAST_SIDE,
    add_placed,
    add_point,
    put_line,
    reach,
    row_store,
)
from idle_shimmer.core.kernel import inlined, kernel

# How much of a step a run keeps away from where it would meet a seam, against rounding.
_MARGIN = 1e-6
_ROWS_AT_ONCE = 8


@kernel
def sample_straight(
    source: Any, size: Any, part: Any, matrices: Any, edges: Any, quick: bool, out: Any
) -> None:
    """The average over all moments, into a part (left, top, right, bottom) of ``out`` (H, W, 3).

    ``source`` is flat, of ``size`` (rows, columns); ``matrices`` is (moment, stage, 2, 3), last
    stage first, and so is ``edges``.
    """
    left, top, right, bottom = part
    length = right - left
    weight = np.float32(1 / matrices.shape[0])
    store, lines = row_store(length), np.empty((_ROWS_AT_ONCE, length * 4), np.float32)
    store[3][:] = weight
    for first in range(top, bottom, _ROWS_AT_ONCE):
        end = min(first + _ROWS_AT_ONCE, bottom)
        lines[:] = 0
        # Neighbouring rows of one moment look at the same pixels, which the cache holds by then.
        for moment in range(matrices.shape[0]):
            for i in range(first, end):
                line = lines[i - first]
                _add_row(source, size, (left, i), matrices[moment], edges, quick, store, line)
        for i in range(first, end):
            put_line(lines[i - first], out[i, left:right])


@kernel
def _add_row(
    source: Any, size: Any, begins: Any, stages: Any, edges: Any, quick: bool, store: Any, line: Any
) -> None:
    """Adds what the row of points that begins at pixel (left, row) shows at one moment."""
    x, y = begins[0] + 0.5, begins[1] + 0.5
    length, weight = line.shape[0] // 4, store[3][0]
    here = 0
    while here < length:
        begin, end, leave, way = _run(stages, edges, size, x, y, here, length, quick)
        _place_run(way, begin, end, size[1], quick, store)
        add_placed(source, size[1], quick, store, begin, end, line)
        for first, last in ((here, begin), (end, leave)):
            for j in range(first, last):
                u, v, cover = _traced(stages, edges, size, x + j, y)
                if cover > 0:
                    shown = weight * np.float32(cover)
                    add_point(source, size, u - 0.5, v - 0.5, shown, edges[-1], quick, line, j)
        here = leave


@kernel
def _run(
    stages: Any, edges: Any, size: Any, x: float, y: float, here: int, length: int, quick: bool
) -> tuple[int, int, int, tuple[float, float, float, float]]:
    """What is straight of a row that begins at (x, y), from point ``here`` on.

    (first point of the run, the one after its last, the one up to which no seam is crossed, way).
    Before and after the run, taps lie beyond the seam or a black edge fades. The way is (x, its
    step, y, its step) in the picture, from its first pixel's centre, for point 0 of the row.
    """
    rows, columns = size
    ahead, after = reach(quick)
    step_x, step_y = 1.0, 0.0
    begin, end, leave = here, length, length
    for stage in range(stages.shape[0]):
        a, b, c = stages[stage, 0]
        d, e, f = stages[stage, 1]
        x, y = a * x + b * y + c, d * x + e * y + f
        step_x, step_y = a * step_x + b * step_y, d * step_x + e * step_y
        edge = edges[stage]
        x, step_x, begin, end, leave = _unfolded(
            x, step_x, float(columns), edge, here, begin, end, leave
        )
        y, step_y, begin, end, leave = _unfolded(
            y, step_y, float(rows), edge, here, begin, end, leave
        )
    begin, end = _while_inside(x, step_x, ahead + 0.5, columns - after, begin, end)
    begin, end = _while_inside(y, step_y, ahead + 0.5, rows - after, begin, end)
    if min(rows, columns) < LEAST_SIDE:
        end = begin
    begin = min(begin, leave)
    return begin, max(begin, min(end, leave)), leave, (x - 0.5, step_x, y - 0.5, step_y)


@inlined
def _unfolded(
    at: float, step: float, size: float, edge: int, here: int, begin: int, end: int, leave: int
) -> tuple[float, float, int, int, int]:
    """One coordinate of a line as it runs in the copy of the frame that its point ``here`` shows.

    With it what is left of the run ``begin`` … ``end`` - 1 and of the way up to ``leave``.
    """
    now = at + here * step
    repeats, copy = edge in (MIRROR, TILE), 0.0
    low, high = 0.0, size
    if repeats:
        copy = math.floor(now / size)
        low, high = copy * size, copy * size + size
    elif now < 0:
        low, high = -math.inf, 0.0
    elif now > size:
        low, high = size, math.inf
    leave = _leaves(at, step, low, high, here, leave)
    if edge == BLACK:
        begin, end = _while_inside(at, step, 0.5, size - 0.5, begin, end)
    else:
        begin, end = _while_inside(at, step, low, high, begin, end)
    if edge == MIRROR and copy % 2 == 1:
        return high - at, -step, begin, end, leave
    if repeats:
        return at - low, step, begin, end, leave
    if now < 0 or now > size:
        return min(max(now, 0.0), size), 0.0, begin, end, leave
    return at, step, begin, end, leave


@inlined
def _leaves(at: float, step: float, low: float, high: float, here: int, leave: int) -> int:
    """The first point after ``here``, up to ``leave``, that is no more between low and high."""
    if step == 0:
        return leave
    meets = ((high if step > 0 else low) - at) / step + _MARGIN
    return int(math.ceil(min(max(meets, here + 1.0), float(leave))))


@inlined
def _while_inside(
    at: float, step: float, low: float, high: float, begin: int, end: int
) -> tuple[int, int]:
    """The part of ``begin`` … ``end`` - 1 whose points ``at`` + k · ``step`` lie inside."""
    if step == 0:
        return begin, end if low <= at < high else begin
    one, other = (low - at) / step, (high - at) / step
    first, last = min(one, other) + _MARGIN, max(one, other) - _MARGIN
    begin = int(math.ceil(min(max(first, float(begin)), float(end))))
    return begin, int(math.floor(min(max(last, begin - 1.0), end - 1.0))) + 1


@kernel
def _place_run(
    way: tuple[float, float, float, float],
    begin: int,
    end: int,
    columns: int,
    quick: bool,
    store: Any,
) -> None:
    first, fx, fy = store[:3]
    x, step_x, y, step_y = way
    wide, back = np.int32(columns), np.int32(0 if quick else columns + 1)
    for j in range(begin, end):
        u, v = x + j * step_x, y + j * step_y
        q, p = np.int32(u), np.int32(v)
        fx[j], fy[j] = np.float32(u - np.float64(q)), np.float32(v - np.float64(p))
        first[j] = (p * wide + q - back) * np.int32(3)


@kernel
def _traced(stages: Any, edges: Any, size: Any, x: float, y: float) -> tuple[float, float, float]:
    """Where one point looks, folded into the frame, and how much it is covered there."""
    width, height = float(size[1]), float(size[0])
    cover = 1.0
    for stage in range(edges.shape[0]):
        a, b, c = stages[stage, 0]
        d, e, f = stages[stage, 1]
        x, y = a * x + b * y + c, d * x + e * y + f
        if edges[stage] == BLACK:
            cover *= coverage(x, width) * coverage(y, height)
        x, y = fold(x, width, edges[stage]), fold(y, height, edges[stage])
    return x, y, cover
