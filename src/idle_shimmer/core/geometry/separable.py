"""Warps through stages that neither rotate nor shear: rows and columns apart, 4 + 4 taps for 4 × 4.

The same points, weights and edges as the general warp; only the order of the sums differs.
"""

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.compute.parallel import parallel_rows
from idle_shimmer.core.geometry.edge_modes import BLACK, coverage, fold, fold_index
from idle_shimmer.core.geometry.footprint import SideSamples
from idle_shimmer.core.picture.encoding import Pixels
from idle_shimmer.core.picture.resampling import cubic_weights

_X, _Y = slice(0, 3, 2), slice(4, 6)


def is_separable(matrices: NDArray[np.float64]) -> bool:
    """Whether x depends on x alone and y on y alone, in every stage of (time sample, stage, 6)."""
    return not matrices[:, :, 1].any() and not matrices[:, :, 3].any()


def warp_separable(
    source: Pixels,
    whole: tuple[int, int],
    shape: tuple[int, int],
    matrices: NDArray[np.float64],
    edges: NDArray[np.int64],
    samples: tuple[SideSamples, SideSamples],
) -> Pixels:
    """Return a picture of ``shape`` (H, W) seen through separable stages; see ``warp``.

    ``source`` may be a halved copy of a picture of shape ``whole``; ``samples`` are those of an output
    pixel (across, down).
    """
    height, width = shape
    across, down = (width, whole[1], source.shape[1]), (height, whole[0], source.shape[0])
    columns = _taps(matrices[:, :, _X], edges, across, samples[0])
    rows = _taps(matrices[:, :, _Y], edges, down, samples[1])
    out = np.empty((height, width, 3), np.float32)
    parallel_rows(_separable_rows, height, source, out, columns, rows)
    return out


def _taps(
    axis: NDArray[np.float64],
    edges: NDArray[np.int64],
    sizes: tuple[int, int, int],
    samples: SideSamples,
) -> tuple[NDArray[np.int32], Pixels]:
    """Return indices and weights (time sample, output pixel, tap) along one axis.

    ``sizes`` are those of the frame, of the whole picture and of its copy that is sampled.
    """
    shape = (axis.shape[0], sizes[0], 4 * samples.number)
    indices, weights = np.empty(shape, np.int32), np.empty(shape, np.float32)
    _fill_taps(np.ascontiguousarray(axis), edges, sizes[1:], samples, indices, weights)
    return indices, weights


@kernel
def _fill_taps(axis: Any, edges: Any, sizes: Any, samples: Any, indices: Any, weights: Any) -> None:
    whole_size, source_size = sizes
    last, count = edges.shape[0] - 1, samples.number
    for t in range(axis.shape[0]):
        for j in range(indices.shape[1]):
            for a in range(count):
                x, cover = j + 0.5 + (a - (count - 1) / 2) * samples.spacing, 1.0
                for s in range(edges.shape[0]):
                    size = whole_size if s == last else indices.shape[1]
                    x = axis[t, s, 0] * x + axis[t, s, 1]
                    if edges[s] == BLACK:
                        cover *= coverage(x, size)
                    x = fold(x, size, edges[s])
                x = x * (source_size / whole_size) - 0.5
                q = int(math.floor(x))
                four = cubic_weights(np.float32(x - q))
                for k in range(4):
                    indices[t, j, 4 * a + k] = fold_index(q + k - 1, source_size, edges[-1])
                    weights[t, j, 4 * a + k] = four[k] * np.float32(cover / count)


@kernel
def _separable_rows(source: Any, out: Any, columns: Any, rows: Any, first: int, end: int) -> None:
    column_indices, column_weights = columns
    row_indices, row_weights = rows
    time_samples, width = column_indices.shape[0], column_indices.shape[1]
    share = np.float32(1.0 / time_samples)
    line = np.empty(source.shape[1] * 3, np.float32)
    flat = source.reshape(source.shape[0], -1)
    for i in range(first, end):
        out[i] = 0
        for t in range(time_samples):
            line[:] = 0
            for k in range(row_indices.shape[2]):
                weight = row_weights[t, i, k] * share
                if weight == 0:
                    continue
                row = flat[row_indices[t, i, k]]
                for n in range(line.shape[0]):
                    line[n] += weight * row[n]
            for j in range(width):
                red, green, blue = np.float32(0), np.float32(0), np.float32(0)
                for k in range(column_indices.shape[2]):
                    weight, at = column_weights[t, j, k], column_indices[t, j, k] * 3
                    red += weight * line[at]
                    green += weight * line[at + 1]
                    blue += weight * line[at + 2]
                out[i, j, 0] += red
                out[i, j, 1] += green
                out[i, j, 2] += blue
