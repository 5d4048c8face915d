"""Pace: the curve of a blur follows the speed of the movement under it."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from idle_shimmer.core.animation.envelope import is_animated
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
from idle_shimmer.core.parameters import Following

_TOLERANCE_PERCENT = 25.0
_SHUTTER_DEG = 180.0


@dataclass(frozen=True)
class _Comparison:
    """A blur's curve against the speed of the filter that moves most under it."""

    path: str
    blur: Filter
    moving: Mover
    percent: float
    frame: int


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
        worst = max(compared, key=lambda each: each.percent)
        if worst.percent <= _TOLERANCE_PERCENT:
            return self.ok(
                worst.percent, "%", "Every blur keeps pace with its movement.", worst.frame
            )
        follow = {"kind": "follow", "filter": worst.moving.id, "shutter": _SHUTTER_DEG}
        return self.found(
            "warning",
            worst.percent,
            "%",
            f"{worst.blur.label} does not keep pace with {worst.moving.label}: on average it is"
            f" {worst.percent:.0f} % of its peak away from the movement's speed. Let it follow the"
            " movement.",
            worst.frame,
            [Fix(f"Follow {worst.moving.label}", (set_field(worst.path, follow),))],
        )


def _comparisons(context: CheckContext, place: int, blur: Filter) -> Iterator[_Comparison]:
    """Compare every animated parameter that must keep pace."""
    for name, parameter in blur.parameters().items():
        follow = parameter.follow
        if follow is None or follow.noticeable is None or not is_animated(getattr(blur, name)):
            continue
        found = _compare(context, blur, name, follow)
        if found is not None:
            moving, percent, frame = found
            yield _Comparison(f"/filters/{place}/{name}", blur, moving, percent, frame)


def _compare(
    context: CheckContext, blur: Filter, name: str, follow: Following
) -> tuple[Mover, float, int] | None:
    """Return (moving filter, mean difference in percent, frame of the largest difference)."""
    assert follow.noticeable is not None
    timeline, frames = context.timeline, list(frames_of(context, blur))
    curve = np.array([timeline.values(blur, k + 0.5)[name] for k in frames], float)
    speeds = [
        (
            moving,
            np.array(
                [follow.measure(timeline.movement(moving.id, k + 0.5), blur) for k in frames], float
            ),
        )
        for moving in moving_under(context, blur)
    ]
    if not speeds or curve.max() <= 0:
        return None
    moving, speed = max(speeds, key=lambda each: float(each[1].max()))
    if speed.max() < follow.noticeable(blur):
        return None
    difference = np.abs(curve / curve.max() - speed / speed.max())
    return moving, 100 * float(difference.mean()), frames[int(np.argmax(difference))]
