"""The one lookup: composed stages, traced point by point, sampled once.

An output point is traced back through the stages, last stage first; after each, it is folded into
the frame by that stage's edge, so that it is always the picture entering a pass that is extended.
Enlarging samples with Catmull-Rom's cubic (Keys 1981, a = -1/2). Shrinking averages enough samples
of a halved picture to cover each output pixel. The shutter averages over time as well.
"""

import math
from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.bands import over_rows
from idle_shimmer.core.geometry.edges import BLACK, EDGE_CODE, SMEAR, coverage, fold, fold_index
from idle_shimmer.core.geometry.level import is_level, look_up_level
from idle_shimmer.core.geometry.stages import Stage
from idle_shimmer.core.interpolation import cubic_rgb, cubic_weights
from idle_shimmer.core.kernel import inlined, kernel
from idle_shimmer.core.picture import Pixels

MOST_SAMPLES_A_SIDE = 16
# On the halved picture an output pixel spans 1 to 2 pixels; this many samples for each keep what is
# left of finer detail from aliasing, and leave one sample where halving alone did it.
_SAMPLES_A_PIXEL, _SAMPLES_LESS = 1.5, 0.5


def look_up(pixels: Pixels, moments: Sequence[Sequence[Stage]]) -> Pixels:
    """The picture seen through composed stages, averaged over ``moments``.

    ``pixels`` is float32 (H, W, 3). Each moment is one set of stages, in stack order; all have the
    same number of stages with the same edges. Returns a new picture of the same shape; what lies
    beyond a ``black`` edge is 0.
    """
    height, width = pixels.shape[:2]
    matrices, edges = _packed(moments)
    halvings, samples_x, samples_y = _sampling(_footprint(matrices), edges)
    source = _halved(pixels, halvings)
    if is_level(matrices):
        return look_up_level(source, (height, width), matrices, edges, samples_x, samples_y)
    out = np.empty_like(pixels)
    over_rows(_sample_rows, height, source, out, matrices, edges, samples_x, samples_y)
    return out


def _packed(
    moments: Sequence[Sequence[Stage]],
) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """(moment, stage, six matrix members) and the stages' edges, last stage first."""
    matrices = [[stage.matrix.ravel() for stage in reversed(stages)] for stages in moments]
    edges = [EDGE_CODE[stage.edge] for stage in reversed(moments[0])]
    return np.array(matrices), np.array(edges, dtype=np.int64)


