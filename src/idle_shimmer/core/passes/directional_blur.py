"""Directional blur: a centred streak."""

from collections.abc import Mapping
from typing import Any, Literal

from idle_shimmer.core.envelope import Follow
from idle_shimmer.core.facts import Fact
from idle_shimmer.core.filters.streak import streak
from idle_shimmer.core.passes.base import FrameContext, MovementOf, PicturePass, Values, number
from idle_shimmer.core.picture import Pixels

LENGTH = Fact(
    "Length",
    "amount",
    "height",
    rest=0,
    low=0,
    high=4,
    step=0.005,
    usual=0.08,
    moves="swell",
    follow=lambda movement, _: movement.distance,
)
ANGLE = Fact(
    "Angle",
    "angle",
    "deg",
    low=-3600,
    high=3600,
    step=1,
    usual=0,
    follow=lambda movement, _: movement.angle_deg,
    follows_whole=True,
    flips="angle",
)


class DirectionalBlur(PicturePass):
    """The average along a centred line of ``length`` (in frame heights) at ``angle``."""

    title = "Directional blur"
    family = "blur"
    purpose = "Smears along one direction, as a fast pan does."

    kind: Literal["directional_blur"] = "directional_blur"
    length: number(LENGTH) = 0.0  # type: ignore[valid-type]
    angle: number(ANGLE) = 0.0  # type: ignore[valid-type]

    def values_at(
        self, u: float, movement_of: MovementOf, held: Mapping[str, Any] | None = None
    ) -> dict[str, Any]:
        """Where the length follows a movement, the angle is that movement's direction."""
        values = super().values_at(u, movement_of, held)
        if isinstance(self.length, Follow):
            values["angle"] = movement_of(self.length.target).angle_deg
        return values

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """A box streak of full length ``length`` · height; angles run counter-clockwise."""
        return streak(
            pixels, length_px=values["length"] * context.height, angle_deg=values["angle"]
        )
