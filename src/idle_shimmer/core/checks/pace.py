"""Pace: the curve of a blur follows the speed of the movement under it."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.animation.envelope import Follow, Swell, is_animated
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.checks.base import (
    Check,
    CheckContext,
    Finding,
    Fix,
    Mover,
    frames_of,
    moving_under,
    set_field,
)
from idle_shimmer.core.filters.base import Filter
from idle_shimmer.core.geometry.movement import Movement

_TOLERANCE_PERCENT = 25.0
_SHUTTER_DEG = 180.0
_TINY = 1e-12


@dataclass(frozen=True)
class _Comparison:
    """A blur's curve against the speed of the filter that moves most under it."""

    path: str
    blur: Filter
    moving: Mover
    percent: float
    most_percent: float
    frame: int

    @property
    def is_kept(self) -> bool:
        return self.percent <= self.most_percent


class Pace(Check):
    """A blur's curve follows the speed of the movement under it."""

    id = "pace"
    title = "Pace"
    order = 60

    def run(self, context: CheckContext) -> Finding:
        """Return the mean difference of the two curves, each scaled to its peak, in percent."""
        compared = [
            found
            for place, owner in context.enabled()
            for found in _comparisons(context, place, owner)
        ]
        if not compared:
            return self.ok(0, "%", "No blur lies over a movement.")
        worst = max(compared, key=lambda each: (not each.is_kept, each.percent))
        if worst.is_kept:
            return self.ok(
                worst.percent, "%", "Every blur keeps pace with its movement.", worst.frame
            )
        follow = {"kind": "follow", "filter": worst.moving.id, "shutter": _SHUTTER_DEG}
        # A movement of one side alone would leave the blur of the other at rest.
        follows = set(frames_of(context, worst.blur)) <= set(worst.moving.frames)
        return self.found(
            "warning",
            worst.percent,
            "%",
            f"{worst.blur.label} does not keep pace with {worst.moving.label}: on average it is"
            f" {worst.percent:.0f} % of its peak away from the movement's speed. Let it follow the"
            " movement.",
            worst.frame,
            [Fix(f"Follow {worst.moving.label}", (set_field(worst.path, follow),))]
            if follows
            else [],
        )


def _comparisons(context: CheckContext, place: int, blur: Filter) -> Iterator[_Comparison]:
    """Compare every animated parameter that must keep pace."""
    for name, parameter in blur.parameters().items():
        follow = parameter.follow
        if follow is None or follow.noticeable is None or not is_animated(getattr(blur, name)):
            continue
        path = f"/filters/{place}/{name}"
        found = _compare(context, path, blur, name)
        if found is not None:
            yield found


def _compare(context: CheckContext, path: str, blur: Filter, name: str) -> _Comparison | None:
    """Compare the curve of a blur with what moves under it; None where nothing moves noticeably."""
    follow = blur.parameters()[name].follow
    assert follow is not None
    assert follow.noticeable is not None
    timeline, frames = context.timeline, list(frames_of(context, blur))
    envelope = getattr(blur, name)
    curve = np.array([timeline.values(blur, k + 0.5)[name] for k in frames], float)
    moving = moving_under(context, blur)
    if not moving or curve.max() <= 0:
        return None
    speeds = [_speeds(timeline, each, frames, lambda m: follow.measure(m, blur)) for each in moving]
    # Where one side moves after the other, each frame has the speed of what is seen in it.
    speed = np.max(speeds, axis=0)
    if speed.max() < follow.noticeable(blur):
        return None
    most = moving[int(np.argmax([each.max() for each in speeds]))]
    if isinstance(envelope, Follow):
        return _Comparison(path, blur, most, 0.0, 0.0, frames[int(np.argmax(speed))])
    percent, place = _difference(curve, speed)
    handled = [
        _difference(each, speed)[0] for each in _with_equal_handles(most, frames, timeline.window)
    ]
    return _Comparison(
        path, blur, most, percent, max([_TOLERANCE_PERCENT, *handled]), frames[place]
    )


def _speeds(
    timeline: Timeline,
    moving: Mover,
    frames: list[int],
    measure: Callable[[Movement], float],
) -> NDArray[np.float64]:
    return np.array(
        [
            measure(timeline.movement(moving.id, k + 0.5)) if k in moving.frames else 0.0
            for k in frames
        ]
    )


def _difference(curve: NDArray[np.float64], speed: NDArray[np.float64]) -> tuple[float, int]:
    """Return (mean difference in percent of two curves scaled to their peaks, place of the largest)."""
    difference = np.abs(curve / max(curve.max(), _TINY) - speed / speed.max())
    return 100 * float(difference.mean()), int(np.argmax(difference))


def _with_equal_handles(
    moving: Mover, frames: list[int], window: Window
) -> list[NDArray[np.float64]]:
    """Return the swells whose rise and fall have the easings of a movement's curve, where that is seen.

    That is how editors match a blur to a movement by hand (common practice), so it counts as matched.
    """
    swells = [
        Swell[float](peak=1.0, rise=easings[0], fall=easings[-1]) for easings in moving.easings
    ]
    return [
        np.array(
            [
                swell.value_at(window.u_of_frame(k), 0.0) if k in moving.frames else 0.0
                for k in frames
            ]
        )
        for swell in swells
    ]
