"""Averages over the footprint of an output pixel, where the map shrinks the picture.

The footprint is the parallelogram between where a point's neighbours look; as many samples of it are
averaged as it needs, on a suitably halved picture. They lie so far apart that they have the variance of
the footprint: evenly divided, it would need more of them. Where the map shears, the parallelogram's sides
are long and nearly parallel: there the rectangle along the axes of the ellipse into which the map turns a
circle covers the same area with fewer samples. (Heckbert 1989, "Fundamentals of Texture Mapping and
Image Warping", averages over that ellipse.)
"""

from typing import Any, NamedTuple

import numpy as np

from idle_shimmer.core.compute.jit import inlined, kernel
from idle_shimmer.core.geometry.edge_modes import MIRROR, SMEAR, TILE
from idle_shimmer.core.geometry.footprint_memory import (
    AX,
    AY,
    BX,
    BY,
    COUNT_A,
    COUNT_B,
    FIRST_TAP,
    FIRST_X,
    FIRST_Y,
    FRACTION_X,
    FRACTION_Y,
    IS_INSIDE,
    LENGTH_A,
    LENGTH_B,
    LEVEL,
    NO_LEVEL,
    SCALE_X,
    SCALE_Y,
    SHARE,
    SPACING_A,
    SPACING_B,
    STEP_AX,
    STEP_AY,
    STEP_BX,
    STEP_BY,
)

_MAX_SAMPLES = 16
# A side of at most one pixel of a level needs one sample, a longer one so many for each pixel, and more:
# then what is left of finer detail differs from the average by about -46 dB or less, weighted as
# photographs are, whose amplitudes fall with the frequency.
_SAMPLES_PER_PIXEL, _SAMPLES_MORE = np.float32(0.8), np.float32(0.6)
# What is left out of the variance of a pixel of the whole picture: more would alias, less would blur
# (docs/accuracy.md is best so).
_OF_PIXEL = 0.4
_ONE_PIXEL, _TOLERANCE = np.float32(1), np.float32(1e-5)
# Up to this footprint one cubic sample does not visibly alias.
SHARP_FOOTPRINT = 1.25
# Halved until a side is shorter than so many pixels.
_MAX_SIDE = 2.0
# Where the cosine between the sides of a footprint is larger, its axes are taken.
_OBLIQUE = 0.25


class SideSamples(NamedTuple):
    """How many samples an output pixel has along one side, and how far apart, as a share of the side."""

    number: int
    spacing: float


@kernel
def samples_of_side(length: float, level: int) -> SideSamples:
    """Return the samples of a side of ``length`` pixels of a level."""
    count = _needed(np.float32(length))
    return SideSamples(int(count), float(_spacing(count, np.float32(length), level)))


@inlined
def _needed(span: Any) -> Any:
    """Return how many samples a side of ``span`` pixels of a level needs (float32)."""
    count = np.ceil(_SAMPLES_PER_PIXEL * span + _SAMPLES_MORE - _TOLERANCE)
    count = min(count, np.float32(_MAX_SAMPLES))
    return count if span > _ONE_PIXEL + _TOLERANCE else _ONE_PIXEL


@inlined
def _spacing(count: Any, length: Any, level: int) -> Any:
    """Return how far apart ``count`` samples of a side of ``length`` pixels of a level lie (float32).

    The result is a share of the side. Its variance is length² / 12; that of so many points a step apart
    is step² · (count² - 1) / 12, and the pixels of a level are averages of 2^level of the whole picture.
    Those are averages of what was photographed: a part of their variance is left out as well.
    """
    square, steps = length * length, max(count * count - _ONE_PIXEL, _ONE_PIXEL)
    left = max(square - np.float32(1 - (1 - _OF_PIXEL) * 0.25**level), np.float32(0))
    return np.sqrt(np.divide(left, max(square, _TOLERANCE) * steps))


