"""Averages over the footprint of an output pixel, where the map shrinks.

The footprint is told from where a point's neighbours look. On a suitably halved picture it spans 1
to 2 pixels a side, of which as many samples are averaged as it takes.
"""

import math
from typing import Any

import numpy as np

from idle_shimmer.core.geometry.edges import BLACK, SMEAR, coverage, fold
from idle_shimmer.core.geometry.sampling import sample
from idle_shimmer.core.kernel import inlined, kernel

MOST_SAMPLES_A_SIDE = 16
# This many samples for each pixel of a halved picture keep what is left of finer detail from
# aliasing, and leave one sample where halving alone did it.
_SAMPLES_A_PIXEL, _SAMPLES_LESS = 1.5, 0.5
# Up to this footprint one cubic sample does not visibly alias.
SHARP_FOOTPRINT = 1.25


@inlined
def samples_across(span: float) -> int:
    """How many samples a side an output pixel needs that spans ``span`` pixels of a level."""
    count = int(math.ceil(_SAMPLES_A_PIXEL * span - _SAMPLES_LESS - 1e-6))
    return min(MOST_SAMPLES_A_SIDE, max(1, count))


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
    width, height = float(places[0, 2]), float(places[0, 1])
    for j in range(wide.shape[0]):
        if not wide[j] or covers[j] == 0:
            continue
        k = j + 1
        x, y = xs[i, k], ys[i, k]
        ax, ay = (
            _nearer(xs[i, k + 1] - x, x - xs[i, k - 1]),
            _nearer(ys[i, k + 1] - y, y - ys[i, k - 1]),
        )
        bx, by = (
            _nearer(xs[i + 1, k] - x, x - xs[i - 1, k]),
            _nearer(ys[i + 1, k] - y, y - ys[i - 1, k]),
        )
        across, down = math.sqrt(ax * ax + ay * ay), math.sqrt(bx * bx + by * by)
        least = min(across, down)
        room_x, room_y = abs(ax) + abs(bx), abs(ay) + abs(by)
        inside = room_x < x < width - room_x and room_y < y < height - room_y
        # Halved, the outermost pixel is an average, and no longer what has to be smeared.
        deepest = 0 if edge == SMEAR and not inside else places.shape[0] - 1
        level, share = 0, 1.0
        while level < deepest and least * share >= 2 - 1e-9:
            level, share = level + 1, share / 2
        source = whole if level == 0 else halved
        start, rows, columns = places[level, 0], places[level, 1], places[level, 2]
        scale_x, scale_y = columns / width, rows / height
        samples_a, samples_b = samples_across(across * share), samples_across(down * share)
        red, green, blue = np.float32(0), np.float32(0), np.float32(0)
        for n in range(samples_a):
            s = (n + 0.5) / samples_a - 0.5
            for m in range(samples_b):
                t = (m + 0.5) / samples_b - 0.5
                u, v = x + s * ax + t * bx, y + s * ay + t * by
                shown = np.float32(1)
                if not inside:
                    if edge == BLACK:
                        shown = np.float32(coverage(u, width) * coverage(v, height))
                    u, v = fold(u, width, edge), fold(v, height, edge)
                r, g, b = sample(
                    source, start, rows, columns, u * scale_x - 0.5, v * scale_y - 0.5, edge
                )
                red += shown * r
                green += shown * g
                blue += shown * b
        weight = covers[j] / np.float32(samples_a * samples_b)
        line[4 * j] += weight * red
        line[4 * j + 1] += weight * green
        line[4 * j + 2] += weight * blue
