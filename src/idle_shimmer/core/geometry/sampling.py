"""Looks into a picture at traced points: the inner loops of the lookup.

Conventions: ``source`` is a flat float32 picture of ``size`` (rows, columns) in RGB pixels. Points
folded into the frame have at most taps around them beyond it; those are folded by ``edge``. What is
seen is added to ``line``, flat float32 with four floats a pixel, the last of no meaning.

Where a point lies is worked out for a whole row at once, by itself: that loop is vectorised, and
the loop over the taps is free of branches. In one loop both take twice as long.
"""

import math
from typing import Any

import numpy as np

from idle_shimmer.core.geometry.edges import BLACK, coverage, fold_index, fold_row
from idle_shimmer.core.interpolation import add_cubic, add_linear, cubic_rgb, cubic_weights
from idle_shimmer.core.kernel import inlined, kernel
from idle_shimmer.core.vectors import move_four, prefetch

# Taps ahead of a point and after it. Linear reads two floats beyond its taps, hence a column more.
_CUBIC_AHEAD, _CUBIC_AFTER = 1.0, 2.0
_LINEAR_AHEAD, _LINEAR_AFTER = 0.0, 2.0
LEAST_SIDE = 5
# So many points ahead, their first and last rows of taps are asked for.
_READ_AHEAD = 16


# These are compiled by themselves: inlined, their many live values slow down every caller's loop.
@kernel
def sample_folded(
    source: Any, start: int, rows: int, columns: int, x: float, y: float, edge: int
) -> tuple[Any, Any, Any]:
    """The cubic interpolation near the frame's edges, of the picture at float ``start``."""
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
    """The cubic interpolation at one point of the picture at float ``start``."""
    q, p = int(math.floor(x)), int(math.floor(y))
    if 1 <= p < rows - 2 and 1 <= q < columns - 2:
        base = start + ((p - 1) * columns + q - 1) * 3
        return cubic_rgb(source, base, columns * 3, np.float32(x - q), np.float32(y - p))
    return sample_folded(source, start, rows, columns, x, y, edge)