@kernel
def find_wide(xs: Any, ys: Any, row: int, wide: Any, footprints: Any) -> bool:
    """Mark the points of a row whose footprint needs several samples; return whether there are any.

    ``xs`` and ``ys`` are those of a block with its border, ``row`` counts in it. ``footprints`` are
    given the sides.
    """
    lengths, found = footprints.lengths, np.int32(0)
    sharp = np.float32(SHARP_FOOTPRINT * SHARP_FOOTPRINT)
    _find_steps(xs[row, :-2], xs[row, 1:-1], xs[row, 2:], lengths[AX:])
    _find_steps(ys[row, :-2], ys[row, 1:-1], ys[row, 2:], lengths[AY:])
    _find_steps(xs[row - 1, 1:-1], xs[row, 1:-1], xs[row + 1, 1:-1], lengths[BX:])
    _find_steps(ys[row - 1, 1:-1], ys[row, 1:-1], ys[row + 1, 1:-1], lengths[BY:])
    for j in range(wide.shape[0]):
        ax, ay, bx, by = lengths[AX + j], lengths[AY + j], lengths[BX + j], lengths[BY + j]
        marked = np.int32(max(ax * ax + ay * ay, bx * bx + by * by) > sharp)
        wide[j] = marked
        found |= marked
    return found != 0


@kernel
def _find_steps(before: Any, here: Any, after: Any, steps: Any) -> None:
    """Find the smaller step to a neighbour: where one looks across a fold, the other does not."""
    for j in range(here.shape[0]):
        one, other = after[j] - here[j], here[j] - before[j]
        steps[j] = np.float32(one if abs(one) <= abs(other) else other)


@kernel
def measure(points: Any, places: Any, wide: Any, covers: Any, footprints: Any, edge: int) -> None:
    """Find how the points of a row are sampled: on which level, how often, from where and by what steps.

    ``footprints`` have been given the sides by ``find_wide``; ``places`` are those of ``pyramid.Pyramid``.
    Points not marked as ``wide`` have one sample.
    """
    lengths, firsts, counts = footprints.lengths, footprints.firsts, footprints.counts
    _straighten(lengths, points[0].shape[0])
    _choose_levels(points, places, edge, lengths, counts)
    _place_on_levels(points, places, edge, (lengths, firsts), counts)
    _leave_sharp(counts, wide)
    _find_steps_between(lengths, firsts, counts, points[0].shape[0])
    _weigh(lengths, counts, covers)
    for level in range(places.shape[0]):
        _find_first_taps(footprints, wide.shape[0], level, places[level])


@kernel
def _straighten(lengths: Any, count: int) -> None:
    """Replace oblique sides by the ellipse's axes; find all lengths."""
    none, half, one = np.float32(0), np.float32(0.5), np.float32(1)
    least = np.float32(_OBLIQUE * _OBLIQUE)
    for j in range(count):
        ax, ay, bx, by = lengths[AX + j], lengths[AY + j], lengths[BX + j], lengths[BY + j]
        a2, b2, oblique = ax * ax + ay * ay, bx * bx + by * by, ax * bx + ay * by
        is_oblique = oblique * oblique > least * a2 * b2
        mean, difference = (a2 + b2) * half, (a2 - b2) * half
        spread = np.sqrt(difference * difference + oblique * oblique)
        # The half axes are the map's singular values; it turns (cos, sin) into the longer one.
        share = np.divide(difference, spread) if is_oblique else one
        cos, sin = np.sqrt((one + share) * half), np.sqrt(max((one - share) * half, none))
        sin = -sin if oblique < none else sin
        lengths[AX + j], lengths[AY + j] = ax * cos + bx * sin, ay * cos + by * sin
        lengths[BX + j], lengths[BY + j] = bx * cos - ax * sin, by * cos - ay * sin
        lengths[LENGTH_A + j] = np.sqrt(mean + spread if is_oblique else a2)
        lengths[LENGTH_B + j] = np.sqrt(max(mean - spread, none) if is_oblique else b2)


