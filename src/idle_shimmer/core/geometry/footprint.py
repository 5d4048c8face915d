"""Averages over the footprint of an output pixel, where the map shrinks the picture.

The footprint is the parallelogram between where a point's neighbours look; as many samples of it are
averaged as it needs, on a suitably halved picture.
"""

import math
from typing import Any, NamedTuple

import numpy as np

from idle_shimmer.core.compute.jit import inlined, kernel
from idle_shimmer.core.geometry.edges import BLACK, SMEAR, coverage, fold, fold_with_sign
from idle_shimmer.core.geometry.sampling import sample
from idle_shimmer.core.picture.resampling import add_cubic, cubic_weights

MAX_SAMPLES_PER_SIDE = 16
# This many samples for each pixel of a halved picture keep what is left of finer detail from
# aliasing, and leave one sample where halving alone is enough.
_SAMPLES_PER_PIXEL, _SAMPLES_LESS = 1.5, 0.5
# Up to this footprint one cubic sample does not visibly alias.
SHARP_FOOTPRINT = 1.25
# Halved until a side is shorter than so many pixels.
_MAX_SIDE = 2.0


class Footprint(NamedTuple):
    """Where a point looks, and the sides of its footprint: x along both, then y along both."""

    x: float
    y: float
    side_ax: float
    side_bx: float
    side_ay: float
    side_by: float


class Grid(NamedTuple):
    """How many samples a footprint has along each side."""

    count_a: int
    count_b: int


@inlined
def samples_across(span: float) -> int:
    """Return how many samples a side an output pixel needs that spans ``span`` pixels of a level."""
    count = int(math.ceil(_SAMPLES_PER_PIXEL * span - _SAMPLES_LESS - 1e-6))
    return min(MAX_SAMPLES_PER_SIDE, max(1, count))


@inlined
def _nearer(a: float, b: float) -> float:
    """Return the smaller step: where one neighbour looks across a fold, the other does not."""
    return a if abs(a) <= abs(b) else b


@kernel
def find_wide(xs: Any, ys: Any, row: int, wide: Any) -> bool:
    """Mark the points of a row whose footprint needs several samples; return whether there are any."""
    sharp = SHARP_FOOTPRINT * SHARP_FOOTPRINT
    above, here, below = xs[row - 1], xs[row], xs[row + 1]
    above_y, here_y, below_y = ys[row - 1], ys[row], ys[row + 1]
    found = 0
    for j in range(wide.shape[0]):
        x, y = here[j + 1], here_y[j + 1]
        ax, ay = _nearer(here[j + 2] - x, x - here[j]), _nearer(here_y[j + 2] - y, y - here_y[j])
        bx, by = (
            _nearer(below[j + 1] - x, x - above[j + 1]),
            _nearer(below_y[j + 1] - y, y - above_y[j + 1]),
        )
        marked = (ax * ax + ay * ay > sharp) | (bx * bx + by * by > sharp)
        wide[j] = marked
        found |= marked
    return found != 0


@kernel
def add_wide(
    pyramid: Any, points: Any, i: int, wide: Any, covers: Any, edge: int, line: Any
) -> None:
    """Add the average over its footprint for each point of a row that is marked as wide.

    ``pyramid`` is (whole, halved, places) as in ``pyramid.Pyramid``; ``points`` are (xs, ys) of a
    block with its border, ``i`` the row in it.
    """
    whole, halved, places = pyramid
    xs, ys = points
    width, height = float(places[0, 2]), float(places[0, 1])
    for j in range(wide.shape[0]):
        if not wide[j] or covers[j] == 0:
            continue
        footprint = _footprint(xs, ys, i, j + 1)
        across = _length(footprint.side_ax, footprint.side_ay)
        down = _length(footprint.side_bx, footprint.side_by)
        least, deepest = min(across, down), places.shape[0] - 1
        if edge == SMEAR and not _inside(footprint, max(across, down), width, height):
            # Halved, the outermost pixel is an average, and no longer what has to be smeared.
            deepest = 0
        level = _level(least, deepest)
        placed = _on_level(places, level, footprint, edge)
        count_a, count_b = samples_across(across * 0.5**level), samples_across(down * 0.5**level)
        grid = Grid(count_a, count_b)
        source = whole if level == 0 else halved
        if _inside(placed, 1.0, places[level, 2] - 1.0, places[level, 1] - 1.0):
            _add_samples(source, places[level], placed, grid, covers[j], line, j)
        else:
            frame = (width, height, edge, covers[j])
            _add_folded_samples(source, places[level], frame, footprint, grid, line, j)


