"""Speed ramps: which moment of a clip's source is shown at a time of the window.

Anchored at the cut: at t = 0 both sides show what they would without a ramp, and the source runs
on from there by the integral of the speed. Outside the window the speed is 1, so that there the
frames are the source's own, shifted by what the ramp has spent.
"""

import math
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from idle_shimmer.core.envelope import value_at
from idle_shimmer.core.facts import Fact, choice
from idle_shimmer.core.filters.flow import between
from idle_shimmer.core.passes.base import number
from idle_shimmer.core.picture import Codes, Picture, codes_from_linear, linear_from_codes
from idle_shimmer.core.timing import Window

SPEED = Fact("Speed", "factor", "ratio", rest=1, low=0, high=20, step=0.05, usual=3, moves="swell")
_STEPS_A_FRAME = 32
_WHOLE = 1e-6


class Retime(BaseModel):
    """The speed of one clip over the window (1 is its own), and what is shown between its frames."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    speed: number(SPEED) = 1.0  # type: ignore[valid-type]
    sampling: choice("Frames between", "nearest", "blend", "flow") = "nearest"  # type: ignore[valid-type]

    @property
    def rests(self) -> bool:
        """Whether the clip plays as it is."""
        return bool(self.speed == 1)

    def speed_at(self, u: float) -> float:
        """The speed at envelope time ``u``; a clip never runs backward."""
        return max(0.0, float(value_at(self.speed, u, SPEED.rest)))

    def position(self, window: Window, offset: int) -> float:
        """The source frame shown at frame ``offset``, counted from the cut, as a real number."""
        if self.rests:
            return float(offset)
        return _moment(self, window, offset + 0.5) - 0.5

    def frames(self, window: Window, offset: int) -> tuple[int, int, float]:
        """The two source frames that frame ``offset`` lies between, and how far it is from the first.

        The same frame twice where one is shown as it is.
        """
        at = self.position(window, offset)
        first = math.floor(at + _WHOLE)
        part = at - first
        if self.sampling == "nearest" or offset not in window or part < _WHOLE:
            nearest = math.floor(at + 0.5 + _WHOLE)
            return nearest, nearest, 0.0
        return first, first + 1, part

    def joined(self, one: Codes, other: Codes, part: float) -> Codes:
        """What is shown ``part`` of the way between two neighbouring source frames."""
        if self.sampling == "blend":
            light = linear_from_codes(one), linear_from_codes(other)
            return codes_from_linear(cv2.addWeighted(light[0], 1 - part, light[1], part, 0.0))
        pair = Picture(one, "codes"), Picture(other, "codes")
        return between(*pair, part).to("codes").pixels


AS_IT_RUNS = Retime()


class Retimes(BaseModel):
    """The speed ramps of both sides."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    outgoing: Retime = AS_IT_RUNS
    incoming: Retime = AS_IT_RUNS


def spent(retime: Retime, window: Window, *, outgoing: bool) -> float:
    """Source frames that the ramp uses on its side of the window beyond the window's own."""
    if outgoing:
        return -_moment(retime, window, -window.before) - window.before
    return _moment(retime, window, window.after) - window.after


def _moment(retime: Retime, window: Window, t: float) -> float:
    """The source's time at window time ``t``, both in frames from the cut."""
    if retime.rests:
        return t
    times, moments = _table(retime, window)
    if t <= times[0]:
        return float(moments[0] + t - times[0])
    if t >= times[-1]:
        return float(moments[-1] + t - times[-1])
    return float(np.interp(t, times, moments))


@lru_cache(maxsize=64)
def _table(retime: Retime, window: Window) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Times of the window, and the integral of the speed from the cut to each (midpoint rule)."""
    count = (window.before + window.after) * _STEPS_A_FRAME
    times = np.linspace(-window.before, window.after, count + 1)
    middles = (times[1:] + times[:-1]) / 2
    speed = [retime.speed_at(window.u_at(float(t))) for t in middles]
    run = np.concatenate([[0.0], np.cumsum(np.array(speed) / _STEPS_A_FRAME)])
    return times, run - run[window.before * _STEPS_A_FRAME]
