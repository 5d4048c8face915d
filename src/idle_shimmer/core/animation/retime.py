"""Speed ramps: which source frame of a clip is shown at a frame of the window.

Anchored at the cut: at t = 0 both sides show what they would without a ramp, and the source runs on
from there by the integral of the speed. A ramp is scaled by the factor nearest to 1 that makes its
integral over its side of the window a whole number of frames. Outside the window the speed is 1, so
that every frame there is one source frame, shifted by what the ramp has used.
"""

import itertools
import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Literal

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, field_validator

from idle_shimmer.core.animation.envelope import value_at
from idle_shimmer.core.animation.slips import Slip, Slipped, slipped_at
from idle_shimmer.core.animation.times import FrameTime, in_order, u_of
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.filters.base import number
from idle_shimmer.core.kernels.optical_flow import interpolate
from idle_shimmer.core.parameters import Parameter, choice
from idle_shimmer.core.picture.encoding import Picture

ClipSide = Literal["outgoing", "incoming"]
CLIP_SIDES: tuple[ClipSide, ClipSide] = ("outgoing", "incoming")
SPEED = Parameter(
    "Speed", "factor", "ratio", rest=1, low=0, high=20, step=0.05, usual=3, moves="swell"
)
_STEPS_PER_FRAME = 32
# A position this close to a whole frame is that frame.
_WHOLE = 1e-6


class Retime(BaseModel):
    """The speed of one clip over the window (1 is normal), and what follows from it.

    ``sampling`` is what is shown between two source frames. ``in_edit`` is what an edit does with the
    frames that the ramp uses or saves: ``slip`` keeps all cuts at their times, and the clip's far end
    moves within its source; ``ripple`` keeps the source and changes the length of the edit. ``sound``
    follows the speed, with its pitch kept, or is muted over the window's side. ``slips`` jump the
    background in time, under the subject; each jump is morphed over ``join`` frames.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    speed: number(SPEED) = 1.0  # type: ignore[valid-type]
    sampling: choice("Frame interpolation", "nearest", "blend", "flow") = "nearest"  # type: ignore[valid-type]
    in_edit: choice("In the edit", "slip", "ripple") = "slip"  # type: ignore[valid-type]
    sound: choice("Sound", "follow", "mute") = "follow"  # type: ignore[valid-type]
    slips: Annotated[tuple[Slip, ...], Field(max_length=50)] = ()
    join: Annotated[int, Field(strict=True, ge=0, le=20)] = 2

    @field_validator("slips")
    @classmethod
    def _apart(cls, value: tuple[Slip, ...]) -> tuple[Slip, ...]:
        # In frames they stay as they are stated: which comes first may depend on the window.
        if not any(isinstance(each.start, FrameTime) for each in value):
            value = tuple(sorted(value, key=lambda each: u_of(each.start)))
        if not all(in_order(one.end, other.start) for one, other in itertools.pairwise(value)):
            raise ValueError("two slips overlap: end one before the next starts")
        return value

    @property
    def is_normal(self) -> bool:
        """Whether the clip plays at its own speed throughout."""
        return bool(self.speed == 1)

    def between(self, first: Picture, second: Picture, share: float) -> Picture:
        """Return what is shown at ``share`` (0…1) of the way between two source frames, unrounded."""
        if self.sampling == "blend":
            one, other = first.to("linear").pixels, second.to("linear").pixels
            return Picture(cv2.addWeighted(one, 1 - share, other, share, 0.0), "linear")
        return interpolate(first, second, share)


NORMAL_SPEED = Retime()


@dataclass(frozen=True, slots=True)
class SourceFrames:
    """Two source frames around what is shown, and how far (0…1) it lies from the first.

    Both are the same where one frame is shown unchanged.
    """

    first: int
    second: int
    share: float


@dataclass(frozen=True)
class Ramp:
    """The speed of the clip on ``side`` over a window. All times and frames count from the cut.

    ``times`` are those of the window, ``source_times`` the source's times there: the integral of the
    scaled speed from the cut (midpoint rule). Both are None where the speed is normal.
    """

    retime: Retime
    window: Window
    side: ClipSide
    factor: float = 1.0
    times: NDArray[np.float64] | None = None
    source_times: NDArray[np.float64] | None = None

    @property
    def extra_frames(self) -> int:
        """The source frames used on the clip's side of the window, beyond the window's own number."""
        if self.side == "outgoing":
            return round(-self.source_time(-self.window.before)) - self.window.before
        return round(self.source_time(self.window.after)) - self.window.after

    def source_time(self, t: float) -> float:
        """Return the source's time at time ``t``."""
        if self.times is None or self.source_times is None:
            return float(t)
        first, last = self.times[0], self.times[-1]
        if t <= first:
            return float(self.source_times[0] + t - first)
        if t >= last:
            return float(self.source_times[-1] + t - last)
        return float(np.interp(t, self.times, self.source_times))

    def position(self, offset: int) -> float:
        """Return the source frame at frame ``offset`` as a real number."""
        return self.source_time(offset + 0.5) - 0.5

    def source_frames(self, offset: int) -> SourceFrames:
        """Return the source frames that frame ``offset`` shows."""
        at = self.position(offset)
        first = math.floor(at + _WHOLE)
        share = at - first
        if self.retime.sampling == "nearest" or offset not in self.window or share < _WHOLE:
            nearest = self._within(offset, math.floor(at + 0.5 + _WHOLE))
            return SourceFrames(nearest, nearest, 0.0)
        one, other = self._within(offset, first), self._within(offset, first + 1)
        return SourceFrames(one, other, share if other > one else 0.0)

    def _within(self, offset: int, frame: int) -> int:
        """Return ``frame``, on the clip's own side of the window kept between the side's two ends.

        Between frames, and where the clip stands still, the nearest one may lie just beyond them.
        """
        if self.times is None or offset not in self.window:
            return frame
        if self.side == "outgoing" and offset < 0:
            return min(-1, max(frame, -self.window.before - self.extra_frames))
        if self.side == "incoming" and offset >= 0:
            return max(0, min(frame, self.window.after + self.extra_frames - 1))
        return frame

    def speed_at(self, t: float) -> float:
        """Return the speed at time ``t``; beyond the cut and outside the window it is drawn as 1."""
        own = t < 0 if self.side == "outgoing" else t >= 0
        if self.times is None or not own or not self.times[0] <= t <= self.times[-1]:
            return 1.0
        return self.factor * _stated_speed(self.retime, self.window.u_at(t))


