"""Lens blur: out of focus, with bright discs."""

from typing import Literal

from idle_shimmer.core.facts import Fact
from idle_shimmer.core.filters.disc import lens_disc
from idle_shimmer.core.passes.base import FrameContext, PicturePass, Values, number
from idle_shimmer.core.picture import Pixels

RADIUS = Fact(
    "Radius", "amount", "height", rest=0, low=0, high=1, step=0.005, usual=0.03, moves="swell"
)


class LensBlur(PicturePass):
    """The average over a disc of ``radius`` (frame heights), in which clipped light weighs more."""

    title = "Lens blur"
    family = "blur"
    purpose = "Throws the picture out of focus; lights become bright discs."

    kind: Literal["lens_blur"] = "lens_blur"
    radius: number(RADIUS) = 0.0  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Averaged over a disc of radius ``radius`` · height."""
        return lens_disc(pixels, radius_px=values["radius"] * context.height)
