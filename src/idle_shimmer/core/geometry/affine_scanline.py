"""Warps rows through affine stages that do not shrink the picture.

Beyond the frame lie its mirrored or repeated copies. While a row of output points stays within one
copy at every stage, all stages together are one straight line through the picture, walked in even
steps: nothing has to be mapped or folded point by point. Only where a row crosses a seam, a few
points are.
"""

import math
from typing import Any

import numpy as np

from idle_shimmer.core.compute.jit import inlined, kernel
from idle_shimmer.core.geometry.edges import BLACK, MIRROR, TILE, coverage, fold
from idle_shimmer.core.geometry.sampling import (
    MIN_SIDE,
    add_placed,
    add_point,
    margins,
    put_line,
    row_points,
)

# How much of a step a run keeps away from where it would meet a seam, against rounding.
_MARGIN = 1e-6
_ROWS_AT_ONCE = 8

# A coordinate along a row: (its value at point 0, its step from point to point).
Line = tuple[float, float]
# (first point of a straight run, the one after its last, the one up to which no seam is crossed).
Run = tuple[int, int, int]


@kernel
def warp_scanlines(
    source: Any, sampling: Any, part: Any, matrices: Any, edges: Any, out: Any
) -> None:
    """Write the average over all time samples to a part (left, top, right, bottom) of ``out``.

    ``source`` is flat; ``matrices`` is (time sample, stage, 2, 3), last stage first, and so is
    ``edges``; ``out`` is (H, W, 3).
    """
    left, top, right, bottom = part
    length = right - left
    weight = np.float32(1 / matrices.shape[0])
    memory, lines = row_points(length), np.empty((_ROWS_AT_ONCE, length * 4), np.float32)
    memory.weight[:] = weight
    for first in range(top, bottom, _ROWS_AT_ONCE):
        end = min(first + _ROWS_AT_ONCE, bottom)
        lines[:] = 0
        # Neighbouring rows of one time sample look at the same pixels, which are cached by then.
        for sample in range(matrices.shape[0]):
            for i in range(first, end):
                line = lines[i - first]
                _add_row(source, sampling, (left, i), matrices[sample], edges, memory, line)
        for i in range(first, end):
            put_line(lines[i - first], out[i, left:right])


@kernel
def _add_row(
    source: Any, sampling: Any, begin_pixel: Any, stages: Any, edges: Any, memory: Any, line: Any
) -> None:
    """Add what the row of points that begins at pixel (column, row) shows at one time sample."""
    x, y = begin_pixel[0] + 0.5, begin_pixel[1] + 0.5
    length, weight = line.shape[0] // 4, memory.weight[0]
    here = 0
    while here < length:
        run, across, down = _straight_run(stages, edges, sampling, (x, y), here, length)
        begin, end, leave = run
        _place_run(across, down, run, sampling, memory)
        add_placed(source, sampling, memory, begin, end, line)
        for first, last in ((here, begin), (end, leave)):
            for j in range(first, last):
                u, v, cover = _mapped_point(stages, edges, sampling, x + j, y)
                if cover > 0:
                    shown = weight * np.float32(cover)
                    add_point(source, sampling, u - 0.5, v - 0.5, shown, line, j)
        here = leave


