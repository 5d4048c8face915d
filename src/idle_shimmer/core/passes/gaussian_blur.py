"""Gaussian blur."""

from typing import Literal

from idle_shimmer.core.facts import Fact, choice
from idle_shimmer.core.filters.gaussian import gaussian
from idle_shimmer.core.passes.base import (
    FrameContext,
    PicturePass,
    Values,
    number,
)
from idle_shimmer.core.picture import Pixels

RADIUS = Fact(
    "Radius",
    "amount",
    "height",
    rest=0,
    low=0,
    high=2,
    step=0.005,
    usual=0.03,
    moves="swell",
    follow=lambda movement, _: movement.distance / 12**0.5,
)


class GaussianBlur(PicturePass):
    """``radius`` is the standard deviation, in frame heights; beyond the edge it sees the mirror."""

    title = "Gaussian blur"
    family = "blur"
    purpose = "Softens evenly, in all directions or along one axis."

    kind: Literal["gaussian_blur"] = "gaussian_blur"
    radius: number(RADIUS) = 0.0  # type: ignore[valid-type]
    axis: choice("Axis", "both", "horizontal", "vertical") = "both"  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Blurred by sigma = radius · height, along the chosen axes."""
        sigma = values["radius"] * context.height
        return gaussian(
            pixels,
            sigma_x=sigma if values["axis"] != "vertical" else 0.0,
            sigma_y=sigma if values["axis"] != "horizontal" else 0.0,
        )
