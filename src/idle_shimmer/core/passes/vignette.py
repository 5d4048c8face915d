"""Vignette: the corners darken or brighten."""

from typing import Literal

import numpy as np

from idle_shimmer.core.facts import Fact
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
        gain = np.exp2(np.float32(values["stops"]) * _step(values, context.width, context.height))
        return pixels * gain[..., None]


def _step(values: Values, width: int, height: int) -> np.ndarray:
    x = np.abs((np.arange(width, dtype=np.float32) + np.float32(0.5)) * np.float32(2 / width) - 1)
    y = np.abs((np.arange(height, dtype=np.float32) + np.float32(0.5)) * np.float32(2 / height) - 1)
    # The two axes of the ellipse, from the frame's own to the half diagonal of a circle.
    half = np.hypot(width, height) / 2
    wide = (width / 2 / half) ** values["roundness"] * (0.5**0.5) ** (1 - values["roundness"])
    high = (height / 2 / half) ** values["roundness"] * (0.5**0.5) ** (1 - values["roundness"])
    corner = np.float32(np.hypot(wide, high))
    square = np.add.outer((y * np.float32(high)) ** 2, (x * np.float32(wide)) ** 2)
    distance = np.sqrt(square) / corner
    start = np.float32(values["midpoint"] - values["softness"] / 2)
    share = np.clip((distance - start) / np.float32(values["softness"]), 0, 1)
    at_corner = np.clip((1 - start) / values["softness"], 1e-6, 1)
    return share * share * (3 - 2 * share) / np.float32(at_corner**2 * (3 - 2 * at_corner))
