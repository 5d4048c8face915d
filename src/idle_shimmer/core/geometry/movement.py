"""How far a moving stage carries the picture during one frame."""

import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from idle_shimmer.core.geometry.stages import AffineStage, Matrix

_PARTS = 16


@dataclass(frozen=True, slots=True)
class Movement:
    """The picture's travel from half a frame before a time to half a frame after it.

    ``right`` and ``down`` are the way of what stands in the frame's middle, in frame heights;
    ``zoom`` is the natural logarithm of the change of scale; ``turn_deg`` counter-clockwise.
    """

    right: float
    down: float
    zoom: float
    turn_deg: float

    @property
    def distance(self) -> float:
        """The length of the way, in frame heights."""
        return math.hypot(self.right, self.down)

    @property
    def angle_deg(self) -> float:
        """The direction of the way, counter-clockwise from rightwards; 0 where there is none."""
        return math.degrees(math.atan2(0.0 - self.down, self.right)) if self.distance else 0.0


def movement(
    stage_at: Callable[[float], AffineStage], t: float, width: int, height: int
) -> Movement:
    """The movement during the frame around ``t`` (frames from the cut)."""
    times = t - 0.5 + np.arange(_PARTS + 1) / _PARTS
    ways = [_forward(stage_at(float(each)).matrix) for each in times]
    shown = stage_at(t).matrix @ np.array([width / 2, height / 2, 1.0])
    begun, done = (way @ np.append(shown, 1.0) for way in (ways[0], ways[-1]))
    right, down = (done - begun) / height
    zoom = 0.5 * math.log(abs(_determinant(ways[-1]) / _determinant(ways[0])))
    turned = sum(_turned_deg(a, b) for a, b in itertools.pairwise(ways))
    return Movement(float(right), float(down), zoom, turned)


def _forward(backward: Matrix) -> Matrix:
    linear = np.linalg.inv(backward[:, :2])
    return np.column_stack([linear, -linear @ backward[:, 2]])


def _determinant(way: Matrix) -> float:
    return float(np.linalg.det(way[:, :2]))


def _turned_deg(one: Matrix, other: Matrix) -> float:
    """The turn from one way to a slightly later one, y downward, counter-clockwise positive."""
    step = other[:, :2] @ np.linalg.inv(one[:, :2])
    return math.degrees(math.atan2(step[0, 1] - step[1, 0], step[0, 0] + step[1, 1]))
