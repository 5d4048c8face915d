"""Averages over the footprint of an output pixel, where the map shrinks the picture.

The footprint is the parallelogram between where a point's neighbours look; as many samples of it are
averaged as it needs, on a suitably halved picture. Where the map shears, the parallelogram's sides are
long and nearly parallel: there the rectangle along the axes of the ellipse into which the map turns a
circle covers the same area with fewer samples. (Heckbert 1989, "Fundamentals of Texture Mapping and
Image Warping", averages over that ellipse.)

Footprints are found for a row of points at a time, and their samples collected in lists: so all but
the sampling itself is vectorised. The compiler does that only where it knows that the arrays of a loop
do not overlap: so the members of a row's footprints are parts of one array, at constant places.
"""

import math
from typing import Any, NamedTuple

import numpy as np

from idle_shimmer.core.compute.jit import inlined, kernel
from idle_shimmer.core.geometry.edges import BLACK, MIRROR, SMEAR, TILE, coverage, fold
from idle_shimmer.core.geometry.inverse_map import BLOCK_COLUMNS
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
# Where the cosine between the sides of a footprint is larger, its axes are taken.
_OBLIQUE = 0.25
# Parts of the memory for a row's footprints, each with an entry a point: the sides, from left to right
# and from above to below; their lengths; where the point lies on its level, counted from the first
# pixel's centre; what turns the sides into pixels of the level; the way from one sample to the next along
# each side, there.
_LENGTH_PARTS = 14
_LENGTHS = range(0, _LENGTH_PARTS * BLOCK_COLUMNS, BLOCK_COLUMNS)
_AX, _AY, _BX, _BY, _A, _B, _X, _Y, _SCALE_X, _SCALE_Y = _LENGTHS[:10]
_STEP_AX, _STEP_AY, _STEP_BX, _STEP_BY = _LENGTHS[10:]
# The level, how many samples there are along each side, whether all their taps lie inside the level.
_LEVEL, _COUNT_A, _COUNT_B, _IS_INSIDE = range(0, 4 * BLOCK_COLUMNS, BLOCK_COLUMNS)
# Parts of the memory for a list of samples: where they lie on their level; their weight, where they lie
# between taps horizontally, the weights of the four rows of taps; the first float of the taps, the float
# of the line to which the sample is added.
_LISTED = 512
_U, _V = range(0, 2 * _LISTED, _LISTED)
_WEIGHT, _FX, _TAP_A, _TAP_B, _TAP_C, _TAP_D = range(0, 6 * _LISTED, _LISTED)
_FIRST, _AT = range(0, 2 * _LISTED, _LISTED)


class Footprints(NamedTuple):
    """Memory for the footprints of a row of points (lengths, counts) and a list of samples."""

    lengths: Any
    counts: Any
    places: Any
    weights: Any
    floats: Any


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


@kernel
def footprints_of_row() -> Any:
    """Return uninitialised memory."""
    return Footprints(
        np.empty(_LENGTH_PARTS * BLOCK_COLUMNS),
        np.empty(4 * BLOCK_COLUMNS, np.int32),
        np.empty(2 * _LISTED),
        np.empty(6 * _LISTED, np.float32),
        np.empty(2 * _LISTED, np.int32),
    )


@inlined
def samples_across(span: float) -> int:
    """Return how many samples a side an output pixel needs that spans ``span`` pixels of a level."""
    count = int(math.ceil(_SAMPLES_PER_PIXEL * span - _SAMPLES_LESS - 1e-6))
    return min(MAX_SAMPLES_PER_SIDE, max(1, count))


@kernel
def find_wide(xs: Any, ys: Any, row: int, wide: Any, footprints: Any) -> bool:
    """Mark the points of a row whose footprint needs several samples; return whether there are any.

    ``xs`` and ``ys`` are those of a block with its border, ``row`` counts in it. ``footprints`` are
    given the sides.
    """
    lengths, sharp, found = footprints.lengths, SHARP_FOOTPRINT * SHARP_FOOTPRINT, np.int32(0)
    _find_steps(xs[row, :-2], xs[row, 1:-1], xs[row, 2:], lengths[_AX:])
    _find_steps(ys[row, :-2], ys[row, 1:-1], ys[row, 2:], lengths[_AY:])
    _find_steps(xs[row - 1, 1:-1], xs[row, 1:-1], xs[row + 1, 1:-1], lengths[_BX:])
    _find_steps(ys[row - 1, 1:-1], ys[row, 1:-1], ys[row + 1, 1:-1], lengths[_BY:])
    for j in range(wide.shape[0]):
        ax, ay, bx, by = lengths[_AX + j], lengths[_AY + j], lengths[_BX + j], lengths[_BY + j]
        marked = np.int32(max(ax * ax + ay * ay, bx * bx + by * by) > sharp)
        wide[j] = marked
        found |= marked
    return found != 0


