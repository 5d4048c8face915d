"""The one warp: composed stages, mapped point by point, sampled once.

An output point is mapped back through the stages, last stage first; after each, it is folded into
the frame by that stage's edge, so that it is always the picture entering a filter that is extended.
Enlarging samples with the Catmull-Rom cubic (Keys 1981, a = -1/2). Where the map shrinks, each output
pixel averages as many samples of a suitably halved picture as its footprint needs. The shutter
averages over time as well.
"""

import math
from functools import lru_cache
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.compute.parallel import parallel_rows
from idle_shimmer.core.compute.special_paths import is_on
from idle_shimmer.core.geometry.edge_modes import EDGE_CODE, SMEAR
from idle_shimmer.core.geometry.footprint import SHARP_FOOTPRINT, find_wide, samples_of_side
from idle_shimmer.core.geometry.footprint_memory import footprints_of_row
from idle_shimmer.core.geometry.footprint_samples import add_wide
from idle_shimmer.core.geometry.inverse_map import (
    blocks,
    fold_block,
    map_points,
    mapped,
    start_block,
)
from idle_shimmer.core.geometry.pyramid import Pyramid, halved, max_level
from idle_shimmer.core.geometry.sampling import (
    Sampling,
    add_line,
    add_points,
    put_line,
    put_points,
    row_points,
)
from idle_shimmer.core.geometry.separable import is_separable, warp_separable
from idle_shimmer.core.geometry.shutter import ExposedSamples, Part, TimeSamples
from idle_shimmer.core.geometry.transforms import AffineTransform
from idle_shimmer.core.geometry.translate import is_translation, warp_translation
from idle_shimmer.core.picture.encoding import Pixels

_PROBES = 17
_PROBED_TIMES = 8
_MANY_TIMES = 12


