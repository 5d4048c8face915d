"""Stages of a coordinate map: where a geometry pass's output looks in the picture entering it.

Conventions: points are (x, y) in pixels, x right, y down, pixel (row i, column j) at
(j + 0.5, i + 0.5). Matrices are float64 (2, 3) and go from output points to input points.
Turns are counter-clockwise as seen.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.geometry.edges import Edge

Matrix = NDArray[np.float64]


@dataclass(frozen=True)
class Stage:
    """An affine way back from output points to input points, and the edge of that input."""

    matrix: Matrix
    edge: Edge

    def is_identity(self, width: int, height: int) -> bool:
        """Whether every point looks at itself, repeats of a tiled or mirrored frame included."""
        linear, shift = self.matrix[:, :2], self.matrix[:, 2]
        if not np.array_equal(linear, np.eye(2)):
            return False
        period = {"tile": 1, "mirror": 2}.get(self.edge)
        if period is None:
            return not shift.any()
        return bool(shift[0] % (period * width) == 0 and shift[1] % (period * height) == 0)


def translation(shift: tuple[float, float], edge: Edge) -> Stage:
    """Moves the picture by ``shift`` pixels, +x right and +y down."""
    return Stage(np.array([[1.0, 0.0, -shift[0]], [0.0, 1.0, -shift[1]]]), edge)


def placement(
    scale: tuple[float, float],
    turns: float,
    centre: tuple[float, float],
    shift: tuple[float, float],
    edge: Edge,
) -> Stage:
    """Scales about ``centre`` (pixels), turns about it counter-clockwise, then shifts (pixels)."""
    cosine, sine = _turn(turns)
    # As seen with y downward, a counter-clockwise turn takes (1, 0) to (cos, -sin).
    inverse = np.array(
        [[cosine / scale[0], -sine / scale[0]], [sine / scale[1], cosine / scale[1]]]
    )
    middle = np.array(centre)
    offset = middle - inverse @ (middle + np.array(shift))
    return Stage(np.column_stack([inverse, offset]), edge)


def _turn(turns: float) -> tuple[float, float]:
    """Cosine and sine of ``turns``, exact at quarters so that whole turns change nothing."""
    quarters = (turns % 1.0) * 4
    if quarters.is_integer():
        return ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))[int(quarters) % 4]
    angle = math.tau * (turns % 1.0)
    return math.cos(angle), math.sin(angle)
