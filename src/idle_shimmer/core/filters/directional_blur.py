"""Directional blur: the average along a centred line.

Lengths are in frame heights; angles in degrees, counter-clockwise from rightwards; beyond the edge
lies the mirrored picture.
"""

from collections.abc import Mapping
from typing import Any, Literal

from idle_shimmer.core.animation.envelope import Follow
from idle_shimmer.core.filters.base import FrameContext, MovementOf, PictureFilter, Values, number
from idle_shimmer.core.kernels.directional_blur import directional_blur
from idle_shimmer.core.parameters import Following, Parameter
from idle_shimmer.core.picture.encoding import Pixels

LENGTH = Parameter(
    "Length",
    "amount",
    "height",
    rest=0,
    low=0,
    high=4,
    step=0.005,
    usual=0.08,
    moves="swell",
    follow=Following(lambda movement, _: movement.distance, noticeable=lambda _: 0.05),
)
ANGLE = Parameter(
    "Angle",
    "angle",
    "deg",
    low=-3600,
    high=3600,
    step=1,
    usual=0,
    follow=Following(lambda movement, _: movement.angle_deg, whole=True),
    orientation="angle",
)


class DirectionalBlur(PictureFilter):
    """The average along a centred line of ``length`` (in frame heights) at ``angle``."""

    title = "Directional blur"
    family = "blur"
    purpose = "Blurs along one direction, like a fast pan."
    direction_parameter = "angle"

    kind: Literal["directional_blur"] = "directional_blur"
    length: number(LENGTH) = 0.0  # type: ignore[valid-type]
    angle: number(ANGLE) = 0.0  # type: ignore[valid-type]

    def values_at(
        self, u: float, movement_of: MovementOf, constant: Mapping[str, Any] | None = None
    ) -> dict[str, Any]:
        """Return the values at ``u``; where the length follows a movement, so does the angle."""
        values = super().values_at(u, movement_of, constant)
        if isinstance(self.length, Follow):
            values["angle"] = movement_of(self.length.target).angle_deg
        return values

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Return the average along a line of ``length`` · height pixels at ``angle``."""
        return directional_blur(
            pixels, length_px=values["length"] * context.height, angle_deg=values["angle"]
        )

    def softening(self, values: Values) -> float:
        """Return the length of the line."""
        return float(values["length"])

    def blur_angle_deg(self, values: Values) -> float | None:
        """Return the angle of the line; None where it has no length or follows a movement."""
        at_work = values["length"] > 0 and not isinstance(self.length, Follow)
        return float(values["angle"]) if at_work else None