def warp(pixels: Pixels, time_samples: TimeSamples, size: tuple[int, int] | None = None) -> Pixels:
    """Return the picture seen through composed stages, averaged over ``time_samples``.

    ``pixels`` is float32 (H, W, 3). Each time sample is one list of stages, in stack order; all have
    the same number of stages with the same edges. Returns a new picture of the frame's ``size`` (W, H),
    by default the picture's; where they differ, the first stage leads from the frame into the picture.
    Beyond a ``black`` edge it is 0.
    """
    pixels = np.ascontiguousarray(pixels)
    matrices, edges = _matrices(time_samples), _edges(time_samples)
    width, height = size or (pixels.shape[1], pixels.shape[0])
    is_own = (height, width) == pixels.shape[:2]
    if matrices is not None and is_own and is_on("translate") and is_translation(matrices, edges):
        return warp_translation(pixels, matrices, int(edges[0]))
    if matrices is not None and is_on("separable") and is_separable(matrices):
        return _warp_separable(pixels, (height, width), matrices, edges)
    out = np.empty((height, width, 3), np.float32)
    if matrices is not None:
        spans = _affine_spans(matrices)
    else:
        spans = _probed_spans((width, height), time_samples)
    halvings, shrinks = _halvings(pixels, *spans)
    pyramid, min_rows = Pyramid(pixels, halvings), max(8, 64 // len(time_samples))
    parallel_rows(_mapped_rows, height, pyramid, shrinks, time_samples, out, min_rows=min_rows)
    return out


def coverage_map(width: int, height: int, time_samples: TimeSamples) -> NDArray[np.float32]:
    """Return how much of each output pixel shows picture: float32 (H, W), 1 without black edges."""
    out = np.zeros((height, width), np.float32)
    parallel_rows(_coverage_rows, height, time_samples, out)
    return out


def _edges(time_samples: TimeSamples) -> NDArray[np.int64]:
    """Return the stages' edges, last stage first."""
    return np.array([EDGE_CODE[stage.edge] for stage in reversed(time_samples[0])], dtype=np.int64)


def _matrices(time_samples: TimeSamples) -> NDArray[np.float64] | None:
    """Return (time sample, stage, 6 matrix members), last stage first; None unless all are affine."""
    if not all(isinstance(stage, AffineTransform) for stage in time_samples[0]):
        return None
    return np.array([[s.parameters.ravel() for s in reversed(stages)] for stages in time_samples])


def _warp_separable(
    pixels: Pixels, shape: tuple[int, int], matrices: NDArray[np.float64], edges: NDArray[np.int64]
) -> Pixels:
    footprint = (_max_span(matrices[:, :, 0]), _max_span(matrices[:, :, 4]))
    halvings = max(0, math.floor(math.log2(min(footprint)) + 1e-9))
    if SMEAR in edges:
        # Halved, the outermost pixel is an average, and no longer what has to be smeared.
        halvings = 0
    across, down = (samples_of_side(span / 2**halvings, halvings) for span in footprint)
    source = halved(pixels, halvings)
    return warp_separable(source, pixels.shape[:2], shape, matrices, edges, (across, down))


def _max_span(scales: NDArray[np.float64]) -> float:
    """Return the widest footprint along one axis, from scales (time sample, stage)."""
    return max(float(np.abs(scales.prod(axis=1)).max()), 1e-9)


def _halvings(pixels: Pixels, deepest: float, widest: float) -> tuple[int, bool]:
    """Return (halved copies that the map can use, whether it shrinks anywhere)."""
    halvings = math.floor(math.log2(max(deepest, 1.0)) + 1e-9)
    return min(max_level(pixels), halvings), widest > SHARP_FOOTPRINT


def _affine_spans(matrices: NDArray[np.float64]) -> tuple[float, float]:
    """Return ``_probed_spans`` of affine stages, which are the same everywhere in the frame."""
    composed = np.broadcast_to(np.eye(2), (len(matrices), 2, 2))
    for stage in range(matrices.shape[1]):
        composed = matrices[:, stage].reshape(-1, 2, 3)[:, :, :2] @ composed
    spans = np.linalg.norm(composed, axis=1)
    return float(spans.min(axis=1).max()), float(spans.max())


def _probed_spans(size: tuple[int, int], time_samples: TimeSamples) -> tuple[float, float]:
    """Return how far apart neighbouring output pixels look, in pixels, from a grid of probes.

    (the most along the shorter side of any footprint, the most along any side).
    """
    width, height = size
    deepest = widest = 0.0
    for stages in time_samples[:: max(1, len(time_samples) // _PROBED_TIMES)]:
        x, y = mapped(*_probes(width, height), stages, (width, height))
        across, down = (np.hypot(x[k] - x[0], y[k] - y[0]) for k in (1, 2))
        deepest = max(deepest, float(np.minimum(across, down).max()))
        widest = max(widest, float(across.max()), float(down.max()))
    return deepest, widest


@lru_cache(maxsize=8)
def _probes(width: int, height: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return x and y (3, probes) of a grid of points, of those right of them and those below them."""
    x, y = np.meshgrid(
        np.linspace(0.5, width - 1.5, _PROBES), np.linspace(0.5, height - 1.5, _PROBES)
    )
    return np.stack([x, x + 1, x]).reshape(3, -1), np.stack([y, y, y + 1]).reshape(3, -1)


class _Block(NamedTuple):
    """A block of mapped points, with a border of one pixel, and where it lies in the frame."""

    xs: Any
    ys: Any
    covers: Any
    left: int
    top: int


class _Averaging(NamedTuple):
    """Whether the map shrinks anywhere, each time sample's share, whether there is only one."""

    shrinks: bool
    share: Any
    alone: bool


def _needed_of(time_samples: TimeSamples, part: Part) -> TimeSamples:
    """Return the time samples that a part of the frame needs."""
    return time_samples.of_part(part) if isinstance(time_samples, ExposedSamples) else time_samples


def _mapped_rows(
    pyramid: Pyramid, shrinks: bool, time_samples: TimeSamples, out: Pixels, first: int, end: int
) -> None:
    height, width = out.shape[:2]
    count, edge = len(time_samples), int(_edges(time_samples)[-1])
    sampling = Sampling(*pyramid.size, edge)
    for (left, top, right, bottom), xs, ys, covers in blocks(
        first, end, width, thinned=count > _MANY_TIMES
    ):
        if count > 1:
            out[top:bottom, left:right] = 0
        block = _Block(xs, ys, covers, left, top)
        needed = _needed_of(time_samples, (left, top, right, bottom))
        averaging = _Averaging(shrinks, np.float32(1 / len(needed)), count == 1)
        for stages in needed:
            start_block(xs, ys, covers, left, top)
            map_points((xs, ys), covers, covers, stages, (width, height))
            _sample_block(pyramid.arrays, block, sampling, averaging, out)


def _coverage_rows(
    time_samples: TimeSamples, out: NDArray[np.float32], first: int, end: int
) -> None:
    height, width = out.shape
    edge = EDGE_CODE[time_samples[0][0].edge]
    share = np.float32(1 / len(time_samples))
    for (left, top, right, bottom), xs, ys, covers in blocks(first, end, width):
        gains = np.ones_like(covers)
        for stages in time_samples:
            start_block(xs, ys, covers, left, top)
            map_points((xs, ys), gains, covers, stages, (width, height))
            fold_block(xs, ys, covers, float(width), float(height), edge)
            out[top:bottom, left:right] += share * covers[1:-1, 1:-1]


@kernel
def _begin_row(covers: Any, share: Any, weights: Any, line: Any) -> None:
    """Clear ``line`` and set the weights of a row."""
    for n in range(line.shape[0]):
        line[n] = 0
    for j in range(weights.shape[0]):
        weights[j] = covers[j] * share


@kernel
def _sample_block(pyramid: Any, block: Any, sampling: Any, averaging: Any, out: Any) -> None:
    """Add what each mapped point shows to ``out`` (H, W, 3), times its cover and share.

    The only time sample is not added, but written.
    """
    xs, ys, covers = block.xs, block.ys, block.covers
    length = xs.shape[1] - 2
    memory, line = row_points(length), np.empty(length * 4, np.float32)
    weights, floats = np.empty(length, np.float32), out.reshape(-1)
    wide, footprints = np.zeros(length, np.int32), footprints_of_row()
    for i in range(xs.shape[0] - 2):
        any_wide = averaging.shrinks and find_wide(xs, ys, i + 1, wide, footprints)
        points, at = (xs[i + 1, 1:-1], ys[i + 1, 1:-1]), (block.top + i) * out.shape[1] + block.left
        if averaging.alone and not any_wide:
            seen = (*points, covers[i + 1, 1:-1])
            if put_points(pyramid[0], sampling, seen, memory, floats, 3 * at):
                continue
        _begin_row(covers[i + 1, 1:-1], averaging.share, weights, line)
        if any_wide:
            add_wide(pyramid, points, wide, weights, footprints, sampling.edge, line)
        else:
            add_points(pyramid[0], sampling, (*points, weights), memory, line)
        row = out[block.top + i, block.left : block.left + length]
        if averaging.alone:
            put_line(line, row)
        else:
            add_line(line, row)
