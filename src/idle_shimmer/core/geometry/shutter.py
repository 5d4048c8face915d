"""The shutter: how many time samples a movement needs to blur without gaps.

Source of the exposure: exposure time = shutter angle / 360 / frame rate (common practice), so over
one frame the shutter is open for angle / 360 of it, here centred on the frame's sampling time.
"""

import math
from collections.abc import Callable, Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.geometry.transforms import CoordinateTransform

MAX_TIME_SAMPLES = 512
_PROBE_TIMES = 9
_PROBE_PX = 32
# (up to so many pixels of the movement, pixels between time samples): the longer a blur, the more
# samples it averages, and the less each is seen (tests/core/test_geometry.py limits the error).
_SPACING = ((24.0, 1.0), (48.0, 2.0), (96.0, 3.0), (math.inf, 5.0))

# The stages of the coordinate map, in stack order, at each time sample.
TimeSamples = Sequence[Sequence[CoordinateTransform]]


class Exposure:
    """The stages to average for a frame sampled at ``t`` (frames from the cut).

    The longest movement among a grid of points, while the shutter is open, decides how many time
    samples there are, at most MAX_TIME_SAMPLES; with a shutter of 0, the one at ``t``.
    """

    def __init__(
        self,
        stages_at: Callable[[float], Sequence[CoordinateTransform]],
        t: float,
        shutter_deg: float,
        size: tuple[int, int],
    ) -> None:
        self._stages_at, self._t, self._span, self._size = stages_at, t, shutter_deg / 360, size

    @cached_property
    def time_samples(self) -> TimeSamples:
        """The stages at each time sample, evenly spaced while the shutter is open."""
        count = self._count()
        times = ((i + 0.5) / count - 0.5 for i in range(count))
        return [self._stages_at(self._t + self._span * at) for at in times]

    def _count(self) -> int:
        if self._span == 0:
            return 1
        return min(MAX_TIME_SAMPLES, max(1, math.ceil(_samples_along(self._longest_px()))))

    def _longest_px(self) -> float:
        """Return the longest movement while the shutter is open, of points _PROBE_PX apart."""
        across, down = (
            np.minimum(np.arange(math.ceil(size / _PROBE_PX) + 1) * float(_PROBE_PX), size)
            for size in self._size
        )
        points = np.meshgrid(across, down)
        times = (i / (_PROBE_TIMES - 1) - 0.5 for i in range(_PROBE_TIMES))
        places = np.array(
            [_mapped(self._stages_at(self._t + self._span * at), *points) for at in times]
        )
        return float(np.linalg.norm(np.diff(places, axis=0), axis=1).sum(axis=0).max())


def _samples_along(length_px: float) -> float:
    """Return how many time samples lie along a movement of this length."""
    count = begin = 0.0
    for end, spacing in _SPACING:
        count += max(0.0, min(length_px, end) - begin) / spacing
        begin = end
    return count


def _mapped(
    stages: Sequence[CoordinateTransform], x: NDArray[np.float64], y: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Return where output points look, (2, rows, columns) in pixels, without folding at edges."""
    x, y = x.copy(), y.copy()
    gains = np.ones(x.shape, np.float32)
    for stage in reversed(stages):
        stage.move(x, y, gains, stage.parameters)
    return np.stack([x, y])
