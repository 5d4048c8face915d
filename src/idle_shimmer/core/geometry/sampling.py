"""Looks into a picture at traced points: the inner loops of the lookup.

Conventions: ``source`` is a flat float32 picture of ``rows`` times ``columns`` RGB pixels. Points
are in pixels from the first pixel's centre, already folded into the frame, so that only the taps
around them can lie beyond it; those are folded by ``edge``.

Where a point lies is worked out for a whole row at once, by itself: that loop is vectorised, and
the loop over the taps is free of branches. In one loop both take twice as long.
"""

import math
from typing import Any

import numpy as np

from idle_shimmer.core.geometry.edges import fold_index
from idle_shimmer.core.interpolation import cubic_rgb, cubic_weights, linear_rgb, linear_weights
from idle_shimmer.core.kernel import inlined, kernel

# Taps ahead of a point and after it. The vector of the last tap reads one float further than its
# pixel, hence one column and row more.
_CUBIC_AHEAD, _CUBIC_AFTER = 1.0, 3.0
_LINEAR_AHEAD, _LINEAR_AFTER = 0.0, 2.0
_LEAST_SIDE = 5


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
    if 1 <= p < rows - 2 and 1 <= q < columns - 3:
        wx, wy = cubic_weights(np.float32(x - q)), cubic_weights(np.float32(y - p))
        return cubic_rgb(source, start + ((p - 1) * columns + q - 1) * 3, columns * 3, wx, wy)
    return sample_folded(source, start, rows, columns, x, y, edge)


@kernel
def row_store(length: int) -> Any:
    """Room for the places of a row of points: (first float, fractions x and y, cover)."""
    return (
        np.empty(length, np.int32),
        np.empty(length, np.float32),
        np.empty(length, np.float32),
        np.empty(length, np.float32),
    )


@kernel
def add_row(
    source: Any,
    rows: int,
    columns: int,
    xs: Any,
    ys: Any,
    covers: Any,
    edge: int,
    quick: bool,
    store: Any,
    line: Any,
) -> None:
    """Adds what a row of points shows to ``line`` (length, 3), times ``covers``.

    Cubic, or linear where ``quick``, at a third of the cost. ``store`` is a ``row_store``.
    """
    ahead = _LINEAR_AHEAD if quick else _CUBIC_AHEAD
    after = _LINEAR_AFTER if quick else _CUBIC_AFTER
    if min(rows, columns) < _LEAST_SIDE:
        _add_beyond(source, rows, columns, xs, ys, covers, edge, math.inf, math.inf, line)
        return
    beyond = _place(rows, columns, xs, ys, covers, ahead, after, store)
    if quick:
        _add_linear(source, columns, store, line)
    else:
        _add_cubic(source, columns, store, line)
    if beyond:
        _add_beyond(source, rows, columns, xs, ys, covers, edge, ahead, after, line)


@inlined
def _all_taps_inside(
    x: float, y: float, rows: int, columns: int, ahead: float, after: float
) -> bool:
    return (x >= ahead) & (y >= ahead) & (x < columns - after) & (y < rows - after)


@kernel
def _place(
    rows: int,
    columns: int,
    xs: Any,
    ys: Any,
    covers: Any,
    ahead: float,
    after: float,
    store: Any,
) -> bool:
    """Finds each point's first tap; whether some points have taps beyond the frame.

    Those are placed at some pixel inside, with a cover of 0.
    """
    first, fx, fy, shown = store
    wide, back = np.int32(columns), np.int32(ahead) * (np.int32(columns) + np.int32(1))
    beyond = False
    for j in range(xs.shape[0]):
        x, y = xs[j], ys[j]
        inside = _all_taps_inside(x, y, rows, columns, ahead, after)
        beyond |= not inside
        q, p = np.int32(x), np.int32(y)
        fx[j], fy[j] = np.float32(x - np.float64(q)), np.float32(y - np.float64(p))
        first[j] = (p * wide + q - back) * np.int32(3) if inside else np.int32(0)
        shown[j] = covers[j] if inside else np.float32(0)
    return beyond


@kernel
def _add_cubic(source: Any, columns: int, store: Any, line: Any) -> None:
    first, fx, fy, shown = store
    for j in range(line.shape[0]):
        wx, wy = cubic_weights(fx[j]), cubic_weights(fy[j])
        red, green, blue = cubic_rgb(source, np.int64(first[j]), columns * 3, wx, wy)
        line[j, 0] += shown[j] * red
        line[j, 1] += shown[j] * green
        line[j, 2] += shown[j] * blue


@kernel
def _add_linear(source: Any, columns: int, store: Any, line: Any) -> None:
    first, fx, fy, shown = store
    for j in range(line.shape[0]):
        wx, wy = linear_weights(fx[j]), linear_weights(fy[j])
        red, green, blue = linear_rgb(source, np.int64(first[j]), columns * 3, wx, wy)
        line[j, 0] += shown[j] * red
        line[j, 1] += shown[j] * green
        line[j, 2] += shown[j] * blue


@kernel
def _add_beyond(
    source: Any,
    rows: int,
    columns: int,
    xs: Any,
    ys: Any,
    covers: Any,
    edge: int,
    ahead: float,
    after: float,
    line: Any,
) -> None:
    """Adds the points that have taps beyond the frame."""
    for j in range(line.shape[0]):
        x, y = xs[j], ys[j]
        if covers[j] != 0 and not _all_taps_inside(x, y, rows, columns, ahead, after):
            red, green, blue = sample_folded(source, 0, rows, columns, x, y, edge)
            line[j, 0] += covers[j] * red
            line[j, 1] += covers[j] * green
            line[j, 2] += covers[j] * blue
