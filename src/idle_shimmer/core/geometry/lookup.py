"""The one lookup: composed stages, traced point by point, sampled once.

An output point is traced back through the stages, last stage first; after each, it is folded into
the frame by that stage's edge, so that it is always the picture entering a pass that is extended.
Enlarging samples with Catmull-Rom's cubic (Keys 1981, a = -1/2). Where the map shrinks, each output
pixel averages as many samples of a suitably halved picture as its footprint needs, told from where
its neighbours look. The shutter averages over time as well.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.bands import over_rows
from idle_shimmer.core.geometry.edges import BLACK, EDGE_CODE, SMEAR, coverage, fold, fold_row
from idle_shimmer.core.geometry.level import is_level, look_up_level
from idle_shimmer.core.geometry.sampling import add_row, row_store, sample
from idle_shimmer.core.geometry.shutter import Moments, Part
from idle_shimmer.core.geometry.stages import AffineStage, Stage, affine
from idle_shimmer.core.kernel import inlined, kernel
from idle_shimmer.core.picture import Pixels

# Which moments a part of the frame needs, where that is fewer than the whole frame needs.
MomentsWithin = Callable[[Part], Moments]

MOST_SAMPLES_A_SIDE = 16
# On the halved picture an output pixel spans 1 to 2 pixels; this many samples for each keep what is
# left of finer detail from aliasing, and leave one sample where halving alone did it.
_SAMPLES_A_PIXEL, _SAMPLES_LESS = 1.5, 0.5
# Up to this footprint one cubic sample does not visibly alias.
_SHARP_FOOTPRINT = 1.25
# Traced at once: little enough to stay in the second-level cache, enough to make calls cheap.
_BLOCK_ROWS, _BLOCK_COLUMNS = 48, 160
# Averaged over so many moments, what a sample lies between is averaged as well: linear will do.
_QUICK_MOMENTS = 32
_PROBES = 33
_PROBED_MOMENTS = 8


def look_up(pixels: Pixels, moments: Moments, within: MomentsWithin | None = None) -> Pixels:
    """The picture seen through composed stages, averaged over ``moments``.

    ``pixels`` is float32 (H, W, 3). Each moment is one set of stages, in stack order; all have the
    same number of stages with the same edges. ``within`` tells which moments do for a part of the
    frame. Returns a new picture of the same shape; what lies beyond a ``black`` edge is 0.
    """
    pixels = np.ascontiguousarray(pixels)
    matrices = _matrices(moments)
    if matrices is not None and is_level(matrices):
        return _look_up_level(pixels, matrices, _edges(moments))
    out = np.zeros_like(pixels)
    spans = _affine_spans(matrices) if matrices is not None else _probed_spans(pixels, moments)
    halvings, shrinks = _footprints(pixels, *spans)
    pyramid = _Pyramid(pixels, halvings)
    over_rows(_sampled_rows, pixels.shape[0], pyramid, shrinks, within or (lambda _: moments), out)
    return out


def covered(
    width: int, height: int, moments: Moments, within: MomentsWithin | None = None
) -> NDArray[np.float32]:
    """How much of each output pixel shows picture: float32 (H, W), 0…1, 1 without black edges."""
    out = np.zeros((height, width), np.float32)
    over_rows(_covered_rows, height, within or (lambda _: moments), out)
    return out


def _edges(moments: Moments) -> NDArray[np.int64]:
    """The stages' edges, last stage first."""
    return np.array([EDGE_CODE[stage.edge] for stage in reversed(moments[0])], dtype=np.int64)


def _matrices(moments: Moments) -> NDArray[np.float64] | None:
    """(moment, stage, six matrix members), last stage first; None where a stage is not affine."""
    if not all(isinstance(stage, AffineStage) for stage in moments[0]):
        return None
    return np.array([[s.parameters.ravel() for s in reversed(stages)] for stages in moments])


def _look_up_level(
    pixels: Pixels, matrices: NDArray[np.float64], edges: NDArray[np.int64]
) -> Pixels:
    footprint = (_span(matrices[:, :, 0]), _span(matrices[:, :, 4]))
    halvings = max(0, math.floor(math.log2(min(footprint)) + 1e-9))
    if SMEAR in edges:
        # Halved, the outermost pixel is an average, and no longer what has to be smeared.
        halvings = 0
    across, down = (_samples(span / 2**halvings) for span in footprint)
    source = _halved(pixels, halvings)
    return look_up_level(source, pixels.shape[:2], matrices, edges, across, down)


def _span(scales: NDArray[np.float64]) -> float:
    """The widest footprint along one axis over all moments, from scales (moment, stage)."""
    return max(float(np.abs(scales.prod(axis=1)).max()), 1e-9)


@inlined
def _samples(span: float) -> int:
    """How many samples a side an output pixel needs that spans ``span`` pixels of a level."""
    count = int(math.ceil(_SAMPLES_A_PIXEL * span - _SAMPLES_LESS - 1e-6))
    return min(MOST_SAMPLES_A_SIDE, max(1, count))


