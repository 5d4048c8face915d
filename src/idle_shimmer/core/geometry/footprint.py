"""Averages over the footprint of an output pixel, where the map shrinks.

The footprint is told from where a point's neighbours look: a parallelogram, of which as many samples
are averaged as it takes, on a suitably halved picture.

Where it is wide along both sides, linear samples do, at half the cost. What they and the halving
spread by themselves is left out of the sides that the samples are laid along: a linear sample
spreads like a side of sqrt(2) pixels, a pixel of a halved picture like one of 1 (variances of the
triangular and the uniform distribution, 1/6 and 1/12). Where one side is narrow, they would blur
along it, and samples are cubic.
"""

import math
from typing import Any

import numpy as np

from idle_shimmer.core.geometry.edges import BLACK, SMEAR, coverage, fold, unfolded
from idle_shimmer.core.geometry.sampling import sample
from idle_shimmer.core.interpolation import add_cubic, add_linear, cubic_weights
from idle_shimmer.core.kernel import inlined, kernel
from idle_shimmer.core.vectors import uncounted

MOST_SAMPLES_A_SIDE = 16
# This many samples for each pixel of a halved picture keep what is left of finer detail from
# aliasing, and leave one sample where halving alone did it.
_SAMPLES_A_PIXEL, _SAMPLES_LESS = 1.5, 0.5
# Up to this footprint one cubic sample does not visibly alias.
SHARP_FOOTPRINT = 1.25
# Halved until a side is shorter than so many pixels.
_LONGEST_CUBIC, _LONGEST_LINEAR = 2.0, 4.0
# Two linear samples closer than this would both fall on one pixel's middle, or both beside it.
_LEAST_APART = 0.5


@inlined
def samples_across(span: float) -> int:
    """How many samples a side an output pixel needs that spans ``span`` pixels of a level."""
    count = int(math.ceil(_SAMPLES_A_PIXEL * span - _SAMPLES_LESS - 1e-6))
    return min(MOST_SAMPLES_A_SIDE, max(1, count))


@inlined
def _linear_samples(span: float, level: int) -> tuple[int, float]:
    """(how many, how far apart in shares of the side) linear samples along ``span`` pixels."""
    left = span * span - (2.0 if level == 0 else 3.0)
    count = int(math.ceil(math.sqrt(max(left, 0.0) + 1) - 1e-6))
    count = min(MOST_SAMPLES_A_SIDE, max(2, count))
    apart = math.sqrt(max(left / (count * count - 1), _LEAST_APART**2))
    return count, apart / span


@inlined
def _nearer(a: float, b: float) -> float:
    """The smaller step: where one neighbour looks across a fold, the other does not."""
    return a if abs(a) <= abs(b) else b


@kernel
def find_wide(xs: Any, ys: Any, row: int, wide: Any) -> bool:
    """Marks the points of a row whose footprint needs more than one sample; whether there is any."""
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
        mark = (ax * ax + ay * ay > sharp) | (bx * bx + by * by > sharp)
        wide[j] = mark
        found |= mark
    return found != 0


@kernel
def average_wide(
    whole: Any,
    halved: Any,
    places: Any,
    xs: Any,
    ys: Any,
    i: int,
    wide: Any,
    covers: Any,
    edge: int,
    line: Any,
) -> None:
    """Adds the average over its footprint for each point of a row that is marked as wide."""
    whole, halved, line = uncounted(whole), uncounted(halved), uncounted(line)
    width, height = float(places[0, 2]), float(places[0, 1])
    for j in range(wide.shape[0]):
        if not wide[j] or covers[j] == 0:
            continue
        point, sides = _footprint(xs, ys, i, j + 1)
        across, down = _length(sides[0], sides[2]), _length(sides[1], sides[3])
        least, deepest = min(across, down), places.shape[0] - 1
        if edge == SMEAR and not _inside(point, sides, max(across, down), width, height):
            # Halved, the outermost pixel is an average, and no longer what has to be smeared.
            deepest = 0
        level = _level(least, _LONGEST_LINEAR, deepest)
        here, steps = _on_level(places, level, point, sides, edge)
        rows, columns = places[level, 1], places[level, 2]
        if least > SHARP_FOOTPRINT and _inside(here, steps, 1.0, columns - 1.0, rows - 1.0):
            along = _linear_samples(across * 0.5**level, level)
            beside = _linear_samples(down * 0.5**level, level)
            source = whole if level == 0 else halved
            _add_samples(
                source, places[level], here, steps, along, beside, True, covers[j], line, j
            )
            continue
        level = _level(least, _LONGEST_CUBIC, deepest)
        here, steps = _on_level(places, level, point, sides, edge)
        rows, columns = places[level, 1], places[level, 2]
        grid = samples_across(across * 0.5**level), samples_across(down * 0.5**level)
        source = whole if level == 0 else halved
        if _inside(here, steps, 1.0, columns - 1.0, rows - 1.0):
            along, beside = (grid[0], 1.0 / grid[0]), (grid[1], 1.0 / grid[1])
            _add_samples(
                source, places[level], here, steps, along, beside, False, covers[j], line, j
            )
        else:
            frame = (width, height, edge)
            _add_folded_samples(
                source, places[level], frame, point, sides, grid, covers[j], line, j
            )