class Retimes(BaseModel):
    """The speed ramps of both sides."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    outgoing: Retime = NORMAL_SPEED
    incoming: Retime = NORMAL_SPEED

    @property
    def are_normal(self) -> bool:
        """Whether both clips play at their own speed, and in their own time."""
        if self.outgoing.slips or self.incoming.slips:
            return False
        return self.outgoing.is_normal and self.incoming.is_normal

    def slipped(self, side: ClipSide, window: Window, offset: int) -> Slipped | None:
        """Return where the background of a side comes from; None where it is in its place."""
        retime = self.outgoing if side == "outgoing" else self.incoming
        if not retime.slips or offset not in window:
            return None
        return slipped_at(retime.slips, retime.join, window, offset)

    def read_frames(self, side: ClipSide, window: Window, offset: int) -> range:
        """Return the frames, first to last, between which those lie that a side reads for a frame."""
        shown = self.ramp(side, window).source_frames(offset)
        slipped = self.slipped(side, window, offset)
        offsets = (0, *(slipped.offsets if slipped is not None else ()))
        return range(shown.first + min(offsets), shown.second + max(offsets) + 1)

    def ramp(self, side: ClipSide, window: Window) -> Ramp:
        """Return the ramp of a side over ``window``."""
        return _ramp(self.outgoing if side == "outgoing" else self.incoming, window, side)


@lru_cache(maxsize=256)
def _ramp(retime: Retime, window: Window, side: ClipSide) -> Ramp:
    if retime.is_normal:
        return Ramp(retime, window, side)
    count = (window.before + window.after) * _STEPS_PER_FRAME
    times = np.linspace(-window.before, window.after, count + 1)
    middles = (times[1:] + times[:-1]) / 2
    speed = [_stated_speed(retime, window.u_at(float(t))) for t in middles]
    total = np.concatenate([[0.0], np.cumsum(np.array(speed) / _STEPS_PER_FRAME)])
    total -= total[window.before * _STEPS_PER_FRAME]
    used = float(-total[0] if side == "outgoing" else total[-1])
    factor = round(used) / used if used > _WHOLE else 1.0
    return Ramp(retime, window, side, factor, times, total * factor)


def _stated_speed(retime: Retime, u: float) -> float:
    # A clip never runs backwards.
    return max(0.0, float(value_at(retime.speed, u, SPEED.rest)))