@kernel
def _choose_levels(points: Any, places: Any, edge: int, lengths: Any, counts: Any) -> None:
    """Find the level on which each footprint's shorter side is long enough."""
    xs, ys = points
    for j in range(xs.shape[0]):
        counts[LEVEL + j] = 0
    for level in range(1, places.shape[0]):
        least = np.float32(_MAX_SIDE * 2.0 ** (level - 1)) - _TOLERANCE
        for j in range(xs.shape[0]):
            counts[LEVEL + j] += np.int32(
                min(lengths[LENGTH_A + j], lengths[LENGTH_B + j]) >= least
            )
    if edge == SMEAR and places.shape[0] > 1:
        # Halved, the outermost pixel is an average, and no longer what has to be smeared.
        width, height = float(places[0, 2]), float(places[0, 1])
        for j in range(xs.shape[0]):
            taps = max(lengths[LENGTH_A + j], lengths[LENGTH_B + j])
            x_room = (abs(lengths[AX + j]) + abs(lengths[BX + j])) / 2 + taps
            y_room = (abs(lengths[AY + j]) + abs(lengths[BY + j])) / 2 + taps
            inside = _lies_inside(xs[j], x_room, width) & _lies_inside(ys[j], y_room, height)
            counts[LEVEL + j] = counts[LEVEL + j] if inside else 0


@inlined
def _lies_inside(x: float, room: float, end: float) -> bool:
    """Whether a point, and what lies up to ``room`` away from it, lies between 0 and ``end``."""
    return (x >= room) & (x < end - room)


@kernel
def _place_on_levels(points: Any, places: Any, edge: int, footprints: Any, counts: Any) -> None:
    """Find where footprints (lengths, firsts) lie on their levels, and how many samples they need there."""
    lengths, firsts = footprints
    count, (_, rows, columns) = points[0].shape[0], places[0]
    _fold_with_signs(points[0], float(columns), edge, firsts[FIRST_X:], lengths[SCALE_X:])
    _fold_with_signs(points[1], float(rows), edge, firsts[FIRST_Y:], lengths[SCALE_Y:])
    for j in range(count):
        counts[IS_INSIDE + j] = 1
    for level in range(places.shape[0]):
        across, down = places[level, 2] / columns, places[level, 1] / rows
        horizontal, vertical = (level, across, places[level, 2]), (level, down, places[level, 1])
        _scale(footprints, counts, horizontal, (AX, BX, FIRST_X, SCALE_X), count)
        _scale(footprints, counts, vertical, (AY, BY, FIRST_Y, SCALE_Y), count)
        _count(lengths, counts, level, (LENGTH_A, COUNT_A, SPACING_A), count)
        _count(lengths, counts, level, (LENGTH_B, COUNT_B, SPACING_B), count)


@kernel
def _fold_with_signs(xs: Any, size: float, edge: int, folded: Any, signs: Any) -> None:
    """Find the points inside 0…size that show at ``xs``; -1 where mirrored there, else 1.

    Smeared and black points stay where they are.
    """
    for j in range(xs.shape[0]):
        copy = np.floor(xs[j] / size) if edge in (MIRROR, TILE) else 0.0
        is_mirrored = edge == MIRROR and copy != 2 * np.floor(copy / 2)
        folded[j] = size * (copy + 1) - xs[j] if is_mirrored else xs[j] - size * copy
        signs[j] = np.float32(-1) if is_mirrored else np.float32(1)


@inlined
def _scale(footprints: Any, counts: Any, axis: Any, members: Any, count: int) -> None:
    """Scale the folded points of one level along one axis; find those whose taps all lie inside.

    ``axis`` is (level, scale, pixels of the level), ``members`` are (side a, side b, place, scale).
    """
    (lengths, firsts), (level, scale, pixels) = footprints, axis
    side_a, side_b, at, scales = members
    one, scale_32 = np.float32(1), np.float32(scale)
    for j in range(count):
        is_here = counts[LEVEL + j] == level
        x = firsts[at + j] * scale - 0.5
        room = (abs(lengths[side_a + j]) + abs(lengths[side_b + j])) * scale / 2 + 1
        # Asked so that a map that leads nowhere (NaN) leads beyond.
        may_be_read = (x >= room) & (x < pixels - 1 - room) | (counts[LEVEL + j] != level)
        firsts[at + j] = x if is_here else firsts[at + j]
        lengths[scales + j] *= scale_32 if is_here else one
        counts[IS_INSIDE + j] = counts[IS_INSIDE + j] if may_be_read else 0


