"""Speed ramps: which moment of a clip's source is shown at a time of the window.

Anchored at the cut: at t = 0 both sides show what they would without a ramp, and the source runs on
from there by the integral of the speed. Outside the window the speed is 1, so that the frames there
are the source's own, shifted by what the ramp has used.
"""

import math
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from idle_shimmer.core.animation.envelope import value_at
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.filters.base import number
from idle_shimmer.core.kernels.optical_flow import interpolate
from idle_shimmer.core.parameters import Parameter, choice
from idle_shimmer.core.picture.encoding import Picture

SPEED = Parameter(
    "Speed", "factor", "ratio", rest=1, low=0, high=20, step=0.05, usual=3, moves="swell"
)
_STEPS_PER_FRAME = 32
# A position this close to a whole frame is that frame.
_WHOLE = 1e-6


class Retime(BaseModel):
    """The speed of one clip over the window (1 is normal), and what is shown between its frames."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    speed: number(SPEED) = 1.0  # type: ignore[valid-type]
    sampling: choice("Frame interpolation", "nearest", "blend", "flow") = "nearest"  # type: ignore[valid-type]

    @property
    def is_normal(self) -> bool:
        """Whether the clip plays at its own speed throughout."""
        return bool(self.speed == 1)

    def speed_at(self, u: float) -> float:
        """Return the speed at envelope time ``u``; a clip never runs backwards."""
        return max(0.0, float(value_at(self.speed, u, SPEED.rest)))

    def position(self, window: Window, offset: int) -> float:
        """Return the source frame at frame ``offset``, counted from the cut, as a real number."""
        if self.is_normal:
            return float(offset)
        return _source_time(self, window, offset + 0.5) - 0.5

    def frames(self, window: Window, offset: int) -> tuple[int, int, float]:
        """Return (first, second, share): the two source frames around the position.

        ``share`` is how far the position is from the first; both frames are the same where one is
        shown unchanged.
        """
        at = self.position(window, offset)
        first = math.floor(at + _WHOLE)
        share = at - first
        if self.sampling == "nearest" or offset not in window or share < _WHOLE:
            nearest = math.floor(at + 0.5 + _WHOLE)
            return nearest, nearest, 0.0
        return first, first + 1, share

    def between(self, first: Picture, second: Picture, share: float) -> Picture:
        """Return what is shown at ``share`` (0…1) of the way between two source frames, unrounded."""
        if self.sampling == "blend":
            one, other = first.to("linear").pixels, second.to("linear").pixels
            return Picture(cv2.addWeighted(one, 1 - share, other, share, 0.0), "linear")
        return interpolate(first, second, share)


NORMAL_SPEED = Retime()


class Retimes(BaseModel):
    """The speed ramps of both sides."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    outgoing: Retime = NORMAL_SPEED
    incoming: Retime = NORMAL_SPEED


def extra_source_frames(retime: Retime, window: Window, *, outgoing: bool) -> float:
    """Return how many source frames the ramp uses on its side beyond the window's own frames."""
    if outgoing:
        return -_source_time(retime, window, -window.before) - window.before
    return _source_time(retime, window, window.after) - window.after


def _source_time(retime: Retime, window: Window, t: float) -> float:
    """Return the source's time at window time ``t``, both in frames from the cut."""
    if retime.is_normal:
        return t
    times, source_times = _table(retime, window)
    if t <= times[0]:
        return float(source_times[0] + t - times[0])
    if t >= times[-1]:
        return float(source_times[-1] + t - times[-1])
    return float(np.interp(t, times, source_times))


@lru_cache(maxsize=64)
def _table(retime: Retime, window: Window) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return times of the window, and the integral of the speed from the cut to each (midpoints)."""
    count = (window.before + window.after) * _STEPS_PER_FRAME
    times = np.linspace(-window.before, window.after, count + 1)
    middles = (times[1:] + times[:-1]) / 2
    speed = [retime.speed_at(window.u_at(float(t))) for t in middles]
    total = np.concatenate([[0.0], np.cumsum(np.array(speed) / _STEPS_PER_FRAME)])
    return times, total - total[window.before * _STEPS_PER_FRAME]