@kernel
def _straight_run(
    stages: Any, edges: Any, sampling: Any, origin: tuple[float, float], here: int, length: int
) -> tuple[Run, Line, Line]:
    """Return what is straight of a row that begins at ``origin``, from point ``here`` on.

    The lines are those of x and y in the picture, counted from its first pixel's centre. Before and
    after the run, taps lie beyond the seam or a black edge fades.
    """
    before, after = margins(sampling.linear)
    rows, columns = float(sampling.rows), float(sampling.columns)
    x, y = origin
    step_x, step_y = 1.0, 0.0
    run = (here, length, length)
    for stage in range(stages.shape[0]):
        a, b, c = stages[stage, 0]
        d, e, f = stages[stage, 1]
        x, y = a * x + b * y + c, d * x + e * y + f
        step_x, step_y = a * step_x + b * step_y, d * step_x + e * step_y
        edge = edges[stage]
        (x, step_x), run = _unfold((x, step_x), columns, edge, here, run)
        (y, step_y), run = _unfold((y, step_y), rows, edge, here, run)
    begin, end, leave = run
    begin, end = _while_inside((x, step_x), before + 0.5, columns - after, begin, end)
    begin, end = _while_inside((y, step_y), before + 0.5, rows - after, begin, end)
    if min(rows, columns) < MIN_SIDE:
        end = begin
    begin = min(begin, leave)
    run = (begin, max(begin, min(end, leave)), leave)
    return run, (x - 0.5, step_x), (y - 0.5, step_y)


@inlined
def _unfold(line: Line, size: float, edge: int, here: int, run: Run) -> tuple[Line, Run]:
    """Return a line as it runs in the copy of the frame that its point ``here`` shows.

    And what is left of ``run`` there.
    """
    at, step = line
    begin, end, leave = run
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
    leave = _leaves(line, low, high, here, leave)
    if edge == BLACK:
        begin, end = _while_inside(line, 0.5, size - 0.5, begin, end)
    else:
        begin, end = _while_inside(line, low, high, begin, end)
    if edge == MIRROR and copy % 2 == 1:
        at, step = high - at, -step
    elif repeats:
        at = at - low
    elif now < 0 or now > size:
        at, step = min(max(now, 0.0), size), 0.0
    return (at, step), (begin, end, leave)


@inlined
def _leaves(line: Line, low: float, high: float, here: int, leave: int) -> int:
    """Return the first point after ``here``, up to ``leave``, that is not between low and high."""
    at, step = line
    if step == 0:
        return leave
    meets = ((high if step > 0 else low) - at) / step + _MARGIN
    return int(math.ceil(min(max(meets, here + 1.0), float(leave))))


@inlined
def _while_inside(line: Line, low: float, high: float, begin: int, end: int) -> tuple[int, int]:
    """Return the part of ``begin`` … ``end`` - 1 whose points lie between low and high."""
    at, step = line
    if step == 0:
        return begin, end if low <= at < high else begin
    one, other = (low - at) / step, (high - at) / step
    first, last = min(one, other) + _MARGIN, max(one, other) - _MARGIN
    begin = int(math.ceil(min(max(first, float(begin)), float(end))))
    return begin, int(math.floor(min(max(last, begin - 1.0), end - 1.0))) + 1


@kernel
def _place_run(across: Line, down: Line, run: Run, sampling: Any, memory: Any) -> None:
    first, fx, fy = memory.first, memory.fx, memory.fy
    x, step_x = across
    y, step_y = down
    columns = np.int32(sampling.columns)
    back = np.int32(0 if sampling.linear else sampling.columns + 1)
    for j in range(run[0], run[1]):
        u, v = x + j * step_x, y + j * step_y
        q, p = np.int32(u), np.int32(v)
        fx[j], fy[j] = np.float32(u - np.float64(q)), np.float32(v - np.float64(p))
        first[j] = (p * columns + q - back) * np.int32(3)


@kernel
def _mapped_point(
    stages: Any, edges: Any, sampling: Any, x: float, y: float
) -> tuple[float, float, float]:
    """Return where one point looks, folded into the frame, and how much it is covered there."""
    width, height = float(sampling.columns), float(sampling.rows)
    cover = 1.0
    for stage in range(edges.shape[0]):
        a, b, c = stages[stage, 0]
        d, e, f = stages[stage, 1]
        x, y = a * x + b * y + c, d * x + e * y + f
        if edges[stage] == BLACK:
            cover *= coverage(x, width) * coverage(y, height)
        x, y = fold(x, width, edges[stage]), fold(y, height, edges[stage])
    return x, y, cover
