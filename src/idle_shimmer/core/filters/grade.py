"""Grade: exposure, saturation and warmth. No clamping."""

from typing import Literal

import numpy as np

from idle_shimmer.core.filters.base import FrameContext, PictureFilter, Values, number
from idle_shimmer.core.kernels.brightness import recolour
from idle_shimmer.core.parameters import Parameter
from idle_shimmer.core.picture.encoding import LUMA_BT709, Pixels

EXPOSURE = Parameter("Exposure", "amount", "stops", rest=0, low=-20, high=20, step=0.1)
SATURATION = Parameter(
    "Saturation", "factor", "ratio", rest=1, low=0, high=10, step=0.05, usual=1.8, moves="swell"
)
WARMTH = Parameter("Warmth", "factor", "stops", rest=0, low=-4, high=4, step=0.05)


class Grade(PictureFilter):
    """Exposure in stops, ``warmth`` in stops of red against blue, then saturation about luma.

    Warmth keeps the luma of grey (ITU-R BT.709 weights, from memory).
    """

    title = "Grade"
    family = "light"
    purpose = "Changes exposure, saturation and warmth."

    kind: Literal["grade"] = "grade"
    exposure: number(EXPOSURE) = 0.0  # type: ignore[valid-type]
    saturation: number(SATURATION) = 1.0  # type: ignore[valid-type]
    warmth: number(WARMTH) = 0.0  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Return the picture times one 3×3 matrix: gains, then saturation."""
        gains = 2.0 ** (np.array([0.5, 0.0, -0.5]) * values["warmth"])
        gains *= 2.0 ** values["exposure"] / float(LUMA_BT709 @ gains)
        colour = values["saturation"]
        mixing = colour * np.eye(3) + (1 - colour) * np.tile(LUMA_BT709, (3, 1))
        return recolour(pixels, mixing * gains)