def _halved(pixels: Pixels, level: int) -> Pixels:
    """The picture area-averaged to 1 / 2^level of its size, at least one pixel a side."""
    if level == 0:
        return pixels
    height, width = pixels.shape[:2]
    size = (max(1, round(width / 2**level)), max(1, round(height / 2**level)))
    return cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)


class _Pyramid:
    """A picture and its halved copies, the copies in one flat array."""

    def __init__(self, pixels: Pixels, halvings: int) -> None:
        levels = [pixels]
        for _ in range(halvings):
            levels.append(_halved(levels[-1], 1))
        whole = pixels.reshape(-1)
        # (first float, rows, columns) of each level; level 0 begins the array ``whole``.
        places = np.zeros((len(levels), 3), np.int64)
        starts = np.cumsum([0, *(level.size for level in levels[1:])])
        for n, level in enumerate(levels):
            places[n] = (starts[n - 1] if n else 0, *level.shape[:2])
        halved = np.concatenate([whole[:0], *(each.ravel() for each in levels[1:])])
        self.arrays = (whole, halved, places)


def _footprints(pixels: Pixels, deepest: float, widest: float) -> tuple[int, bool]:
    """(halved copies that the map can use, whether it shrinks anywhere); see ``_probed_spans``."""
    most = max(0, math.floor(math.log2(min(pixels.shape[:2]))))
    halvings = math.floor(math.log2(max(deepest, 1.0)) + 1e-9)
    return min(most, halvings), widest > _SHARP_FOOTPRINT


def _affine_spans(matrices: NDArray[np.float64]) -> tuple[float, float]:
    """``_probed_spans`` of affine stages, which are the same everywhere in the frame."""
    composed = np.broadcast_to(np.eye(2), (len(matrices), 2, 2))
    for stage in range(matrices.shape[1]):
        composed = matrices[:, stage].reshape(-1, 2, 3)[:, :, :2] @ composed
    spans = np.linalg.norm(composed, axis=1)
    return float(spans.min(axis=1).max()), float(spans.max())