@inlined
def _length(x: float, y: float) -> float:
    # The library's hypot, safe against overflow, takes as long as two samples.
    return math.sqrt(x * x + y * y)


@inlined
def _footprint(
    xs: Any, ys: Any, i: int, k: int
) -> tuple[tuple[float, float], tuple[float, float, float, float]]:
    """Where a point looks, and the footprint's sides: x along both, then y along both."""
    x, y = xs[i, k], ys[i, k]
    return (x, y), (
        _nearer(xs[i, k + 1] - x, x - xs[i, k - 1]),
        _nearer(xs[i + 1, k] - x, x - xs[i - 1, k]),
        _nearer(ys[i, k + 1] - y, y - ys[i, k - 1]),
        _nearer(ys[i + 1, k] - y, y - ys[i - 1, k]),
    )


@inlined
def _level(least: float, longest: float, deepest: int) -> int:
    level = 0
    while level < deepest and least >= longest - 1e-9:
        level, least = level + 1, least / 2
    return level


@inlined
def _on_level(
    places: Any,
    level: int,
    point: tuple[float, float],
    sides: tuple[float, float, float, float],
    edge: int,
) -> tuple[tuple[float, float], tuple[float, float, float, float]]:
    """The footprint folded into the frame, in pixels of a level from its first pixel's centre."""
    width, height = float(places[0, 2]), float(places[0, 1])
    x, turn_x = unfolded(point[0], width, edge)
    y, turn_y = unfolded(point[1], height, edge)
    scale_x, scale_y = places[level, 2] / width, places[level, 1] / height
    steps_x, steps_y = turn_x * scale_x, turn_y * scale_y
    here = (x * scale_x - 0.5, y * scale_y - 0.5)
    return here, (sides[0] * steps_x, sides[1] * steps_x, sides[2] * steps_y, sides[3] * steps_y)


@inlined
def _inside(
    point: tuple[float, float],
    sides: tuple[float, float, float, float],
    taps: float,
    right: float,
    bottom: float,
) -> bool:
    """Whether a footprint lies between 0 and right or bottom, and ``taps`` pixels around it."""
    room_x = (abs(sides[0]) + abs(sides[1])) / 2 + taps
    room_y = (abs(sides[2]) + abs(sides[3])) / 2 + taps
    across = (point[0] >= room_x) & (point[0] < right - room_x)
    return across & (point[1] >= room_y) & (point[1] < bottom - room_y)


@kernel
def _add_samples(
    source: Any,
    level: Any,
    point: tuple[float, float],
    sides: tuple[float, float, float, float],
    along: tuple[int, float],
    beside: tuple[int, float],
    linear: bool,
    cover: Any,
    line: Any,
    j: int,
) -> None:
    """All taps lie inside; ``along`` and ``beside`` say how many and how far apart, of the sides."""
    start, row = level[0], level[2] * 3
    weight = cover / np.float32(along[0] * beside[0])
    for n in range(along[0]):
        s = (n - 0.5 * (along[0] - 1)) * along[1]
        x, y = point[0] + s * sides[0], point[1] + s * sides[2]
        for m in range(beside[0]):
            t = (m - 0.5 * (beside[0] - 1)) * beside[1]
            u, v = x + t * sides[1], y + t * sides[3]
            q, p = int(u), int(v)
            fx, fy = np.float32(u - q), np.float32(v - p)
            if linear:
                add_linear(source, start + p * row + q * 3, row, fx, fy, weight, line, 4 * j)
            else:
                a, b, c, d = cubic_weights(fy)
                down = a * weight, b * weight, c * weight, d * weight
                add_cubic(source, start + (p - 1) * row + (q - 1) * 3, row, fx, *down, line, 4 * j)


@kernel
def _add_folded_samples(
    source: Any,
    level: Any,
    frame: tuple[float, float, int],
    point: tuple[float, float],
    sides: tuple[float, float, float, float],
    grid: tuple[int, int],
    cover: Any,
    line: Any,
    j: int,
) -> None:
    """``point`` and ``sides`` in pixels of the whole picture, each sample folded by itself."""
    start, rows, columns = level
    width, height, edge = frame
    weight = cover / np.float32(grid[0] * grid[1])
    for n in range(grid[0]):
        s = (n + 0.5) / grid[0] - 0.5
        for m in range(grid[1]):
            t = (m + 0.5) / grid[1] - 0.5
            u, v = point[0] + s * sides[0] + t * sides[1], point[1] + s * sides[2] + t * sides[3]
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