@inlined
def _count(lengths: Any, counts: Any, level: int, members: Any, count: int) -> None:
    """Find how many samples the footprints of one level need along one side, and how far apart.

    ``members`` are (length, count, spacing).
    """
    side, samples, spacings = members
    scale = np.float32(0.5**level)
    for j in range(count):
        is_here, length = counts[LEVEL + j] == level, scale * lengths[side + j]
        needed = _needed(length)
        apart = _spacing(needed, length, level)
        counts[samples + j] = np.int32(needed) if is_here else counts[samples + j]
        lengths[spacings + j] = apart if is_here else lengths[spacings + j]


@kernel
def _find_steps_between(lengths: Any, firsts: Any, counts: Any, count: int) -> None:
    """Find the ways between samples, and move the points to the first samples."""
    one, half = np.float32(1), np.float32(0.5)
    for j in range(count):
        scale_x, scale_y = lengths[SCALE_X + j], lengths[SCALE_Y + j]
        count_a, count_b = np.float32(counts[COUNT_A + j]), np.float32(counts[COUNT_B + j])
        share_a, share_b = lengths[SPACING_A + j], lengths[SPACING_B + j]
        ax, ay = lengths[AX + j] * scale_x * share_a, lengths[AY + j] * scale_y * share_a
        bx, by = lengths[BX + j] * scale_x * share_b, lengths[BY + j] * scale_y * share_b
        lengths[STEP_AX + j], lengths[STEP_AY + j] = ax, ay
        lengths[STEP_BX + j], lengths[STEP_BY + j] = bx, by
        before_a, before_b = (count_a - one) * half, (count_b - one) * half
        firsts[FIRST_X + j] -= ax * before_a + bx * before_b
        firsts[FIRST_Y + j] -= ay * before_a + by * before_b


@kernel
def _leave_sharp(counts: Any, wide: Any) -> None:
    """Give the points that are not wide one sample."""
    one = np.int32(1)
    for j in range(wide.shape[0]):
        counts[COUNT_A + j] = counts[COUNT_A + j] if wide[j] else one
        counts[COUNT_B + j] = counts[COUNT_B + j] if wide[j] else one


@kernel
def _weigh(lengths: Any, counts: Any, covers: Any) -> None:
    """Find what a sample of each footprint weighs; leave out those of no weight."""
    none = np.float32(0)
    for j in range(covers.shape[0]):
        samples = np.float32(counts[COUNT_A + j] * counts[COUNT_B + j])
        share = np.divide(covers[j], samples)
        lengths[SHARE + j] = share
        counts[LEVEL + j] = counts[LEVEL + j] if share != none else np.int32(NO_LEVEL)


@kernel
def _find_first_taps(footprints: Any, count: int, level: int, place: Any) -> None:
    """Find the first tap of the first sample of the footprints of a level, and where it lies from there.

    ``place`` is that of the level.
    """
    lengths, firsts, counts = footprints.lengths, footprints.firsts, footprints.counts
    row, three = np.int32(place[2] * 3), np.int32(3)
    before = np.int32(place[0]) - row - three
    for j in range(count):
        is_here = counts[LEVEL + j] == level
        q, p = np.int32(firsts[FIRST_X + j]), np.int32(firsts[FIRST_Y + j])
        x, y = firsts[FIRST_X + j] - np.float64(q), firsts[FIRST_Y + j] - np.float64(p)
        lengths[FRACTION_X + j] = np.float32(x) if is_here else lengths[FRACTION_X + j]
        lengths[FRACTION_Y + j] = np.float32(y) if is_here else lengths[FRACTION_Y + j]
        counts[FIRST_TAP + j] = before + p * row + q * three if is_here else counts[FIRST_TAP + j]
