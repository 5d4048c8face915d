"""Bloom: light spills out of the highlights."""

from typing import Literal

import numpy as np

from idle_shimmer.core.facts import Fact, coloured
from idle_shimmer.core.filters.gaussian import gaussian
from idle_shimmer.core.filters.light import highlights, with_spill
from idle_shimmer.core.passes.base import FrameContext, PicturePass, Values, number
from idle_shimmer.core.picture import Pixels, colour_in

GAIN = Fact("Gain", "factor", "ratio", rest=0, low=0, high=200, step=0.1, usual=6, moves="swell")
THRESHOLD = Fact("Threshold", "factor", "ratio", low=0, high=1, step=0.01)
RADIUS = Fact("Radius", "amount", "height", low=0, high=2, step=0.005)


class Bloom(PicturePass):
    """Adds ``gain`` · ``tint`` · blurred highlights: what lies above ``threshold``, hue kept."""

    title = "Bloom"
    family = "light"
    purpose = "Lets the bright parts flare and spill their light."

    kind: Literal["bloom"] = "bloom"
    gain: number(GAIN) = 0.0  # type: ignore[valid-type]
    threshold: number(THRESHOLD) = 0.5  # type: ignore[valid-type]
    radius: number(RADIUS) = 0.06  # type: ignore[valid-type]
    tint: coloured("Tint") = "#ffffff"  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """The sum; the spill is a mix of a narrow and a wide gaussian, as glare has."""
        spill = highlights(pixels, values["threshold"])
        sigma = values["radius"] * context.height
        core = gaussian(spill, sigma_x=sigma / 3, sigma_y=sigma / 3)
        halo = gaussian(spill, sigma_x=sigma, sigma_y=sigma)
        tint = colour_in(values["tint"], context.light) * np.float32(values["gain"] / 2)
        return with_spill(pixels, core, halo, tint)