@kernel
def _find_steps(before: Any, here: Any, after: Any, steps: Any) -> None:
    """Find the smaller step to a neighbour: where one looks across a fold, the other does not."""
    for j in range(here.shape[0]):
        one, other = after[j] - here[j], here[j] - before[j]
        steps[j] = one if abs(one) <= abs(other) else other


@kernel
def add_wide(
    pyramid: Any, points: Any, wide: Any, covers: Any, footprints: Any, edge: int, line: Any
) -> None:
    """Add the average over its footprint for each point of a row that is marked as wide.

    ``pyramid`` is (whole, halved, places) as in ``pyramid.Pyramid``; ``points`` are (xs, ys) of the
    row; ``footprints`` have been given the sides.
    """
    whole, halved, places = pyramid
    lengths, counts = footprints.lengths, footprints.counts
    _straighten(lengths, points[0].shape[0])
    _choose_levels(points, places, edge, lengths, counts)
    _place_on_levels(points, places, edge, lengths, counts)
    _find_steps_between(lengths, counts, points[0].shape[0])
    row = points, wide, covers
    _add_footprints(whole, places, 0, row, footprints, edge, line)
    for level in range(1, places.shape[0]):
        _add_footprints(halved, places, level, row, footprints, edge, line)


@kernel
def _straighten(lengths: Any, count: int) -> None:
    """Replace oblique sides by the ellipse's axes; find all lengths."""
    for j in range(count):
        ax, ay, bx, by = lengths[_AX + j], lengths[_AY + j], lengths[_BX + j], lengths[_BY + j]
        a2, b2, oblique = ax * ax + ay * ay, bx * bx + by * by, ax * bx + ay * by
        is_oblique = oblique * oblique > _OBLIQUE * _OBLIQUE * a2 * b2
        mean, difference = (a2 + b2) / 2, (a2 - b2) / 2
        spread = math.sqrt(difference * difference + oblique * oblique)
        # The half axes are the map's singular values; it turns (cos, sin) into the longer one.
        share = np.divide(difference, spread) if is_oblique else 1.0
        cos, sin = math.sqrt((1 + share) / 2), math.sqrt((1 - share) / 2)
        sin = -sin if oblique < 0 else sin
        lengths[_AX + j], lengths[_AY + j] = ax * cos + bx * sin, ay * cos + by * sin
        lengths[_BX + j], lengths[_BY + j] = bx * cos - ax * sin, by * cos - ay * sin
        lengths[_A + j] = math.sqrt(mean + spread if is_oblique else a2)
        lengths[_B + j] = math.sqrt(max(mean - spread, 0.0) if is_oblique else b2)


@kernel
def _choose_levels(points: Any, places: Any, edge: int, lengths: Any, counts: Any) -> None:
    """Find the level on which each footprint's shorter side is long enough."""
    xs, ys = points
    for j in range(xs.shape[0]):
        counts[_LEVEL + j] = 0
    for level in range(1, places.shape[0]):
        least = _MAX_SIDE * 2.0 ** (level - 1) - 1e-9
        for j in range(xs.shape[0]):
            counts[_LEVEL + j] += np.int32(min(lengths[_A + j], lengths[_B + j]) >= least)
    if edge == SMEAR and places.shape[0] > 1:
        # Halved, the outermost pixel is an average, and no longer what has to be smeared.
        width, height = float(places[0, 2]), float(places[0, 1])
        for j in range(xs.shape[0]):
            taps = max(lengths[_A + j], lengths[_B + j])
            x_room = (abs(lengths[_AX + j]) + abs(lengths[_BX + j])) / 2 + taps
            y_room = (abs(lengths[_AY + j]) + abs(lengths[_BY + j])) / 2 + taps
            inside = _lies_inside(xs[j], x_room, width) & _lies_inside(ys[j], y_room, height)
            counts[_LEVEL + j] = counts[_LEVEL + j] if inside else 0


