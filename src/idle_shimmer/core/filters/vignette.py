"""Vignette: the corners darken or brighten. No clamping."""

import math
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.filters.base import FrameContext, PictureFilter, Values, number
from idle_shimmer.core.kernels.brightness import apply_falloff
from idle_shimmer.core.parameters import Parameter
from idle_shimmer.core.picture.encoding import Pixels

STOPS = Parameter(
    "Exposure at the corners",
    "amount",
    "stops",
    rest=0,
    low=-10,
    high=10,
    step=0.1,
    usual=-2,
    moves="swell",
)
RADIUS = Parameter("Radius", "ellipse", "ratio", low=0, high=1, step=0.01)
SOFTNESS = Parameter("Softness", "factor", "ratio", low=0.01, high=2, step=0.01)
ASPECT = Parameter("Aspect", "factor", "ratio", low=0, high=1, step=0.01)


class Vignette(PictureFilter):
    """Exposure from none at the centre to ``stops`` at the corners, along a smooth step.

    The distance is 1 at the corners; its contours have the frame's shape at ``aspect`` 0 and are
    circles at 1. The step is half done at ``radius`` and ``softness`` wide.
    """

    title = "Vignette"
    family = "light"
    purpose = "Darkens or brightens the corners of the picture."

    kind: Literal["vignette"] = "vignette"
    stops: number(STOPS) = 0.0  # type: ignore[valid-type]
    radius: number(RADIUS) = 0.55  # type: ignore[valid-type]
    softness: number(SOFTNESS) = 0.9  # type: ignore[valid-type]
    aspect: number(ASPECT) = 0.5  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Return the picture times 2^(stops · step)."""
        start, width = values["radius"] - values["softness"] / 2, values["softness"]
        at_corner = _step((1 - start) / width)

        def gain(distance: NDArray[np.float64]) -> NDArray[np.float64]:
            return np.exp2(values["stops"] * _step((distance - start) / width) / at_corner)

        return apply_falloff(pixels, _axes(context, values["aspect"]), gain)


def _axes(context: FrameContext, aspect: float) -> tuple[float, float]:
    """Return the half axes, in pixels, of the ellipse through the corners."""
    half_diagonal = math.hypot(context.width, context.height) / 2
    wide, high = (
        (size / 2 / half_diagonal) ** (1 - aspect) * math.sqrt(0.5) ** aspect
        for size in context.size
    )
    # Scaled so that the corner is at distance 1.
    corner = math.hypot(context.width / 2 / wide, context.height / 2 / high)
    return wide * corner, high * corner


def _step(at: Any) -> Any:
    """Return the smooth step 3t² - 2t³, clamped outside 0…1; never quite 0, as it divides."""
    t = np.clip(at, 1e-6, 1)
    return t * t * (3 - 2 * t)
