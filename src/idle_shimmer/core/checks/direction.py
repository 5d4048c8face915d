"""Direction: a blur along one direction, or one axis, lies along the movement that it covers."""

import math
from dataclasses import dataclass

from idle_shimmer.core.checks.base import (
    Check,
    CheckContext,
    Finding,
    Fix,
    frames_of,
    moving_under,
    set_field,
)
from idle_shimmer.core.filters.base import Filter

_TOLERANCE_DEG = 10.0
# Slower movements, in frame heights a frame, need no blur along them.
_LEAST_DISTANCE = 0.02


@dataclass(frozen=True)
class _Comparison:
    """A blur's angle against the direction of the movement under it."""

    place: int
    blur: Filter
    frame: int
    blur_deg: float
    movement_deg: float

    @property
    def off_deg(self) -> float:
        return abs((self.blur_deg - self.movement_deg + 90) % 180 - 90)


class Direction(Check):
    """A directional blur, or a Gaussian one of one axis, lies along the movement it covers, within 10°."""

    id = "direction"
    title = "Direction"
    order = 50

    def run(self, context: CheckContext) -> Finding:
        """Return the largest angle between a blur and the movement, at the fastest frame."""
        compared = [
            found
            for place, owner in context.enabled()
            if (found := _compare(context, place, owner)) is not None
        ]
        if not compared:
            return self.ok(0, "deg", "No blur along one direction lies over a movement.")
        worst = max(compared, key=lambda each: each.off_deg)
        if worst.off_deg <= _TOLERANCE_DEG:
            message = "Every blur along one direction lies along its movement."
            return self.ok(worst.off_deg, "deg", message, worst.frame)
        angle = worst.movement_deg
        aligned = worst.blur.aligned(angle)
        assert aligned is not None
        name, value = aligned
        to = f"{angle:.0f}°" if isinstance(value, float) else str(value)
        label = worst.blur.parameters()[name].label.lower()
        path = f"/filters/{worst.place}/{name}"
        return self.found(
            "warning",
            worst.off_deg,
            "deg",
            f"{worst.blur.label} lies {worst.off_deg:.0f}° off the movement under it."
            f" Set its {label} to {to}.",
            worst.frame,
            [Fix(f"Set the {label} to {to}", (set_field(path, value),))],
        )


def _compare(context: CheckContext, place: int, blur: Filter) -> _Comparison | None:
    """Compare with the sum of all movements, where that is fastest while the blur is at work."""
    fastest, found = _LEAST_DISTANCE, None
    moving = moving_under(context, blur)
    for offset in frames_of(context, blur):
        angle_deg = blur.blur_angle_deg(context.timeline.values(blur, offset + 0.5))
        movements = [
            context.timeline.movement(each.id, offset + 0.5)
            for each in moving
            if offset in each.frames
        ]
        right, down = (
            sum(each.right for each in movements),
            sum(each.down for each in movements),
        )
        distance = math.hypot(right, down)
        if angle_deg is None or distance < fastest:
            continue
        fastest = distance
        movement_deg = math.degrees(math.atan2(-down, right)) % 180
        # Rounding must not make 180° of a direction of 0°.
        movement_deg = 0.0 if min(movement_deg, 180 - movement_deg) < 1e-6 else movement_deg
        found = _Comparison(place, blur, offset, angle_deg, movement_deg)
    return found