@inlined
def _lies_inside(x: float, room: float, end: float) -> bool:
    """Whether a point, and what lies up to ``room`` away from it, lies between 0 and ``end``."""
    return (x >= room) & (x < end - room)


@kernel
def _place_on_levels(points: Any, places: Any, edge: int, lengths: Any, counts: Any) -> None:
    """Find where footprints lie on their levels, and how many samples they need there."""
    count, (_, rows, columns) = points[0].shape[0], places[0]
    _fold_with_signs(points[0], float(columns), edge, lengths[_X:], lengths[_SCALE_X:])
    _fold_with_signs(points[1], float(rows), edge, lengths[_Y:], lengths[_SCALE_Y:])
    for j in range(count):
        counts[_IS_INSIDE + j] = 1
    for level in range(places.shape[0]):
        across, down = places[level, 2] / columns, places[level, 1] / rows
        _scale(lengths, counts, (level, across, places[level, 2]), (_AX, _BX, _X, _SCALE_X), count)
        _scale(lengths, counts, (level, down, places[level, 1]), (_AY, _BY, _Y, _SCALE_Y), count)
        _count(lengths, counts, level, (_A, _COUNT_A), count)
        _count(lengths, counts, level, (_B, _COUNT_B), count)


@kernel
def _fold_with_signs(xs: Any, size: float, edge: int, folded: Any, signs: Any) -> None:
    """Find the points inside 0…size that show at ``xs``; -1 where mirrored there, else 1.

    Smeared and black points stay where they are.
    """
    for j in range(xs.shape[0]):
        copy = np.floor(xs[j] / size) if edge in (MIRROR, TILE) else 0.0
        is_mirrored = edge == MIRROR and copy != 2 * np.floor(copy / 2)
        folded[j] = size * (copy + 1) - xs[j] if is_mirrored else xs[j] - size * copy
        signs[j] = -1.0 if is_mirrored else 1.0


@inlined
def _scale(lengths: Any, counts: Any, axis: Any, members: Any, count: int) -> None:
    """Scale the folded points of one level along one axis; find those whose taps all lie inside.

    ``axis`` is (level, scale, pixels of the level), ``members`` are (side a, side b, place, scale).
    """
    level, scale, pixels = axis
    side_a, side_b, at, scales = members
    for j in range(count):
        is_here = counts[_LEVEL + j] == level
        x = lengths[at + j] * scale - 0.5
        room = (abs(lengths[side_a + j]) + abs(lengths[side_b + j])) * scale / 2 + 1
        is_beyond = is_here & ((x < room) | (x >= pixels - 1 - room))
        lengths[at + j] = x if is_here else lengths[at + j]
        lengths[scales + j] *= scale if is_here else 1.0
        counts[_IS_INSIDE + j] = 0 if is_beyond else counts[_IS_INSIDE + j]


@inlined
def _count(lengths: Any, counts: Any, level: int, members: Any, count: int) -> None:
    """Find how many samples the footprints of one level need along one side (length, count)."""
    side, samples = members
    scale = 0.5**level
    for j in range(count):
        needed = np.ceil(_SAMPLES_PER_PIXEL * scale * lengths[side + j] - _SAMPLES_LESS - 1e-6)
        needed = np.int32(min(max(needed, 1.0), float(MAX_SAMPLES_PER_SIDE)))
        counts[samples + j] = needed if counts[_LEVEL + j] == level else counts[samples + j]


@kernel
def _find_steps_between(lengths: Any, counts: Any, count: int) -> None:
    """Find the ways between samples, and move the points to the first samples."""
    for j in range(count):
        scale_x, scale_y = lengths[_SCALE_X + j], lengths[_SCALE_Y + j]
        share_a = np.divide(1.0, np.float64(counts[_COUNT_A + j]))
        share_b = np.divide(1.0, np.float64(counts[_COUNT_B + j]))
        ax, ay = lengths[_AX + j] * scale_x, lengths[_AY + j] * scale_y
        bx, by = lengths[_BX + j] * scale_x, lengths[_BY + j] * scale_y
        lengths[_STEP_AX + j], lengths[_STEP_AY + j] = ax * share_a, ay * share_a
        lengths[_STEP_BX + j], lengths[_STEP_BY + j] = bx * share_b, by * share_b
        lengths[_X + j] -= (ax * (1 - share_a) + bx * (1 - share_b)) / 2
        lengths[_Y + j] -= (ay * (1 - share_a) + by * (1 - share_b)) / 2


