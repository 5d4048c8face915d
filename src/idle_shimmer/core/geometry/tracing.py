"""Traces output points back through stages: a block of points at a time, by one stage after another.

After each stage but the first one's, points are folded into the frame by that stage's edge, so that
it is always the picture entering a pass that is extended. A block carries a border of one pixel, so
that each point knows where its neighbours look.
"""

from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.geometry.edges import BLACK, EDGE_CODE, coverage, fold_row
from idle_shimmer.core.geometry.shutter import Part
from idle_shimmer.core.geometry.stages import Stage, affine
from idle_shimmer.core.kernel import kernel

# Traced at once: little enough to stay in the second-level cache, enough to make calls cheap.
_BLOCK = 48, 640


def parts(first: int, end: int, width: int, size: tuple[int, int]) -> Iterator[Part]:
    """Parts of at most ``size`` (rows, columns) of the rows ``first`` … ``end`` - 1."""
    for top in range(first, end, size[0]):
        for left in range(0, width, size[1]):
            yield left, top, min(left + size[1], width), min(top + size[0], end)


def blocks(first: int, end: int, width: int) -> Iterator[tuple[Part, Any, Any, Any]]:
    """(part of the frame, xs, ys, covers) for each block, the arrays with a border of one pixel."""
    room = (_BLOCK[0] + 2) * (_BLOCK[1] + 2)
    store = np.empty(room), np.empty(room), np.empty(room, np.float32)
    for part in parts(first, end, width, _BLOCK):
        rows, columns = part[3] - part[1] + 2, part[2] - part[0] + 2
        xs, ys, covers = (each[: rows * columns].reshape(rows, columns) for each in store)
        yield part, xs, ys, covers


@kernel
def start_block(xs: Any, ys: Any, covers: Any, left: int, top: int) -> None:
    """The centres of output pixels, with a border of one pixel around the block."""
    for i in range(xs.shape[0]):
        for j in range(xs.shape[1]):
            xs[i, j] = left + j - 0.5
            ys[i, j] = top + i - 0.5
            covers[i, j] = np.float32(1)


def trace(
    xs: Any, ys: Any, shades: Any, covers: Any, stages: Sequence[Stage], width: int, height: int
) -> None:
    """Moves points (rows, columns) back through all stages, in place, up to the first one's fold."""
    for place in range(len(stages) - 1, -1, -1):
        stage = stages[place]
        stage.warp(xs, ys, shades, stage.parameters)
        if place:
            fold_block(xs, ys, covers, float(width), float(height), EDGE_CODE[stage.edge])


@kernel
def fold_block(xs: Any, ys: Any, covers: Any, width: float, height: float, edge: int) -> None:
    """Folds points into the frame; black edges take away from ``covers``."""
    for i in range(xs.shape[0]):
        if edge == BLACK:
            for j in range(xs.shape[1]):
                covers[i, j] *= np.float32(coverage(xs[i, j], width) * coverage(ys[i, j], height))
        fold_row(xs[i], width, edge, xs[i])
        fold_row(ys[i], height, edge, ys[i])


def traced(
    xs: NDArray[np.float64],
    ys: NDArray[np.float64],
    stages: Sequence[Stage],
    width: int,
    height: int,
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Where points (rows, columns) look, as new arrays."""
    xs, ys = xs.copy(), ys.copy()
    trace(
        xs, ys, np.ones(xs.shape, np.float32), np.ones(xs.shape, np.float32), stages, width, height
    )
    return xs, ys


@kernel
def trace_affine(
    xs: Any, ys: Any, covers: Any, stages: Any, edges: Any, width: float, height: float
) -> None:
    """``trace`` through affine stages, given as (stage, 2, 3) and edges, last stage first."""
    for stage in range(edges.shape[0]):
        affine(xs, ys, covers, stages[stage])
        if stage < edges.shape[0] - 1:
            fold_block(xs, ys, covers, width, height, edges[stage])
