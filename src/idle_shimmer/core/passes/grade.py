"""Grade: exposure, saturation and warmth."""

from typing import Literal

import numpy as np

from idle_shimmer.core.facts import Fact
from idle_shimmer.core.filters.light import recoloured
from idle_shimmer.core.passes.base import FrameContext, PicturePass, Values, number
from idle_shimmer.core.picture import LUMA_BT709, Pixels

EXPOSURE = Fact("Exposure", "amount", "stops", rest=0, low=-20, high=20, step=0.1)
SATURATION = Fact(
    "Saturation", "factor", "ratio", rest=1, low=0, high=10, step=0.05, usual=1.8, moves="swell"
)
WARMTH = Fact("Warmth", "factor", "stops", rest=0, low=-4, high=4, step=0.05)


class Grade(PicturePass):
    """Exposure in stops, ``warmth`` in stops between red and blue, then saturation about luma.

    Warmth keeps the luma of grey (ITU-R BT.709 weights).
    """

    title = "Grade"
    family = "light"
    purpose = "Lifts or drains exposure, colour and warmth."

    kind: Literal["grade"] = "grade"
    exposure: number(EXPOSURE) = 0.0  # type: ignore[valid-type]
    saturation: number(SATURATION) = 1.0  # type: ignore[valid-type]
    warmth: number(WARMTH) = 0.0  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """One matrix of nine numbers: gains, then saturation."""
        gains = 2.0 ** (np.array([0.5, 0.0, -0.5]) * values["warmth"])
        gains *= 2.0 ** values["exposure"] / float(LUMA_BT709 @ gains)
        colour = values["saturation"]
        mixing = colour * np.eye(3) + (1 - colour) * np.tile(LUMA_BT709, (3, 1))
        return recoloured(pixels, mixing * gains)