def _footprint(matrices: NDArray[np.float64]) -> tuple[float, float]:
    """How many source pixels one output pixel spans, along its own x and its own y."""
    spans = []
    for stages in matrices[:: max(1, len(matrices) // 8)]:
        linear = np.eye(2)
        for matrix in stages:
            linear = matrix.reshape(2, 3)[:, :2] @ linear
        spans.append(np.hypot(linear[0], linear[1]))
    widest = np.max(spans, axis=0)
    return float(widest[0]), float(widest[1])


def _sampling(footprint: tuple[float, float], edges: NDArray[np.int64]) -> tuple[int, int, int]:
    """(times to halve the source, samples across, samples down) for a footprint in pixels."""
    level = max(0, math.floor(math.log2(min(footprint)) + 1e-9))
    if SMEAR in edges:
        # Halved, the outermost pixel is an average, and no longer what has to be smeared.
        level = 0
    counts = [
        math.ceil(_SAMPLES_A_PIXEL * span / 2**level - _SAMPLES_LESS - 1e-6) for span in footprint
    ]
    counts = [min(MOST_SAMPLES_A_SIDE, max(1, count)) for count in counts]
    return level, counts[0], counts[1]


def _halved(pixels: Pixels, level: int) -> Pixels:
    """The picture area-averaged to 1 / 2^level of its size, at least one pixel a side."""
    if level == 0:
        return np.ascontiguousarray(pixels)
    height, width = pixels.shape[:2]
    size = (max(1, round(width / 2**level)), max(1, round(height / 2**level)))
    return cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)


@inlined
def _sample_folded(
    source: Any, i: int, j: int, wx: Any, wy: Any, edge: int
) -> tuple[Any, Any, Any]:
    """The cubic interpolation near the frame's edges: taps beyond them are folded by ``edge``."""
    rows, columns = source.shape[0], source.shape[1]
    red, green, blue = np.float32(0), np.float32(0), np.float32(0)
    for b in range(4):
        r = fold_index(i + b - 1, rows, edge)
        for a in range(4):
            c = fold_index(j + a - 1, columns, edge)
            w = wy[b] * wx[a]
            red += w * source[r, c, 0]
            green += w * source[r, c, 1]
            blue += w * source[r, c, 2]
    return red, green, blue


@inlined
def _trace_row(
    xs: Any, ys: Any, covers: Any, y: float, x: float, stages: Any, edges: Any, height: float
) -> None:
    """Where the output points (x, y), (x + 1, y), … look in the source, and how covered they are."""
    width = float(xs.shape[0])
    for j in range(xs.shape[0]):
        xs[j], ys[j], covers[j] = x + j, y, np.float32(1)
    for s in range(edges.shape[0]):
        edge = edges[s]
        a, b, c = stages[s, 0], stages[s, 1], stages[s, 2]
        d, e, f = stages[s, 3], stages[s, 4], stages[s, 5]
        for j in range(xs.shape[0]):
            u = a * xs[j] + b * ys[j] + c
            ys[j] = d * xs[j] + e * ys[j] + f
            xs[j] = u
        if edge == BLACK:
            for j in range(xs.shape[0]):
                covers[j] *= np.float32(coverage(xs[j], width) * coverage(ys[j], height))
        for j in range(xs.shape[0]):
            xs[j] = fold(xs[j], width, edge)
        for j in range(xs.shape[0]):
            ys[j] = fold(ys[j], height, edge)


@inlined
def _add_row(
    source: Any, xs: Any, ys: Any, covers: Any, scale_x: float, scale_y: float, edge: int, sums: Any
) -> None:
    """Adds what each traced point of a row shows to ``sums`` (W, 3)."""
    rows, columns = source.shape[0], source.shape[1]
    for j in range(xs.shape[0]):
        cover = covers[j]
        if cover == 0:
            continue
        x, y = xs[j] * scale_x - 0.5, ys[j] * scale_y - 0.5
        q, p = int(math.floor(x)), int(math.floor(y))
        wx, wy = cubic_weights(np.float32(x - q)), cubic_weights(np.float32(y - p))
        # The vector of the last tap reads one float further, hence one column less on the right.
        if 1 <= p < rows - 2 and 1 <= q < columns - 3:
            base = ((p - 1) * columns + q - 1) * 3
            red, green, blue = cubic_rgb(source, base, columns * 3, wx, wy)
        else:
            red, green, blue = _sample_folded(source, p, q, wx, wy, edge)
        sums[j, 0] += cover * red
        sums[j, 1] += cover * green
        sums[j, 2] += cover * blue


@kernel
def _sample_rows(
    source: Any, out: Any, moments: Any, edges: Any, across: int, down: int, first: int, end: int
) -> None:
    height, width = out.shape[0], out.shape[1]
    scale_x, scale_y = source.shape[1] / width, source.shape[0] / height
    share = np.float32(1.0 / (moments.shape[0] * across * down))
    xs, ys, covers = np.empty(width), np.empty(width), np.empty(width, np.float32)
    sums = np.empty((width, 3), np.float32)
    for i in range(first, end):
        sums[:] = 0
        for t in range(moments.shape[0]):
            for b in range(down):
                for a in range(across):
                    x, y = (a + 0.5) / across, i + (b + 0.5) / down
                    _trace_row(xs, ys, covers, y, x, moments[t], edges, height)
                    _add_row(source, xs, ys, covers, scale_x, scale_y, edges[-1], sums)
        for j in range(width):
            for c in range(3):
                out[i, j, c] = sums[j, c] * share


@kernel
def _coverage_rows(out: Any, moments: Any, edges: Any, first: int, end: int) -> None:
    height, width = out.shape[0], out.shape[1]
    share = np.float32(1.0 / moments.shape[0])
    xs, ys, covers = np.empty(width), np.empty(width), np.empty(width, np.float32)
    for i in range(first, end):
        out[i] = 0
        for t in range(moments.shape[0]):
            _trace_row(xs, ys, covers, i + 0.5, 0.5, moments[t], edges, height)
            for j in range(width):
                out[i, j] += covers[j] * share


def covered(width: int, height: int, moments: Sequence[Sequence[Stage]]) -> NDArray[np.float32]:
    """How much of each output pixel shows picture: float32 (H, W), 0…1, 1 without black edges."""
    matrices, edges = _packed(moments)
    out = np.empty((height, width), np.float32)
    over_rows(_coverage_rows, height, out, matrices, edges)
    return out
