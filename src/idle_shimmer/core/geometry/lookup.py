"""The one lookup: composed stages, traced point by point, sampled once.

An output point is traced back through the stages, last stage first; after each, it is folded into
the frame by that stage's edge, so that it is always the picture entering a pass that is extended.
Enlarging samples with Catmull-Rom's cubic (Keys 1981, a = -1/2). Where the map shrinks, each output
pixel averages as many samples of a suitably halved picture as its footprint needs, told from where
its neighbours look. The shutter averages over time as well.
"""

import math
from collections.abc import Callable
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.bands import over_rows
from idle_shimmer.core.geometry.edges import EDGE_CODE, SMEAR
from idle_shimmer.core.geometry.footprint import (
    SHARP_FOOTPRINT,
    average_wide,
    find_wide,
    samples_across,
)
from idle_shimmer.core.geometry.level import is_level, look_up_level
from idle_shimmer.core.geometry.sampling import add_line, add_traced, put_line, row_store
from idle_shimmer.core.geometry.shift import is_shift, look_up_shift
from idle_shimmer.core.geometry.shutter import Moments, Part
from idle_shimmer.core.geometry.stages import AffineStage
from idle_shimmer.core.geometry.straight import sample_straight
from idle_shimmer.core.geometry.tracing import (
    blocks,
    fold_block,
    parts,
    start_block,
    trace,
    trace_affine,
    traced,
)
from idle_shimmer.core.kernel import kernel
from idle_shimmer.core.picture import Pixels
from idle_shimmer.core.vectors import uncounted

# Which moments a part of the frame needs, where that is fewer than the whole frame needs.
MomentsWithin = Callable[[Part], Moments]

# Averaged over so many moments, what a sample lies between is averaged as well: linear will do.
_QUICK_MOMENTS = 32
# (rows, columns) that share their moments: the fewer, the fewer moments a still middle needs.
_STRAIGHT_PART = 48, 160
_PROBES = 17
_PROBED_MOMENTS = 8


