"""Maps output points back through the stages: a block of points at a time, one stage after another.

After each stage but the first one's, points are folded into the frame by that stage's edge, so that
it is always the picture entering a filter that is extended. A block has a border of one pixel, so
that each point knows where its neighbours look.
"""

from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.geometry.edge_modes import BLACK, EDGE_CODE, coverage, fold_in_place
from idle_shimmer.core.geometry.shutter import Part
from idle_shimmer.core.geometry.transforms import CoordinateTransform

# Small enough to stay in the second-level cache, large enough to make calls cheap.
_BLOCK_ROWS, BLOCK_COLUMNS = 64, 320
# Columns where many time samples are averaged: the smaller a block, the fewer of them it needs.
_THINNED_COLUMNS = 192


def _parts(first: int, end: int, width: int, columns: int) -> Iterator[Part]:
    """Yield parts of the size of a block of the rows ``first`` … ``end`` - 1."""
    for top in range(first, end, _BLOCK_ROWS):
        for left in range(0, width, columns):
            yield left, top, min(left + columns, width), min(top + _BLOCK_ROWS, end)


def blocks(
    first: int, end: int, width: int, *, thinned: bool = False
) -> Iterator[tuple[Part, Any, Any, Any]]:
    """Yield (part of the frame, xs, ys, covers) for each block; arrays have a border of a pixel.

    ``thinned`` blocks are smaller: each takes the time samples that it needs.
    """
    room = (_BLOCK_ROWS + 2) * (BLOCK_COLUMNS + 2)
    memory = np.empty(room), np.empty(room), np.empty(room, np.float32)
    for part in _parts(first, end, width, _THINNED_COLUMNS if thinned else BLOCK_COLUMNS):
        rows, columns = part[3] - part[1] + 2, part[2] - part[0] + 2
        xs, ys, covers = (each[: rows * columns].reshape(rows, columns) for each in memory)
        yield part, xs, ys, covers


@kernel
def start_block(xs: Any, ys: Any, covers: Any, left: int, top: int) -> None:
    """Set points to the centres of output pixels, with a border of one pixel around the block."""
    for i in range(xs.shape[0]):
        for j in range(xs.shape[1]):
            xs[i, j] = left + j - 0.5
            ys[i, j] = top + i - 0.5
            covers[i, j] = np.float32(1)


Points = tuple[Any, Any]


def map_points(
    points: Points,
    gains: Any,
    covers: Any,
    stages: Sequence[CoordinateTransform],
    size: tuple[int, int],
) -> None:
    """Move ``points`` (xs, ys) back through all stages, in place, up to the first one's fold.

    ``gains`` are multiplied by changes of brightness, ``covers`` by what black edges leave; they
    may be one array. ``size`` is the frame's (W, H).
    """
    xs, ys = points
    width, height = float(size[0]), float(size[1])
    for place in range(len(stages) - 1, -1, -1):
        stage = stages[place]
        stage.move(xs, ys, gains, stage.parameters)
        if place:
            fold_block(xs, ys, covers, width, height, EDGE_CODE[stage.edge])


@kernel
def fold_block(xs: Any, ys: Any, covers: Any, width: float, height: float, edge: int) -> None:
    """Fold points into the frame; black edges reduce ``covers``."""
    for i in range(xs.shape[0]):
        if edge == BLACK:
            for j in range(xs.shape[1]):
                covers[i, j] *= np.float32(coverage(xs[i, j], width) * coverage(ys[i, j], height))
        fold_in_place(xs[i], width, edge)
        fold_in_place(ys[i], height, edge)


def mapped(
    xs: NDArray[np.float64],
    ys: NDArray[np.float64],
    stages: Sequence[CoordinateTransform],
    size: tuple[int, int],
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return where points (rows, columns) look, as new arrays."""
    xs, ys = xs.copy(), ys.copy()
    ones = np.ones(xs.shape, np.float32)
    map_points((xs, ys), ones, ones, stages, size)
    return xs, ys
