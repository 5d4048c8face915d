"""Vignette: the corners darken or brighten."""

import math
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.facts import Fact
from idle_shimmer.core.filters.light import with_falloff
from idle_shimmer.core.passes.base import FrameContext, PicturePass, Values, number
from idle_shimmer.core.picture import Pixels

STOPS = Fact(
    "At the corners", "amount", "stops", rest=0, low=-10, high=10, step=0.1, usual=-2, moves="swell"
)
MIDPOINT = Fact("Midpoint", "factor", "ratio", low=0, high=1, step=0.01)
SOFTNESS = Fact("Softness", "factor", "ratio", low=0.01, high=2, step=0.01)
ROUNDNESS = Fact("Roundness", "factor", "ratio", low=0, high=1, step=0.01)


class Vignette(PicturePass):
    """Exposure from none inside to ``stops`` at the corners, along a smooth step.

    The distance is 1 at the corners; it follows the frame's shape at roundness 0 and a circle at 1.
    The step is half done at ``midpoint`` and ``softness`` wide.
    """

    title = "Vignette"
    family = "light"
    purpose = "Darkens (or brightens) the rim of the picture."

    kind: Literal["vignette"] = "vignette"
    stops: number(STOPS) = 0.0  # type: ignore[valid-type]
    midpoint: number(MIDPOINT) = 0.55  # type: ignore[valid-type]
    softness: number(SOFTNESS) = 0.9  # type: ignore[valid-type]
    roundness: number(ROUNDNESS) = 0.5  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Times 2^(stops · step)."""
        start, width = values["midpoint"] - values["softness"] / 2, values["softness"]
        at_corner = _step((1 - start) / width)

        def gain(distance: NDArray[np.float64]) -> NDArray[np.float64]:
            return np.exp2(values["stops"] * _step((distance - start) / width) / at_corner)

        return with_falloff(pixels, _axes(context, values["roundness"]), gain)


def _axes(context: FrameContext, roundness: float) -> tuple[float, float]:
    """Half the axes, in pixels, of the ellipse through the corners: the frame's shape to a circle."""
    half_diagonal = math.hypot(context.width, context.height) / 2
    wide, high = (
        (size / 2 / half_diagonal) ** (1 - roundness) * math.sqrt(0.5) ** roundness
        for size in context.size
    )
    # Scaled so that the corner is at distance 1.
    corner = math.hypot(context.width / 2 / wide, context.height / 2 / high)
    return wide * corner, high * corner


def _step(at: Any) -> Any:
    """The smooth step 3t² - 2t³, held outside 0…1; never quite 0 where it divides."""
    t = np.clip(at, 1e-6, 1)
    return t * t * (3 - 2 * t)
