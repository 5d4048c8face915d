"""Stages of a coordinate map: where a geometry filter's output looks in the picture entering it.

Points are (x, y) in pixels, x right, y down, pixel (row i, column j) at (j + 0.5, i + 0.5). Every
stage maps output points to input points (inverse mapping). Rotations are counter-clockwise as seen.

A stage is a compiled function that moves a block of points in place, and its parameters, so that a
filter brings its own movement without the warp knowing of it.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.geometry.edge_modes import Edge

Matrix = NDArray[np.float64]
# move(xs, ys, gains, parameters): float64 (rows, columns) twice, moved in place; float32 of the same
# shape, multiplied by the change of brightness; float64 (n, 3).
MovePoints = Callable[[Any, Any, Any, Any], None]


@dataclass(frozen=True, eq=False)
class CoordinateTransform:
    """A map from output points to input points, and the edge of that input."""

    move: MovePoints
    parameters: Matrix
    edge: Edge

    def is_identity(self, _width: int, _height: int) -> bool:
        """Whether every point maps to itself."""
        return False


@kernel
def move_affine(xs: Any, ys: Any, gains: Any, parameters: Any) -> None:
    """Move points by the (2, 3) matrix ``parameters``."""
    a, b, c = parameters[0, 0], parameters[0, 1], parameters[0, 2]
    d, e, f = parameters[1, 0], parameters[1, 1], parameters[1, 2]
    for i in range(xs.shape[0]):
        for j in range(xs.shape[1]):
            x, y = xs[i, j], ys[i, j]
            xs[i, j] = a * x + b * y + c
            ys[i, j] = d * x + e * y + f


@dataclass(frozen=True, eq=False, init=False)
class AffineTransform(CoordinateTransform):
    """A stage whose input point is ``matrix`` (2, 3) times the output point (x, y, 1)."""

    def __init__(self, matrix: Matrix, edge: Edge) -> None:
        super().__init__(move_affine, matrix, edge)

    @property
    def matrix(self) -> Matrix:
        """The float64 (2, 3) matrix from output to input points."""
        return self.parameters

    def is_identity(self, width: int, height: int) -> bool:
        """Whether every point maps to itself, repeats of a tiled or mirrored frame included."""
        linear, shift = self.matrix[:, :2], self.matrix[:, 2]
        if not np.array_equal(linear, np.eye(2)):
            return False
        period = {"tile": 1, "mirror": 2}.get(self.edge)
        if period is None:
            return not shift.any()
        return bool(shift[0] % (period * width) == 0 and shift[1] % (period * height) == 0)


def translation(shift: tuple[float, float], edge: Edge) -> AffineTransform:
    """Return the stage that moves the picture by ``shift`` pixels, +x right and +y down."""
    return AffineTransform(np.array([[1.0, 0.0, -shift[0]], [0.0, 1.0, -shift[1]]]), edge)


def placement(
    scale: tuple[float, float],
    turns: float,
    centre: tuple[float, float],
    shift: tuple[float, float],
    edge: Edge,
) -> AffineTransform:
    """Return the stage that scales and rotates about ``centre`` and then shifts, all in pixels."""
    cosine, sine = _cosine_and_sine(turns)
    # As seen with y downward, a counter-clockwise rotation takes (1, 0) to (cos, -sin).
    inverse = np.array(
        [[cosine / scale[0], -sine / scale[0]], [sine / scale[1], cosine / scale[1]]]
    )
    middle = np.array(centre)
    offset = middle - inverse @ (middle + np.array(shift))
    return AffineTransform(np.column_stack([inverse, offset]), edge)


def _cosine_and_sine(turns: float) -> tuple[float, float]:
    """Return cosine and sine of ``turns``, exact at quarters so that whole turns change nothing."""
    quarters = (turns % 1.0) * 4
    if quarters.is_integer():
        return ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))[int(quarters) % 4]
    angle = math.tau * (turns % 1.0)
    return math.cos(angle), math.sin(angle)
