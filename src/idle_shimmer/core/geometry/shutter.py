"""The shutter: how many moments a movement needs to blur without gaps.

Source of the exposure: shutter angle / 360 / frame rate, so over one frame the shutter is open for
angle / 360 of it, here centred on the frame's sampling time.
"""

import math
from collections.abc import Callable, Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.geometry.stages import Stage

MOST_MOMENTS = 512
_PROBE_TIMES = 9
_PROBE_PX = 32
# (up to so many pixels of the movement, pixels between moments): the longer a blur, the more moments
# it averages anyway, and the less each one is seen (tests/core/test_geometry.py holds the error).
_SPACING = ((24.0, 1.0), (48.0, 2.0), (96.0, 3.0), (math.inf, 5.0))
# Counts above this are rounded up to a few leading bits, so that neighbouring parts share moments.
_COUNTED_SINGLY = 16

Moments = Sequence[Sequence[Stage]]
Part = tuple[int, int, int, int]


class Exposure:
    """The sets of stages to average for a frame sampled at ``t`` (frames from the cut).

    As many moments as the longest movement among a grid of points needs while the shutter is open,
    at most MOST_MOMENTS. With a shutter of 0, the one moment at ``t``. Points near the middle of a
    turn move less than those far out, so a part of the frame may need fewer than the whole.
    """

    def __init__(
        self,
        stages_at: Callable[[float], Sequence[Stage]],
        t: float,
        shutter_deg: float,
        size: tuple[int, int],
    ) -> None:
        self._stages_at, self._t, self._span, self._size = stages_at, t, shutter_deg / 360, size
        self._known: dict[int, Moments] = {}

    @cached_property
    def moments(self) -> Moments:
        """What the whole frame needs."""
        width, height = self._size
        return self.within((0, 0, width, height))

    def within(self, part: Part) -> Moments:
        """What a part of the frame needs: pixels from (left, top) up to (right, bottom)."""
        count = self._needed(part)
        if count not in self._known:
            times = ((i + 0.5) / count - 0.5 for i in range(count))
            self._known[count] = [self._stages_at(self._t + self._span * each) for each in times]
        return self._known[count]

    def _needed(self, part: Part) -> int:
        if self._span == 0:
            return 1
        left, top, right, bottom = (each / _PROBE_PX for each in part)
        near = self._lengths_px[
            math.floor(top) : math.ceil(bottom) + 1, math.floor(left) : math.ceil(right) + 1
        ]
        return _rounded(min(MOST_MOMENTS, max(1, math.ceil(_spaced(float(near.max()))))))

    @cached_property
    def _lengths_px(self) -> NDArray[np.float64]:
        """How far the picture moves while the shutter is open, at points _PROBE_PX apart."""
        width, height = self._size
        across, down = (
            np.minimum(np.arange(math.ceil(size / _PROBE_PX) + 1) * float(_PROBE_PX), size)
            for size in (width, height)
        )
        points = np.meshgrid(across, down)
        times = (i / (_PROBE_TIMES - 1) - 0.5 for i in range(_PROBE_TIMES))
        places = np.array(
            [_shown_at(self._stages_at(self._t + self._span * each), *points) for each in times]
        )
        lengths: NDArray[np.float64] = np.linalg.norm(np.diff(places, axis=0), axis=1).sum(axis=0)
        return lengths


def _spaced(length_px: float) -> float:
    """How many moments lie along a movement of this length."""
    count = begun = 0.0
    for up_to, spacing in _SPACING:
        count += max(0.0, min(length_px, up_to) - begun) / spacing
        begun = up_to
    return count


def _rounded(count: int) -> int:
    if count <= _COUNTED_SINGLY:
        return count
    step = 2 ** (count.bit_length() - 3)
    return -(-count // step) * step


def _shown_at(
    stages: Sequence[Stage], x: NDArray[np.float64], y: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Where output points look, (2, rows, columns) in pixels, without folding at the edges."""
    x, y = x.copy(), y.copy()
    shades = np.ones(x.shape, np.float32)
    for stage in reversed(stages):
        stage.warp(x, y, shades, stage.parameters)
    return np.stack([x, y])