def _probed_spans(pixels: Pixels, moments: Moments) -> tuple[float, float]:
    """How far apart neighbouring output pixels look, in pixels, from a grid of probes.

    (the most along the shorter side of any footprint, the most along any side).
    """
    height, width = pixels.shape[:2]
    deepest = widest = 0.0
    x, y = np.meshgrid(
        np.linspace(0.5, width - 1.5, _PROBES), np.linspace(0.5, height - 1.5, _PROBES)
    )
    for stages in moments[:: max(1, len(moments) // _PROBED_MOMENTS)]:
        here, right, below = (
            _traced(x + i, y + j, stages, width, height) for i, j in ((0, 0), (1, 0), (0, 1))
        )
        spans = [np.hypot(to[0] - here[0], to[1] - here[1]) for to in (right, below)]
        deepest = max(deepest, float(np.minimum(*spans).max()))
        widest = max(widest, float(np.maximum(*spans).max()))
    return deepest, widest


def _traced(
    xs: NDArray[np.float64],
    ys: NDArray[np.float64],
    stages: Sequence[Stage],
    width: int,
    height: int,
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    xs, ys = xs.copy(), ys.copy()
    _trace(
        xs, ys, np.ones(xs.shape, np.float32), np.ones(xs.shape, np.float32), stages, width, height
    )
    return xs, ys


def _trace(
    xs: Any, ys: Any, shades: Any, covers: Any, stages: Sequence[Stage], width: int, height: int
) -> None:
    """Moves points (rows, columns) back through all stages, in place, up to the first one's fold."""
    for place in range(len(stages) - 1, -1, -1):
        stage = stages[place]
        stage.warp(xs, ys, shades, stage.parameters)
        if place:
            _fold_block(xs, ys, covers, float(width), float(height), EDGE_CODE[stage.edge])


@kernel
def _fold_block(xs: Any, ys: Any, covers: Any, width: float, height: float, edge: int) -> None:
    for i in range(xs.shape[0]):
        if edge == BLACK:
            for j in range(xs.shape[1]):
                covers[i, j] *= np.float32(coverage(xs[i, j], width) * coverage(ys[i, j], height))
        fold_row(xs[i], width, edge, xs[i])
        fold_row(ys[i], height, edge, ys[i])


@kernel
def _start_block(xs: Any, ys: Any, covers: Any, left: int, top: int) -> None:
    """The centres of output pixels, with a border of one pixel around the block."""
    for i in range(xs.shape[0]):
        for j in range(xs.shape[1]):
            xs[i, j] = left + j - 0.5
            ys[i, j] = top + i - 0.5
            covers[i, j] = np.float32(1)


def _blocks(first: int, end: int, width: int) -> Iterator[tuple[Part, Any, Any, Any]]:
    """(part of the frame, xs, ys, covers) for each block, the arrays with a border of one pixel."""
    shape = (_BLOCK_ROWS + 2) * (_BLOCK_COLUMNS + 2)
    store = np.empty(shape), np.empty(shape), np.empty(shape, np.float32)
    for top in range(first, end, _BLOCK_ROWS):
        for left in range(0, width, _BLOCK_COLUMNS):
            part = left, top, min(left + _BLOCK_COLUMNS, width), min(top + _BLOCK_ROWS, end)
            rows, columns = part[3] - top + 2, part[2] - left + 2
            xs, ys, covers = (each[: rows * columns].reshape(rows, columns) for each in store)
            yield part, xs, ys, covers


def _sampled_rows(
    pyramid: _Pyramid, shrinks: bool, within: MomentsWithin, out: Pixels, first: int, end: int
) -> None:
    height, width = out.shape[:2]
    for part, xs, ys, covers in _blocks(first, end, width):
        left, top = part[:2]
        moments = within(part)
        edges = _edges(moments)
        share, quick = np.float32(1 / len(moments)), len(moments) >= _QUICK_MOMENTS
        points, look = (xs, ys, covers, left, top), (shrinks, quick, share)
        if (matrices := _matrices(moments)) is not None:
            stages_of = matrices.reshape(len(moments), -1, 2, 3)
            _sample_affine(pyramid.arrays, points, stages_of, edges, look, out)
            continue
        for stages in moments:
            _start_block(xs, ys, covers, left, top)
            _trace(xs, ys, covers, covers, stages, width, height)
            _sample_block(pyramid.arrays, points, edges[-1], look, out)


@kernel
def _sample_affine(
    pyramid: Any, points: Any, matrices: Any, edges: Any, look: Any, out: Any
) -> None:
    """All moments of a block whose stages are affine, in one call.

    A call for each stage of each moment would have the threads wait for the interpreter in turns.
    """
    xs, ys, covers, left, top = points
    width, height = float(pyramid[2][0, 2]), float(pyramid[2][0, 1])
    for moment in range(matrices.shape[0]):
        _start_block(xs, ys, covers, left, top)
        for stage in range(edges.shape[0]):
            affine(xs, ys, covers, matrices[moment, stage])
            if stage < edges.shape[0] - 1:
                _fold_block(xs, ys, covers, width, height, edges[stage])
        _sample_block(pyramid, points, edges[-1], look, out)


def _covered_rows(within: MomentsWithin, out: NDArray[np.float32], first: int, end: int) -> None:
    height, width = out.shape
    for part, xs, ys, covers in _blocks(first, end, width):
        left, top, right, bottom = part
        moments = within(part)
        edge = EDGE_CODE[moments[0][0].edge]
        share = np.float32(1 / len(moments))
        shades = np.ones_like(covers)
        for stages in moments:
            _start_block(xs, ys, covers, left, top)
            _trace(xs, ys, shades, covers, stages, width, height)
            _fold_block(xs, ys, covers, float(width), float(height), edge)
            out[top:bottom, left:right] += share * covers[1:-1, 1:-1]


@inlined
def _nearer(a: float, b: float) -> float:
    """The smaller step: where one neighbour looks across a fold, the other does not."""
    return a if abs(a) <= abs(b) else b


@kernel
def _find_wide(xs: Any, ys: Any, row: int, wide: Any) -> bool:
    """Marks the points of a row whose footprint needs more than one sample; whether there is any."""
    sharp = _SHARP_FOOTPRINT * _SHARP_FOOTPRINT
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
def _sample_block(pyramid: Any, points: Any, edge: int, look: Any, out: Any) -> None:
    """Adds what each traced point shows to ``out`` (H, W, 3), times its cover and ``share``."""
    whole, halved, places = pyramid
    xs, ys, covers, left, top = points
    shrinks, quick, share = look
    rows, columns = places[0, 1], places[0, 2]
    width, height = float(columns), float(rows)
    length = xs.shape[1] - 2
    wide = np.zeros(length, np.bool_)
    store = row_store(length)
    across, down = np.empty(length), np.empty(length)
    cover, sharp = np.empty(length, np.float32), np.empty(length, np.float32)
    for i in range(xs.shape[0] - 2):
        any_wide = shrinks and _find_wide(xs, ys, i + 1, wide)
        x, y, known = xs[i + 1, 1:-1], ys[i + 1, 1:-1], covers[i + 1, 1:-1]
        line = out[top + i, left : left + length]
        fold_row(x, width, edge, across)
        fold_row(y, height, edge, down)
        for j in range(x.shape[0]):
            across[j] -= 0.5
            down[j] -= 0.5
            cover[j] = known[j] * share
            sharp[j] = np.float32(0) if wide[j] else cover[j]
        if edge == BLACK:
            for j in range(x.shape[0]):
                sharp[j] *= np.float32(coverage(x[j], width) * coverage(y[j], height))
        add_row(whole, rows, columns, across, down, sharp, edge, quick, store, line)
        if any_wide:
            _average_wide(whole, halved, places, xs, ys, i + 1, wide, cover, edge, line)


@kernel
def _average_wide(
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
        samples_a, samples_b = _samples(across * share), _samples(down * share)
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
        line[j, 0] += weight * red
        line[j, 1] += weight * green
        line[j, 2] += weight * blue