def look_up(pixels: Pixels, moments: Moments, within: MomentsWithin | None = None) -> Pixels:
    """The picture seen through composed stages, averaged over ``moments``.

    ``pixels`` is float32 (H, W, 3). Each moment is one set of stages, in stack order; all have the
    same number of stages with the same edges. ``within`` tells which moments do for a part of the
    frame. Returns a new picture of the same shape; what lies beyond a ``black`` edge is 0.
    """
    pixels = np.ascontiguousarray(pixels)
    matrices = _matrices(moments)
    if matrices is not None and is_shift(matrices, edges := _edges(moments)):
        return look_up_shift(pixels, matrices, int(edges[0]))
    if matrices is not None and is_level(matrices):
        return _look_up_level(pixels, matrices, edges)
    out = np.empty_like(pixels)
    spans = _affine_spans(matrices) if matrices is not None else _probed_spans(pixels, moments)
    halvings, shrinks = _footprints(pixels, *spans)
    told, fewest = _Told(moments, within), max(8, 64 // len(moments))
    if matrices is not None and not shrinks:
        over_rows(_straight_rows, pixels.shape[0], pixels.reshape(-1), told, out, fewest=fewest)
    else:
        pyramid = _Pyramid(pixels, halvings)
        over_rows(_traced_rows, pixels.shape[0], pyramid, shrinks, told, out, fewest=fewest)
    return out


def covered(
    width: int, height: int, moments: Moments, within: MomentsWithin | None = None
) -> NDArray[np.float32]:
    """How much of each output pixel shows picture: float32 (H, W), 0…1, 1 without black edges."""
    out = np.zeros((height, width), np.float32)
    over_rows(_covered_rows, height, within or (lambda _: moments), out)
    return out


class _Told:
    """The moments that each part of the frame needs, and the same as arrays, found once for each."""

    def __init__(self, moments: Moments, within: MomentsWithin | None) -> None:
        self.moments = moments
        # One moment is the fewest that any part could need.
        self.within = within if len(moments) > 1 else None
        self._known: dict[int, _Look] = {}

    def at(self, part: Part) -> "_Look":
        """What ``part`` needs. Parts that move alike get the very same moments."""
        moments = self.within(part) if self.within else self.moments
        if len(moments) not in self._known:
            self._known[len(moments)] = _Look(moments)
        return self._known[len(moments)]


class _Look:
    """Moments, their edges and matrices as kernels take them; no matrices where one is not affine."""

    def __init__(self, moments: Moments) -> None:
        self.moments, self.edges = moments, _edges(moments)
        matrices = _matrices(moments)
        self.matrices = None if matrices is None else matrices.reshape(len(moments), -1, 2, 3)
        self.quick = len(moments) >= _QUICK_MOMENTS


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
    across, down = (samples_across(span / 2**halvings) for span in footprint)
    source = _halved(pixels, halvings)
    return look_up_level(source, pixels.shape[:2], matrices, edges, across, down)


def _span(scales: NDArray[np.float64]) -> float:
    """The widest footprint along one axis over all moments, from scales (moment, stage)."""
    return max(float(np.abs(scales.prod(axis=1)).max()), 1e-9)


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
    return min(most, halvings), widest > SHARP_FOOTPRINT


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
    for stages in moments[:: max(1, len(moments) // _PROBED_MOMENTS)]:
        x, y = traced(*_probes(width, height), stages, width, height)
        across, down = (np.hypot(x[k] - x[0], y[k] - y[0]) for k in (1, 2))
        deepest = max(deepest, float(np.minimum(across, down).max()))
        widest = max(widest, float(across.max()), float(down.max()))
    return deepest, widest


@lru_cache(maxsize=8)
def _probes(width: int, height: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Places (3, probes) of x and of y: of a grid of points, of those right of them, of those below them."""
    x, y = np.meshgrid(
        np.linspace(0.5, width - 1.5, _PROBES), np.linspace(0.5, height - 1.5, _PROBES)
    )
    return np.stack([x, x + 1, x]).reshape(3, -1), np.stack([y, y, y + 1]).reshape(3, -1)


def _straight_rows(source: Any, told: _Told, out: Pixels, first: int, end: int) -> None:
    height, width = out.shape[:2]
    whole = (0, first, width, end)
    for part in parts(first, end, width, _STRAIGHT_PART) if told.within else (whole,):
        look = told.at(part)
        size = height, width
        sample_straight(source, size, part, look.matrices, look.edges, look.quick, out)


def _traced_rows(
    pyramid: _Pyramid, shrinks: bool, told: _Told, out: Pixels, first: int, end: int
) -> None:
    height, width = out.shape[:2]
    for part, xs, ys, covers in blocks(first, end, width):
        look = told.at(part)
        left, top, right, bottom = part
        alone, share = len(look.moments) == 1, np.float32(1 / len(look.moments))
        if not alone:
            out[top:bottom, left:right] = 0
        points = (xs, ys, covers, left, top)
        way = (shrinks, look.quick, share, alone)
        if look.matrices is not None:
            _sample_affine(pyramid.arrays, points, look.matrices, look.edges, way, out)
            continue
        for stages in look.moments:
            start_block(xs, ys, covers, left, top)
            trace(xs, ys, covers, covers, stages, width, height)
            _sample_block(pyramid.arrays, points, look.edges[-1], way, out)


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
        start_block(xs, ys, covers, left, top)
        trace_affine(xs, ys, covers, matrices[moment], edges, width, height)
        _sample_block(pyramid, points, edges[-1], look, out)


def _covered_rows(within: MomentsWithin, out: NDArray[np.float32], first: int, end: int) -> None:
    height, width = out.shape
    for part, xs, ys, covers in blocks(first, end, width):
        left, top, right, bottom = part
        moments = within(part)
        edge = EDGE_CODE[moments[0][0].edge]
        share = np.float32(1 / len(moments))
        shades = np.ones_like(covers)
        for stages in moments:
            start_block(xs, ys, covers, left, top)
            trace(xs, ys, shades, covers, stages, width, height)
            fold_block(xs, ys, covers, float(width), float(height), edge)
            out[top:bottom, left:right] += share * covers[1:-1, 1:-1]


@kernel
def _begin_row(covers: Any, share: Any, wide: Any, cover: Any, sharp: Any, line: Any) -> None:
    for n in range(line.shape[0]):
        line[n] = 0
    for j in range(cover.shape[0]):
        cover[j] = covers[j] * share
        sharp[j] = np.float32(0) if wide[j] else cover[j]


@kernel
def _sample_block(pyramid: Any, points: Any, edge: int, look: Any, out: Any) -> None:
    """Adds what each traced point shows to ``out`` (H, W, 3), times its cover and ``share``.

    A block that is ``alone`` is not added, but put there.
    """
    whole, halved, places = pyramid
    xs, ys, covers, left, top = points
    xs, ys, covers, out = uncounted(xs), uncounted(ys), uncounted(covers), uncounted(out)
    shrinks, quick, share, alone = look
    size = places[0, 1], places[0, 2]
    length = xs.shape[1] - 2
    store, line = row_store(length), np.empty(length * 4, np.float32)
    cover, sharp = np.empty(length, np.float32), np.empty(length, np.float32)
    wide = np.zeros(length, np.bool_)
    for i in range(xs.shape[0] - 2):
        any_wide = shrinks and find_wide(xs, ys, i + 1, wide)
        _begin_row(covers[i + 1, 1:-1], share, wide, cover, sharp, line)
        seen = xs[i + 1, 1:-1], ys[i + 1, 1:-1], sharp
        add_traced(whole, size, seen, edge, quick, store, line)
        if any_wide:
            average_wide(whole, halved, places, xs, ys, i + 1, wide, cover, edge, line)
        row = out[top + i, left : left + length]
        if alone:
            put_line(line, row)
        else:
            add_line(line, row)
