"""How far a moving stage of the coordinate map carries the picture during one frame."""

import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from idle_shimmer.core.geometry.transforms import AffineTransform, Matrix

# Rotations are summed over so many parts of the frame, so that more than half a turn is counted.
_PARTS = 16


@dataclass(frozen=True, slots=True)
class Movement:
    """The picture's displacement from half a frame before a time to half a frame after it.

    ``right`` and ``down`` are the displacement of what is shown at the frame's centre, in frame
    heights; ``zoom`` is the natural logarithm of the change of scale; ``turn_deg`` is
    counter-clockwise. ``centre`` is the point about which the filter works, in 0…1 of the frame, None
    where it has none.
    """

    right: float
    down: float
    zoom: float
    turn_deg: float
    centre: tuple[float, float] | None = None

    @property
    def distance(self) -> float:
        """The length of the displacement, in frame heights."""
        return math.hypot(self.right, self.down)

    @property
    def angle_deg(self) -> float:
        """The direction, counter-clockwise from rightwards; 0 where there is no displacement."""
        return math.degrees(math.atan2(0.0 - self.down, self.right)) if self.distance else 0.0


NO_MOVEMENT = Movement(0.0, 0.0, 0.0, 0.0)


def movement(
    stage_at: Callable[[float], AffineTransform],
    t: float,
    width: int,
    height: int,
    span: float = 1.0,
) -> Movement:
    """Return the movement during ``span`` frames around ``t`` (frames from the cut), at most one."""
    parts = max(1, round(_PARTS * span))
    times = t + span * (np.arange(parts + 1) / parts - 0.5)
    maps = [_inverse(stage_at(float(time)).matrix) for time in times]
    shown = stage_at(t).matrix @ np.array([width / 2, height / 2, 1.0])
    first, last = (each @ np.append(shown, 1.0) for each in (maps[0], maps[-1]))
    right, down = (last - first) / height
    zoom = 0.5 * math.log(abs(_determinant(maps[-1]) / _determinant(maps[0])))
    turn_deg = sum(_turn_deg(one, other) for one, other in itertools.pairwise(maps))
    return Movement(float(right), float(down), zoom, turn_deg)


def _inverse(matrix: Matrix) -> Matrix:
    linear = np.linalg.inv(matrix[:, :2])
    return np.column_stack([linear, -linear @ matrix[:, 2]])


def _determinant(matrix: Matrix) -> float:
    return float(np.linalg.det(matrix[:, :2]))


def _turn_deg(one: Matrix, other: Matrix) -> float:
    """Return the rotation from one map to a slightly later one, counter-clockwise, y downward."""
    step = other[:, :2] @ np.linalg.inv(one[:, :2])
    return math.degrees(math.atan2(step[0, 1] - step[1, 0], step[0, 0] + step[1, 1]))
