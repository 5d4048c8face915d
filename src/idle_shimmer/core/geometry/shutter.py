"""The shutter: how many time samples a movement needs to blur without gaps.

Source of the exposure: exposure time = shutter angle / 360 / frame rate (common practice), so over
one frame the shutter is open for angle / 360 of it, here centred on the frame's sampling time.
"""

import math
from collections.abc import Callable, Sequence
from functools import cached_property
from typing import Any, overload

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.geometry.transforms import CoordinateTransform

MAX_TIME_SAMPLES = 512
_PROBE_TIMES = 9
_PROBE_PX = 32
# (up to so many pixels of the movement, pixels between time samples): the longer a blur, the more
# samples it averages, and the less each is seen (tests/core/geometry/test_geometry.py limits the error).
_SPACING = ((24.0, 1.0), (48.0, 2.0), (96.0, 3.0), (math.inf, 5.0))

# Where less moves, a part of the frame takes one of these shares of the time samples.
_SHARES = tuple(n / 10 for n in range(1, 11))

# The stages of the coordinate map, in stack order, at each time sample.
TimeSamples = Sequence[Sequence[CoordinateTransform]]
# (left, top, right, bottom) in pixels, the last two exclusive.
Part = tuple[int, int, int, int]


class ExposedSamples(Sequence[Sequence[CoordinateTransform]]):
    """The stages at each time sample of a frame; parts in which less moves need fewer. Safe for several threads."""

    def __init__(
        self,
        stages_at: Callable[[float], Sequence[CoordinateTransform]],
        count: int,
        lengths_px: NDArray[np.float64],
    ) -> None:
        """``stages_at`` takes times from -0.5 to 0.5 of the exposure.

        ``lengths_px`` are the movements, (rows, columns), of points ``_PROBE_PX`` apart.
        """
        self._stages_at, self._lengths_px = stages_at, lengths_px
        self._made: dict[int, TimeSamples] = {}
        self._all = self._evenly(count)

    @overload
    def __getitem__(self, index: int) -> Sequence[CoordinateTransform]: ...
    @overload
    def __getitem__(self, index: slice) -> Sequence[Sequence[CoordinateTransform]]: ...
    def __getitem__(self, index: int | slice) -> Any:
        return self._all[index]

    def __len__(self) -> int:
        return len(self._all)

    def with_first(self, first: Sequence[CoordinateTransform]) -> "ExposedSamples":
        """Return the same with ``first`` as the first stages of each."""
        if not first:
            return self
        return ExposedSamples(
            lambda at: [*first, *self._stages_at(at)], len(self._all), self._lengths_px
        )

    def of_part(self, part: Part) -> TimeSamples:
        """Return the time samples that a part of the frame needs."""
        if len(self._all) == 1:
            return self._all
        left, top, right, bottom = part
        rows = slice(top // _PROBE_PX, -(-bottom // _PROBE_PX) + 1)
        columns = slice(left // _PROBE_PX, -(-right // _PROBE_PX) + 1)
        here, longest = (
            _samples_along(float(each.max()))
            for each in (self._lengths_px[rows, columns], self._lengths_px)
        )
        # Where there are fewer than the longest movement asks for, all parts have fewer.
        wanted = len(self._all) * here / longest
        counts = (math.ceil(share * len(self._all)) for share in _SHARES)
        return self._evenly(next((each for each in counts if each >= wanted), len(self._all)))

    def _evenly(self, count: int) -> TimeSamples:
        if count not in self._made:
            times = ((i + 0.5) / count - 0.5 for i in range(count))
            self._made[count] = [self._stages_at(at) for at in times]
        return self._made[count]


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
    def time_samples(self) -> ExposedSamples:
        """The stages at each time sample, evenly spaced while the shutter is open."""
        lengths_px = np.zeros((1, 1)) if self._span == 0 else self._lengths_px()
        count = 1 if self._span == 0 else _count_along(float(lengths_px.max()))
        # What is kept here must not hold this object: a circle would keep the frame's sources in memory.
        stages_at, t, span = self._stages_at, self._t, self._span
        return ExposedSamples(lambda at: stages_at(t + span * at), count, lengths_px)

    def _lengths_px(self) -> NDArray[np.float64]:
        """Return the movements while the shutter is open, (rows, columns), of points _PROBE_PX apart."""
        across, down = (
            np.minimum(np.arange(math.ceil(size / _PROBE_PX) + 1) * float(_PROBE_PX), size)
            for size in self._size
        )
        points = np.meshgrid(across, down)
        times = (i / (_PROBE_TIMES - 1) - 0.5 for i in range(_PROBE_TIMES))
        places = np.array(
            [_mapped(self._stages_at(self._t + self._span * at), *points) for at in times]
        )
        return np.linalg.norm(np.diff(places, axis=0), axis=1).sum(axis=0)


def _count_along(length_px: float) -> int:
    return min(MAX_TIME_SAMPLES, max(1, math.ceil(_samples_along(length_px))))


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
