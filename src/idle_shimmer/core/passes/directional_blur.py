"""Directional blur: a centred streak."""

from typing import Literal

from idle_shimmer.core.filters.streak import streak
from idle_shimmer.core.passes.base import Fact, FrameContext, PicturePass, Values, number
from idle_shimmer.core.picture import Pixels

LENGTH = Fact(
    "Length", "amount", "height", rest=0, low=0, high=4, step=0.005, usual=0.08, moves="swell"
)
ANGLE = Fact("Angle", "angle", "deg", low=-3600, high=3600, step=1, usual=0)


class DirectionalBlur(PicturePass):
    """The average along a centred line of ``length`` (in frame heights) at ``angle``."""

    title = "Directional blur"
    family = "blur"
    purpose = "Smears along one direction, as a fast pan does."

    kind: Literal["directional_blur"] = "directional_blur"
    length: number(LENGTH) = 0.0  # type: ignore[valid-type]
    angle: number(ANGLE) = 0.0  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """A box streak of full length ``length`` · height; angles run counter-clockwise."""
        return streak(
            pixels, length_px=values["length"] * context.height, angle_deg=values["angle"]
        )
