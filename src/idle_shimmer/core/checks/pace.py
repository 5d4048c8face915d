"""Pace: a blur swells as fast as the movement under it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.checks.base import (
    Check,
    CheckContext,
    Finding,
    Mend,
    frames_of,
    moving_under,
    replaced,
)
from idle_shimmer.core.envelope import is_moving
from idle_shimmer.core.geometry.movement import Movement
from idle_shimmer.core.passes.base import MovingPass, Pass

_MOST_PERCENT = 25.0
_LEAST_TRAVEL, _LEAST_ZOOM, _LEAST_TURN_DEG = 0.05, 0.05, 4.0
_EXPOSURE_DEG = 180.0


@dataclass(frozen=True)
class _Apart:
    place: int
    blur: Pass
    name: str
    moving: MovingPass
    percent: float
    frame: int


class Pace(Check):
    """A blur's curve follows the speed of the movement under it."""

    id = "pace"
    title = "Pace"

    def run(self, context: CheckContext) -> Finding:
        """The mean difference of the two curves, each scaled to its own peak, in percent."""
        apart = [
            found for place, each in context.working() if (found := _apart(context, place, each))
        ]
        if not apart:
            return self.found("ok", 0, "%", "No blur covers a movement.")
        worse = max(apart, key=lambda each: each.percent)
        if worse.percent <= _MOST_PERCENT:
            return self.found(
                "ok", worse.percent, "%", "Every blur keeps pace with its movement.", worse.frame
            )
        follow = {"kind": "follow", "pass": worse.moving.id, "shutter": _EXPOSURE_DEG}
        mend = Mend(
            f"let it follow {worse.moving.id}",
            (replaced(f"/passes/{worse.place}/{worse.name}", follow),),
        )
        return self.found(
            "look",
            worse.percent,
            "%",
            f"{worse.blur.id} does not keep pace with {worse.moving.id}: on average it is"
            f" {worse.percent:.0f} % of its peak away from the movement's speed.",
            worse.frame,
            [mend],
        )


def _measure(blur: Pass, movement: Movement) -> tuple[float, float]:
    """(how much of the movement this blur should show, the least that counts)."""
    if blur.kind == "directional_blur":
        return movement.distance, _LEAST_TRAVEL
    if getattr(blur, "style", "zoom") == "spin":
        return abs(movement.turn_deg), _LEAST_TURN_DEG
    return abs(movement.zoom), _LEAST_ZOOM


def _apart(context: CheckContext, place: int, blur: Pass) -> _Apart | None:
    """How far the blur's curve is from the speed of the pass that moves most under it."""
    name = {"directional_blur": "length", "radial_blur": "amount"}.get(blur.kind)
    if name is None or not is_moving(getattr(blur, name)):
        return None
    frames = list(frames_of(context, blur))
    curve = np.array([context.timeline.values(blur, k + 0.5)[name] for k in frames], float)
    best: tuple[float, MovingPass, NDArray[np.float64]] | None = None
    for moving in moving_under(context, blur):
        measured = [_measure(blur, context.timeline.movement(moving.id, k + 0.5)) for k in frames]
        speed = np.array([each[0] for each in measured])
        if speed.max() >= measured[0][1] and (best is None or speed.max() > best[0]):
            best = (float(speed.max()), moving, speed)
    if best is None or curve.max() <= 0:
        return None
    difference = np.abs(curve / curve.max() - best[2] / best[2].max())
    at = int(np.argmax(difference))
    return _Apart(place, blur, name, best[1], 100 * float(difference.mean()), frames[at])
