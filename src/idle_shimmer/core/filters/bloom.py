"""Bloom: highlights spill their light. Radii are in frame heights; no clamping."""

from typing import Literal

import numpy as np

from idle_shimmer.core.filters.base import FrameContext, PictureFilter, Values, number
from idle_shimmer.core.kernels.brightness import add_spill, highlights
from idle_shimmer.core.kernels.gaussian import gaussian
from idle_shimmer.core.parameters import Parameter, coloured
from idle_shimmer.core.picture.encoding import Pixels, colour_in

GAIN = Parameter(
    "Gain", "factor", "ratio", rest=0, low=0, high=200, step=0.1, usual=6, moves="swell"
)
THRESHOLD = Parameter("Threshold", "factor", "ratio", low=0, high=1, step=0.01)
RADIUS = Parameter("Radius", "amount", "height", low=0, high=2, step=0.005)


class Bloom(PictureFilter):
    """Adds ``gain`` · ``tint`` · blurred highlights: the luma above ``threshold``, hue kept."""

    title = "Bloom"
    family = "light"
    purpose = "Makes the bright parts flare and spill their light."

    kind: Literal["bloom"] = "bloom"
    gain: number(GAIN) = 0.0  # type: ignore[valid-type]
    threshold: number(THRESHOLD) = 0.5  # type: ignore[valid-type]
    radius: number(RADIUS) = 0.06  # type: ignore[valid-type]
    tint: coloured("Tint") = "#ffffff"  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Return the sum; the spill is a narrow and a wide Gaussian, like glare (common practice)."""
        spill = highlights(pixels, values["threshold"])
        sigma = values["radius"] * context.height
        glare = gaussian(spill, sigma_x=sigma / 3, sigma_y=sigma / 3)
        glare = gaussian(spill, sigma_x=sigma, sigma_y=sigma, onto=glare)
        # Two equally weighted Gaussians share the gain.
        tint = colour_in(values["tint"], context.light) * np.float32(values["gain"] / 2)
        return add_spill(pixels, glare, tint)