@kernel
def _add_footprints(
    source: Any, places: Any, level: int, row: Any, footprints: Any, edge: int, line: Any
) -> None:
    """Add the footprints that are sampled on a level."""
    (xs, ys), wide, covers = row
    lengths, counts, listed = footprints.lengths, footprints.counts, 0
    samples, weights, floats = footprints.places, footprints.weights, footprints.floats
    at_level = places[level, 0], places[level, 1], places[level, 2]
    frame = float(places[0, 2]), float(places[0, 1]), edge
    for j in range(wide.shape[0]):
        if not wide[j] or covers[j] == 0 or counts[_LEVEL + j] != level:
            continue
        grid = Grid(counts[_COUNT_A + j], counts[_COUNT_B + j])
        if not counts[_IS_INSIDE + j]:
            ax, ay, bx, by = lengths[_AX + j], lengths[_AY + j], lengths[_BX + j], lengths[_BY + j]
            footprint = Footprint(xs[j], ys[j], ax, bx, ay, by)
            _add_folded_samples(source, at_level, frame, footprint, grid, covers[j], line, j)
            continue
        if listed + grid.count_a * grid.count_b > _LISTED:
            _add_listed(source, at_level, footprints, listed, line)
            listed = 0
        weight = covers[j] / np.float32(grid.count_a * grid.count_b)
        step_ax, step_ay = lengths[_STEP_AX + j], lengths[_STEP_AY + j]
        step_bx, step_by = lengths[_STEP_BX + j], lengths[_STEP_BY + j]
        first_x, first_y = lengths[_X + j], lengths[_Y + j]
        for n in range(grid.count_a):
            x, y = first_x + n * step_ax, first_y + n * step_ay
            for m in range(grid.count_b):
                samples[_U + listed], samples[_V + listed] = x + m * step_bx, y + m * step_by
                weights[_WEIGHT + listed], floats[_AT + listed] = weight, 4 * j
                listed += 1
    _add_listed(source, at_level, footprints, listed, line)


@kernel
def _add_listed(source: Any, at_level: Any, footprints: Any, listed: int, line: Any) -> None:
    """Add what the samples of a list show to ``line``."""
    places, weights, floats = footprints.places, footprints.weights, footprints.floats
    start, _, columns = at_level
    row = columns * 3
    _place(places, weights, floats, (start, row), listed)
    for k in range(listed):
        down = (
            weights[_TAP_A + k],
            weights[_TAP_B + k],
            weights[_TAP_C + k],
            weights[_TAP_D + k],
        )
        base, at = np.int64(floats[_FIRST + k]), np.int64(floats[_AT + k])
        add_cubic(source, base, row, (weights[_FX + k], down), line, at)


@kernel
def _place(places: Any, weights: Any, floats: Any, level: Any, listed: int) -> None:
    """Find the first tap of samples, and the weights of their rows of taps.

    ``level`` is (first float, floats per row).
    """
    row, three = np.int32(level[1]), np.int32(3)
    start = np.int32(level[0]) - row - three
    for k in range(listed):
        q, p = np.int32(places[_U + k]), np.int32(places[_V + k])
        floats[_FIRST + k] = start + p * row + q * three
        weights[_FX + k] = np.float32(places[_U + k] - np.float64(q))
        a, b, c, d = cubic_weights(np.float32(places[_V + k] - np.float64(p)))
        weight = weights[_WEIGHT + k]
        weights[_TAP_A + k], weights[_TAP_B + k] = a * weight, b * weight
        weights[_TAP_C + k], weights[_TAP_D + k] = c * weight, d * weight


@kernel
def _add_folded_samples(
    source: Any,
    level: Any,
    frame: Any,
    footprint: Any,
    grid: Any,
    cover: Any,
    line: Any,
    j: int,
) -> None:
    """Add samples in pixels of the whole picture, each folded by itself.

    ``level`` is (first float, rows, columns), ``frame`` is (width, height, edge).
    """
    start, rows, columns = level
    width, height, edge = frame
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