@inlined
def _length(x: float, y: float) -> float:
    # The library's hypot, safe against overflow, takes as long as two samples.
    return math.sqrt(x * x + y * y)


@inlined
def _footprint(xs: Any, ys: Any, i: int, k: int) -> Any:
    x, y = xs[i, k], ys[i, k]
    return Footprint(
        x,
        y,
        _nearer(xs[i, k + 1] - x, x - xs[i, k - 1]),
        _nearer(xs[i + 1, k] - x, x - xs[i - 1, k]),
        _nearer(ys[i, k + 1] - y, y - ys[i, k - 1]),
        _nearer(ys[i + 1, k] - y, y - ys[i - 1, k]),
    )


@inlined
def _level(least: float, deepest: int) -> int:
    level = 0
    while level < deepest and least >= _MAX_SIDE - 1e-9:
        level, least = level + 1, least / 2
    return level


@inlined
def _on_level(places: Any, level: int, footprint: Any, edge: int) -> Any:
    """Return the footprint folded into the frame, in pixels of a level from its first's centre."""
    width, height = float(places[0, 2]), float(places[0, 1])
    x, sign_x = fold_with_sign(footprint.x, width, edge)
    y, sign_y = fold_with_sign(footprint.y, height, edge)
    scale_x, scale_y = places[level, 2] / width, places[level, 1] / height
    step_x, step_y = sign_x * scale_x, sign_y * scale_y
    return Footprint(
        x * scale_x - 0.5,
        y * scale_y - 0.5,
        footprint.side_ax * step_x,
        footprint.side_bx * step_x,
        footprint.side_ay * step_y,
        footprint.side_by * step_y,
    )


@inlined
def _inside(footprint: Any, taps: float, right: float, bottom: float) -> bool:
    """Whether a footprint, and ``taps`` pixels around it, lie between 0 and right or bottom."""
    room_x = (abs(footprint.side_ax) + abs(footprint.side_bx)) / 2 + taps
    room_y = (abs(footprint.side_ay) + abs(footprint.side_by)) / 2 + taps
    across = (footprint.x >= room_x) & (footprint.x < right - room_x)
    return across & (footprint.y >= room_y) & (footprint.y < bottom - room_y)


@kernel
def _add_samples(
    source: Any, level: Any, footprint: Any, grid: Any, cover: Any, line: Any, j: int
) -> None:
    """Add samples whose taps all lie inside the level (first float, rows, columns)."""
    start, row = level[0], level[2] * 3
    weight = cover / np.float32(grid.count_a * grid.count_b)
    for n in range(grid.count_a):
        s = (n + 0.5) / grid.count_a - 0.5
        x, y = footprint.x + s * footprint.side_ax, footprint.y + s * footprint.side_ay
        for m in range(grid.count_b):
            t = (m + 0.5) / grid.count_b - 0.5
            u, v = x + t * footprint.side_bx, y + t * footprint.side_by
            q, p = int(u), int(v)
            fx, fy = np.float32(u - q), np.float32(v - p)
            base = start + (p - 1) * row + (q - 1) * 3
            a, b, c, d = cubic_weights(fy)
            down = (a * weight, b * weight, c * weight, d * weight)
            add_cubic(source, base, row, (fx, down), line, 4 * j)


@kernel
def _add_folded_samples(
    source: Any, level: Any, frame: Any, footprint: Any, grid: Any, line: Any, j: int
) -> None:
    """Add samples in pixels of the whole picture, each folded by itself.

    ``frame`` is (width, height, edge, cover).
    """
    start, rows, columns = level
    width, height, edge, cover = frame
    weight = cover / np.float32(grid.count_a * grid.count_b)
    for n in range(grid.count_a):
        s = (n + 0.5) / grid.count_a - 0.5
        for m in range(grid.count_b):
            t = (m + 0.5) / grid.count_b - 0.5
            u = footprint.x + s * footprint.side_ax + t * footprint.side_bx
            v = footprint.y + s * footprint.side_ay + t * footprint.side_by
            shown = weight
            if edge == BLACK:
                shown *= np.float32(coverage(u, width) * coverage(v, height))
            if shown == 0:
                continue
            u, v = fold(u, width, edge) * columns / width, fold(v, height, edge) * rows / height
            red, green, blue = sample(source, start, rows, columns, u - 0.5, v - 0.5, edge)
            line[4 * j] += shown * red
            line[4 * j + 1] += shown * green
            line[4 * j + 2] += shown * blue
