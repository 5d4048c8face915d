"""Wipes that run through the frame cell by cell: snakes and spirals."""

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.mixes.wipe_shapes.base import Draw, Frame, Plane, shape

_ROWS = 8
Path = list[tuple[int, int]]


def _drawn(path_of: object, *, right: bool, bottom: bool) -> Draw:
    """The matte of a path that starts in the top left cell, mirrored to start elsewhere.

    Along each cell the value rises in the direction of the path, so that it runs on evenly.
    """

    def draw(f: Frame) -> Plane:
        columns = max(2, round(_ROWS * f.aspect))
        x, y = np.broadcast_arrays(1 - f.x if right else f.x, 1 - f.y if bottom else f.y)
        path = path_of(_ROWS, columns)  # type: ignore[operator]
        order, step = _ordered(path, _ROWS, columns)
        i = np.minimum((y * _ROWS).astype(int), _ROWS - 1)
        j = np.minimum((x * columns).astype(int), columns - 1)
        along_x, along_y = x * columns - j - 0.5, y * _ROWS - i - 0.5
        along = along_x * step[i, j, 1] + along_y * step[i, j, 0]
        return order[i, j] + np.clip(along + 0.5, 0, 1)

    return draw


def _ordered(path: Path, rows: int, columns: int) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """For each cell its place on the path, and the way (down, right) to the next cell."""
    order = np.zeros((rows, columns), np.int64)
    step = np.zeros((rows, columns, 2))
    for place, (i, j) in enumerate(path):
        order[i, j] = place
        following = path[min(place + 1, len(path) - 1)]
        before = path[max(place - 1, 0)]
        way = (
            (following[0] - i, following[1] - j)
            if following != (i, j)
            else (i - before[0], j - before[1])
        )
        size = max(1.0, float(np.hypot(*way)))
        step[i, j] = way[0] / size, way[1] / size
    return order, step


def _by_rows(rows: int, columns: int) -> Path:
    return [(i, j if i % 2 == 0 else columns - 1 - j) for i in range(rows) for j in range(columns)]


def _by_columns(rows: int, columns: int) -> Path:
    return [(i if j % 2 == 0 else rows - 1 - i, j) for j in range(columns) for i in range(rows)]


def _by_diagonals(rows: int, columns: int) -> Path:
    path: Path = []
    for diagonal in range(rows + columns - 1):
        cells = [(i, diagonal - i) for i in range(rows) if 0 <= diagonal - i < columns]
        path += cells if diagonal % 2 else cells[::-1]
    return path


def _spiral(rows: int, columns: int) -> Path:
    """From the top left corner rightwards, then inward."""
    path: Path = []
    top, bottom, left, right = 0, rows - 1, 0, columns - 1
    while top <= bottom and left <= right:
        path += [(top, j) for j in range(left, right + 1)]
        path += [(i, right) for i in range(top + 1, bottom + 1)]
        if top < bottom:
            path += [(bottom, j) for j in range(right - 1, left - 1, -1)]
        if left < right:
            path += [(i, left) for i in range(bottom - 1, top, -1)]
        top, bottom, left, right = top + 1, bottom - 1, left + 1, right - 1
    return path


def _spiral_down(rows: int, columns: int) -> Path:
    """From the top left corner downwards, then inward."""
    return [(j, i) for i, j in _spiral(columns, rows)]


shape("snakeWipe", "topLeftHorizontal", 301, _drawn(_by_rows, right=False, bottom=False))
shape("snakeWipe", "topLeftVertical", 302, _drawn(_by_columns, right=False, bottom=False))
shape("snakeWipe", "topLeftDiagonal", 303, _drawn(_by_diagonals, right=False, bottom=False))
shape("snakeWipe", "topRightDiagonal", 304, _drawn(_by_diagonals, right=True, bottom=False))
shape("snakeWipe", "bottomRightDiagonal", 305, _drawn(_by_diagonals, right=True, bottom=True))
shape("snakeWipe", "bottomLeftDiagonal", 306, _drawn(_by_diagonals, right=False, bottom=True))

shape("spiralWipe", "topLeftClockwise", 310, _drawn(_spiral, right=False, bottom=False))
shape("spiralWipe", "topRightClockwise", 311, _drawn(_spiral_down, right=True, bottom=False))
shape("spiralWipe", "bottomRightClockwise", 312, _drawn(_spiral, right=True, bottom=True))
shape("spiralWipe", "bottomLeftClockwise", 313, _drawn(_spiral_down, right=False, bottom=True))
shape("spiralWipe", "topLeftCounterClockwise", 314, _drawn(_spiral_down, right=False, bottom=False))
shape("spiralWipe", "topRightCounterClockwise", 315, _drawn(_spiral, right=True, bottom=False))
shape(
    "spiralWipe", "bottomRightCounterClockwise", 316, _drawn(_spiral_down, right=True, bottom=True)
)
shape("spiralWipe", "bottomLeftCounterClockwise", 317, _drawn(_spiral, right=False, bottom=True))
