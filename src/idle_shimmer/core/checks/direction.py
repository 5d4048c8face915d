"""Direction: a streak lies along the movement that it covers."""

import math
from dataclasses import dataclass

from idle_shimmer.core.checks.base import (
    Check,
    CheckContext,
    Finding,
    Mend,
    frames_of,
    moving_under,
    replaced,
)
from idle_shimmer.core.envelope import Follow
from idle_shimmer.core.passes.base import Pass

_WITHIN_DEG = 10.0
_LEAST_TRAVEL = 0.02


@dataclass(frozen=True)
class _Crossed:
    place: int
    blur: Pass
    frame: int
    off_deg: float
    way_deg: float


class Direction(Check):
    """A directional blur lies along the movement of the travel it covers, within 10°."""

    id = "direction"
    title = "Direction"

    def run(self, context: CheckContext) -> Finding:
        """The widest angle between a streak and its movement, at the movement's fastest frame."""
        crossed = [
            found
            for place, each in context.working()
            if each.kind == "directional_blur" and not isinstance(each.length, Follow)  # type: ignore[attr-defined]
            if (found := _crossed(context, place, each)) is not None
        ]
        if not crossed:
            return self.found("ok", 0, "deg", "No streak crosses a movement.")
        worse = max(crossed, key=lambda each: each.off_deg)
        if worse.off_deg <= _WITHIN_DEG:
            return self.found(
                "ok", worse.off_deg, "deg", "Every streak lies along its movement.", worse.frame
            )
        mend = Mend(
            f"turn it to {worse.way_deg:.0f}°",
            (replaced(f"/passes/{worse.place}/angle", round(worse.way_deg, 1)),),
        )
        return self.found(
            "look",
            worse.off_deg,
            "deg",
            f"{worse.blur.id} smears {worse.off_deg:.0f}° across the movement under it: along it would"
            f" be {worse.way_deg:.0f}°.",
            worse.frame,
            [mend],
        )


def _crossed(context: CheckContext, place: int, blur: Pass) -> _Crossed | None:
    """The streak against the summed movement, where that is fastest while the streak works."""
    best: tuple[float, int, float, float] | None = None
    for offset in frames_of(context, blur):
        values = context.timeline.values(blur, offset + 0.5)
        moves = [
            context.timeline.movement(each.id, offset + 0.5) for each in moving_under(context, blur)
        ]
        right, down = sum(each.right for each in moves), sum(each.down for each in moves)
        distance = math.hypot(right, down)
        if values["length"] <= 0 or distance < _LEAST_TRAVEL:
            continue
        if best is None or distance > best[0]:
            way = math.degrees(math.atan2(-down, right)) % 180
            best = (distance, offset, way, values["angle"])
    if best is None:
        return None
    off = abs((best[3] - best[2] + 90) % 180 - 90)
    # Rounding must not tell a way of 180° where it is 0°.
    way = 0.0 if min(best[2], 180 - best[2]) < 1e-6 else best[2]
    return _Crossed(place, blur, best[1], off, way)
