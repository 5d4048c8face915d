"""Lens blur: out of focus, with highlights as bright discs. Radii are in frame heights."""

import math
from typing import Literal

from idle_shimmer.core.filters.base import FrameContext, PictureFilter, Values, number
from idle_shimmer.core.kernels.disc_blur import lens_blur
from idle_shimmer.core.parameters import Parameter
from idle_shimmer.core.picture.encoding import Pixels

RADIUS = Parameter(
    "Radius", "amount", "height", rest=0, low=0, high=1, step=0.005, usual=0.03, moves="swell"
)


class LensBlur(PictureFilter):
    """The average over a disc of ``radius``, in which clipped highlights weigh more."""

    title = "Lens blur"
    family = "blur"
    purpose = "Puts the picture out of focus; highlights become bright discs."

    kind: Literal["lens_blur"] = "lens_blur"
    radius: number(RADIUS) = 0.0  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Return the average over a disc of ``radius`` · height pixels."""
        return lens_blur(pixels, radius_px=values["radius"] * context.height)

    def softening(self, values: Values) -> float:
        """Return the length of the box of the same variance; along one axis a disc has R²/4."""
        return float(values["radius"] * math.sqrt(3))
