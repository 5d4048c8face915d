"""Adds what footprints show: a run of neighbouring points at a time, one sample of each after another.

So all but the sampling itself is vectorised.
"""

from typing import Any, NamedTuple

import numpy as np

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.geometry.edge_modes import BLACK, coverage, fold
from idle_shimmer.core.geometry.footprint import measure
from idle_shimmer.core.geometry.footprint_memory import (
    ACROSS,
    AX,
    AY,
    BX,
    BY,
    COUNT_A,
    COUNT_B,
    FIRST_TAP,
    FRACTION_X,
    FRACTION_Y,
    IS_INSIDE,
    LEVEL,
    NO_LEVEL,
    RUN,
    SHARE,
    SHOWN,
    SPACING_A,
    SPACING_B,
    STEP_AX,
    STEP_AY,
    STEP_BX,
    STEP_BY,
    TAP_A,
    TAP_B,
    TAP_C,
    TAP_D,
)
from idle_shimmer.core.geometry.sampling import sample
from idle_shimmer.core.picture.resampling import POINTS_AHEAD, add_cubic, cubic_weights, fetch_taps

# No picture is halved so often.
_HIGHEST = 64


class Footprint(NamedTuple):
    """Where a point looks, and the sides of its footprint: x along both, then y along both."""

    x: float
    y: float
    side_ax: float
    side_bx: float
    side_ay: float
    side_by: float


class Grid(NamedTuple):
    """How many samples a footprint has along each side, and how far apart, as shares of the sides."""

    count_a: int
    count_b: int
    spacing_a: float
    spacing_b: float


@kernel
def add_wide(
    pyramid: Any, points: Any, wide: Any, covers: Any, footprints: Any, edge: int, line: Any
) -> None:
    """Add the average over its footprint for each point of a row, of those not marked as wide one sample.

    ``pyramid`` is (whole, halved, places) as in ``pyramid.Pyramid``; ``points`` are (xs, ys) of the
    row; ``footprints`` have been given the sides.
    """
    whole, halved, places = pyramid
    measure(points, places, wide, covers, footprints, edge)
    counts = footprints.counts
    for first in range(0, wide.shape[0], RUN):
        run = first, min(first + RUN, wide.shape[0])
        least, most = _levels_of(counts[first : run[1]])
        for level in range(least, most + 1):
            if level == 0:
                _add_run(whole, (level, places), run, points, footprints, edge, line)
            else:
                _add_run(halved, (level, places), run, points, footprints, edge, line)


@kernel
def _levels_of(levels: Any) -> tuple[int, int]:
    """Return the first and the last level of a run of footprints; without any, the last lies before."""
    least, most = np.int32(_HIGHEST), np.int32(-1)
    for j in range(levels.shape[0]):
        is_one = levels[j] != NO_LEVEL
        least = min(least, levels[j] if is_one else np.int32(_HIGHEST))
        most = max(most, levels[j] if is_one else np.int32(-1))
    return int(least), int(most)


@kernel
def _add_run(
    source: Any, at: Any, run: Any, points: Any, footprints: Any, edge: int, line: Any
) -> None:
    """Add the footprints of the points ``run`` (first, end) that are sampled on a level.

    ``at`` is (level, places of all levels).
    """
    level, places = at
    counts, weights, floats = footprints.counts, footprints.weights, footprints.floats
    first, end = run
    at_level = level, places[level, 0], places[level, 1], places[level, 2]
    count_a, count_b, any_beyond = _largest_grid(counts[first:], end - first, level)
    row = at_level[3] * 3
    for n in range(count_a):
        for m in range(count_b):
            _place(footprints, first, end, (level, row), (n, m))
            # The further samples lie beside the first ones.
            is_first = n + m == 0
            for k in range(end - first):
                if weights[SHOWN + k] == 0:
                    continue
                if is_first:
                    later = min(k + POINTS_AHEAD, end - first - 1)
                    fetch_taps(source, np.int64(floats[later]), row)
                down = (
                    weights[TAP_A + k],
                    weights[TAP_B + k],
                    weights[TAP_C + k],
                    weights[TAP_D + k],
                )
                at = 4 * (first + k)
                add_cubic(source, np.int64(floats[k]), row, (weights[ACROSS + k], down), line, at)
    if any_beyond:
        frame = float(places[0, 2]), float(places[0, 1]), edge
        _add_beyond(source, at_level, frame, run, points, footprints, line)