@kernel
def row_store(length: int) -> Any:
    """Room for a row of points: (first float, fractions x and y, weight; folded x and y; rows).

    The last four are the weights of the four rows of taps.
    """
    return (
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


@inlined
def reach(quick: bool) -> tuple[float, float]:
    """How far inside the frame a point must lie at its low and its high end to be looked up whole."""
    return (_LINEAR_AHEAD, _LINEAR_AFTER) if quick else (_CUBIC_AHEAD, _CUBIC_AFTER)


@kernel
def add_traced(
    source: Any, size: Any, points: Any, edge: int, quick: bool, store: Any, line: Any
) -> None:
    """Adds what a row of points shows to ``line``.

    ``points`` are (xs, ys, weights), unfolded; where ``edge`` is black, the weights are changed to
    what is covered. Cubic, or linear where ``quick``, at a quarter of the cost.
    """
    xs, ys, weights = points
    rows, columns = size
    width, height = float(columns), float(rows)
    large = min(rows, columns) >= LEAST_SIDE
    if large and not _place(size, xs, ys, weights, quick, store):
        add_placed(source, columns, quick, store, 0, xs.shape[0], line)
        return
    across, down = store[4][: xs.shape[0]], store[5][: xs.shape[0]]
    if edge == BLACK:
        for j in range(xs.shape[0]):
            weights[j] *= np.float32(coverage(xs[j], width) * coverage(ys[j], height))
    fold_row(xs, width, edge, across)
    fold_row(ys, height, edge, down)
    placed = across, down, weights
    if large:
        _place(size, across, down, weights, quick, store)
        add_placed(source, columns, quick, store, 0, xs.shape[0], line)
    _add_beyond(source, size, placed, edge, quick, not large, line)


@inlined
def _all_taps_inside(
    x: float, y: float, rows: int, columns: int, ahead: float, after: float
) -> bool:
    return (x >= ahead) & (y >= ahead) & (x < columns - after) & (y < rows - after)


@kernel
def _place(size: Any, xs: Any, ys: Any, weights: Any, quick: bool, store: Any) -> bool:
    """Finds each point's first tap; whether some points have taps beyond the frame.

    Those are placed at some pixel inside, with a weight of 0.
    """
    rows, columns = size
    ahead, after = reach(quick)
    first, fx, fy, shown = store[:4]
    wide, back = np.int32(columns), np.int32(ahead) * (np.int32(columns) + np.int32(1))
    beyond = False
    for j in range(xs.shape[0]):
        x, y = xs[j] - 0.5, ys[j] - 0.5
        inside = _all_taps_inside(x, y, rows, columns, ahead, after)
        beyond |= not inside
        q, p = np.int32(x), np.int32(y)
        fx[j], fy[j] = np.float32(x - np.float64(q)), np.float32(y - np.float64(p))
        first[j] = (p * wide + q - back) * np.int32(3) if inside else np.int32(0)
        shown[j] = weights[j] if inside else np.float32(0)
    return beyond


@kernel
def add_placed(
    source: Any, columns: int, quick: bool, store: Any, begin: int, end: int, line: Any
) -> None:
    """Adds the points ``begin`` … ``end`` - 1, whose places are in ``store``."""
    first, fx, fy, shown = store[:4]
    a, b, c, d = store[6:]
    row = columns * 3
    if not quick:
        _weigh_rows(fy[begin:end], shown[begin:end], a[begin:], b[begin:], c[begin:], d[begin:])
    last_tap = row if quick else 3 * row
    for j in range(begin, end):
        soon = np.int64(first[min(j + _READ_AHEAD, end - 1)])
        prefetch(source, soon)
        prefetch(source, soon + last_tap)
        base = np.int64(first[j])
        if quick:
            add_linear(source, base, row, fx[j], fy[j], shown[j], line, j * 4)
        else:
            add_cubic(source, base, row, fx[j], a[j], b[j], c[j], d[j], line, j * 4)


@kernel
def _weigh_rows(fy: Any, shown: Any, a: Any, b: Any, c: Any, d: Any) -> None:
    for j in range(fy.shape[0]):
        one, two, three, four = cubic_weights(fy[j])
        a[j], b[j], c[j], d[j] = one * shown[j], two * shown[j], three * shown[j], four * shown[j]


@kernel
def add_point(
    source: Any,
    size: Any,
    x: float,
    y: float,
    weight: Any,
    edge: int,
    quick: bool,
    line: Any,
    j: int,
) -> None:
    """Adds what one point, from the first pixel's centre, shows to pixel ``j`` of ``line``."""
    rows, columns = size
    ahead, after = reach(quick)
    if _all_taps_inside(x, y, rows, columns, ahead, after):
        q, p = int(x), int(y)
        fx, fy = np.float32(x - q), np.float32(y - p)
        if quick:
            add_linear(source, (p * columns + q) * 3, columns * 3, fx, fy, weight, line, j * 4)
        else:
            base = ((p - 1) * columns + q - 1) * 3
            a, b, c, d = cubic_weights(fy)
            down = a * weight, b * weight, c * weight, d * weight
            add_cubic(source, base, columns * 3, fx, *down, line, j * 4)
        return
    red, green, blue = sample_folded(source, 0, rows, columns, x, y, edge)
    line[4 * j] += weight * red
    line[4 * j + 1] += weight * green
    line[4 * j + 2] += weight * blue


@kernel
def _add_beyond(
    source: Any, size: Any, points: Any, edge: int, quick: bool, every: bool, line: Any
) -> None:
    """Adds the points that have taps beyond the frame, or ``every`` one."""
    xs, ys, weights = points
    ahead, after = reach(quick)
    for j in range(xs.shape[0]):
        x, y = xs[j] - 0.5, ys[j] - 0.5
        inside = _all_taps_inside(x, y, size[0], size[1], ahead, after)
        if weights[j] != 0 and (every or not inside):
            add_point(source, size, x, y, weights[j], edge, quick, line, j)


@kernel
def add_line(line: Any, out: Any) -> None:
    """Adds the colours of ``line`` to pixels (length, 3)."""
    for j in range(out.shape[0]):
        for c in range(3):
            out[j, c] += line[4 * j + c]


@kernel
def put_line(line: Any, out: Any) -> None:
    """The colours of ``line`` as pixels (length, 3)."""
    flat, last = out.reshape(-1), out.shape[0] - 1
    for j in range(last):
        move_four(line, 4 * j, flat, 3 * j)
    for c in range(3):
        out[last, c] = line[4 * last + c]
