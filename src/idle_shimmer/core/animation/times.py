"""Times in a recipe: envelope time u, or frames from the cut, and how both become u in a window.

A time in frames keeps its number of frames whatever the duration. In a window it is placed: read as u,
between the window's ends. On frames, the time of a peak or keyframe is that of a frame's centre, so that
the frame shows the stated value.
"""

import math
from dataclasses import dataclass
from fractions import Fraction
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Discriminator, Field, Tag

from idle_shimmer.core.animation.timing import MAX_SIDE_FRAMES, Window

_HALF = Fraction(1, 2)
# Times this close to each other, in frames, are one time.
_SAME = 1e-6


class FrameTime(BaseModel):
    """A time of ``frames`` from the cut: negative before it, -0.5 the centre of the last frame before it."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    frames: Annotated[
        float,
        Field(
            strict=True,
            ge=-MAX_SIDE_FRAMES,
            le=MAX_SIDE_FRAMES,
            multiple_of=0.5,
            allow_inf_nan=False,
        ),
    ]


Time = float | FrameTime


def kind_of_time(value: Any) -> str:
    """Return how a time is stated: ``"frames"`` or ``"u"``, by which its type is told."""
    return "frames" if isinstance(value, dict | FrameTime) else "u"


_Plain = Annotated[float, Field(strict=True, ge=-1, le=1, allow_inf_nan=False)]
# A time inside the window: u from -1 (its start) over 0 (the cut) to 1 (its end), or frames.
EnvelopeTime = Annotated[
    Annotated[_Plain, Tag("u")] | Annotated[FrameTime, Tag("frames")], Discriminator(kind_of_time)
]


def u_of(time: Time) -> float:
    """Return a time that has been placed in a window as u. Raises TypeError for one in frames."""
    if isinstance(time, FrameTime):
        raise TypeError(f"{time.frames:g} frames have no u before they are placed in a window")
    return time


def time_text(time: Time) -> str:
    """Return a time for a message: ``-0.5`` or ``-2 frames``."""
    return f"{time.frames:g} frames" if isinstance(time, FrameTime) else f"{time:g}"


def is_at_cut(time: Time, *, is_before: bool) -> bool:
    """Whether a time is the cut, or the centre of the frame beside it on one side."""
    if isinstance(time, FrameTime):
        return time.frames in (0, -0.5 if is_before else 0.5)
    return time == 0


def negated(time: Time) -> Time:
    """Return the time as far on the other side of the cut."""
    if isinstance(time, FrameTime):
        return FrameTime(frames=-time.frames or 0.0)
    return -time or 0.0


def in_order(*times: Time) -> bool:
    """Whether times follow each other, as far as that is known without a window.

    Times of one kind are compared, and sides of the cut.
    """
    plain = [time for time in times if not isinstance(time, FrameTime)]
    framed = [time.frames for time in times if isinstance(time, FrameTime)]
    sides = [math.copysign(1, at) if (at := _number(time)) else 0 for time in times]
    return all(each == sorted(each) for each in (plain, framed, sides))


def _number(time: Time) -> float:
    return time.frames if isinstance(time, FrameTime) else time


@dataclass(frozen=True, slots=True)
class Placing:
    """How times become u in ``window``; ``scale`` is how many of its frames one stated frame lasts.

    ``on_frames`` moves peaks, plateaus and keyframes to the centres of frames.
    """

    window: Window
    scale: Fraction = Fraction(1)
    on_frames: bool = False

    def at(self, time: Time, *, farthest: float = 1.0) -> float:
        """Return a time as u; frames end at ``farthest`` times the window's ends."""
        if not isinstance(time, FrameTime):
            return time
        u = self.window.u_at(self.frames(time))
        return min(max(u, -farthest), farthest)

    def frames(self, time: FrameTime) -> float:
        """Return a time in frames of the window: whole ones stay whole, halves halves, rounded half up.

        The frames beside the cut stay those beside the cut.
        """
        if self.scale == 1 or abs(time.frames) == _HALF:
            return time.frames
        size = Fraction(abs(time.frames)) * self.scale
        offset = Fraction(0) if float(time.frames).is_integer() else _HALF
        rounded = math.floor(size - offset + _HALF) + offset
        return math.copysign(float(rounded), time.frames)

    def frame_beside(self, u: float, *, is_before: bool) -> float:
        """Return the centre of the frame that ends at or holds ``u`` (or begins there), in u."""
        t = self._t(u)
        offset = math.ceil(t - _SAME) - 1 if is_before else math.floor(t + _SAME)
        offset = min(max(offset, -self.window.before), self.window.after - 1)
        return self.window.u_of_frame(offset)

    def nearest_frame(self, u: float) -> float:
        """Return the centre of the frame nearest to ``u``, which is not the cut, in u.

        A border between frames goes to the frame nearer to the cut.
        """
        return self.frame_beside(u, is_before=u > 0)

    def centre_outside(self, u: float, *, is_before: bool) -> float:
        """Return the last centre of a frame up to ``u``, or the first from it on; else the window's end."""
        t = self._t(u)
        if is_before:
            at = math.floor(t - 0.5 + _SAME) + 0.5
            return self.window.u_at(at) if at > -self.window.before else -1.0
        at = math.ceil(t + 0.5 - _SAME) - 0.5
        return self.window.u_at(at) if at < self.window.after else 1.0

    def frames_later(self, u: float, frames: int) -> float:
        """Return the time so many frames later, not beyond the window's ends, in u."""
        return min(max(self.window.u_at(self._t(u) + frames), -1.0), 1.0)

    def is_border(self, u: float) -> bool:
        """Whether ``u`` lies between two frames, not on one's centre."""
        return abs(self._t(u) % 1 - 0.5) > _SAME

    def is_inside(self, u: float) -> bool:
        """Whether ``u`` lies between the ends of the window, which are no frames."""
        return -1 < u < 1

    def _t(self, u: float) -> float:
        return u * (self.window.before if u < 0 else self.window.after)