@kernel
def _largest_grid(counts: Any, length: int, level: int) -> tuple[int, int, bool]:
    """Return the most samples along both sides of the footprints of a level, and whether any lie beyond.

    0 where no footprint of the level lies inside.
    """
    count_a, count_b, beyond = np.int32(0), np.int32(0), np.int32(0)
    for j in range(length):
        is_here = np.int32(counts[LEVEL + j] == level)
        inside = is_here * counts[IS_INSIDE + j]
        count_a = max(count_a, inside * counts[COUNT_A + j])
        count_b = max(count_b, inside * counts[COUNT_B + j])
        beyond = max(beyond, is_here - inside)
    return int(count_a), int(count_b), bool(beyond != 0)


@kernel
def _place(footprints: Any, first: int, end: int, level: Any, sample: Any) -> None:
    """Find the first taps of one sample of each footprint, and the weights of its rows of taps.

    ``level`` is (number, floats of a row), ``sample`` counts along both sides. What is not shown is given
    the weight 0 and some place.
    """
    lengths, counts = footprints.lengths[first:], footprints.counts[first:]
    weights, floats = footprints.weights, footprints.floats
    number, row, three, none = np.int32(level[0]), np.int32(level[1]), np.int32(3), np.float32(0)
    n, m = np.int32(sample[0]), np.int32(sample[1])
    along_a, along_b = np.float32(n), np.float32(m)
    for k in range(end - first):
        is_shown = (counts[LEVEL + k] == number) & (counts[IS_INSIDE + k] != 0)
        is_shown &= (n < counts[COUNT_A + k]) & (m < counts[COUNT_B + k])
        u, v = lengths[FRACTION_X + k], lengths[FRACTION_Y + k]
        u += along_a * lengths[STEP_AX + k] + along_b * lengths[STEP_BX + k]
        v += along_a * lengths[STEP_AY + k] + along_b * lengths[STEP_BY + k]
        left, top = np.floor(u), np.floor(v)
        weight = lengths[SHARE + k] if is_shown else none
        floats[k] = counts[FIRST_TAP + k] + np.int32(top) * row + np.int32(left) * three
        a, b, c, d = cubic_weights(v - top)
        weights[SHOWN + k], weights[ACROSS + k] = weight, u - left
        weights[TAP_A + k], weights[TAP_B + k] = a * weight, b * weight
        weights[TAP_C + k], weights[TAP_D + k] = c * weight, d * weight


@kernel
def _add_beyond(
    source: Any, level: Any, frame: Any, run: Any, points: Any, footprints: Any, line: Any
) -> None:
    """Add the footprints that have taps beyond the frame."""
    lengths, counts = footprints.lengths, footprints.counts
    xs, ys = points
    for j in range(run[0], run[1]):
        if counts[LEVEL + j] != level[0] or counts[IS_INSIDE + j] or lengths[SHARE + j] == 0:
            continue
        apart = lengths[SPACING_A + j], lengths[SPACING_B + j]
        grid = Grid(counts[COUNT_A + j], counts[COUNT_B + j], *apart)
        ax, ay, bx, by = lengths[AX + j], lengths[AY + j], lengths[BX + j], lengths[BY + j]
        footprint = Footprint(xs[j], ys[j], ax, bx, ay, by)
        _add_folded_samples(
            source, level[1:], frame, footprint, grid, lengths[SHARE + j], (line, j)
        )


@kernel
def _add_folded_samples(
    source: Any,
    level: Any,
    frame: Any,
    footprint: Any,
    grid: Any,
    weight: Any,
    target: Any,
) -> None:
    """Add samples in pixels of the whole picture, each folded by itself.

    ``level`` is (first float, rows, columns), ``frame`` is (width, height, edge), ``target`` is (line, point).
    """
    line, j = target
    start, rows, columns = level
    width, height, edge = frame
    for n in range(grid.count_a):
        s = (n - (grid.count_a - 1) / 2) * grid.spacing_a
        for m in range(grid.count_b):
            t = (m - (grid.count_b - 1) / 2) * grid.spacing_b
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
