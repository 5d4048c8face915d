"""Flash: the whole picture brightens, or fades to a colour. No clamping."""

from typing import Literal

import numpy as np

from idle_shimmer.core.filters.base import FrameContext, PictureFilter, Values, number
from idle_shimmer.core.kernels.brightness import recolour
from idle_shimmer.core.parameters import Parameter, coloured
from idle_shimmer.core.picture.encoding import Pixels, colour_in

STOPS = Parameter(
    "Exposure", "amount", "stops", rest=0, low=-20, high=20, step=0.1, usual=3, moves="swell"
)
MIX = Parameter("Colour mix", "factor", "ratio", rest=0, low=0, high=1, step=0.01, moves="swell")


class Flash(PictureFilter):
    """Exposure by ``stops``, then a fade by ``mix`` to ``colour``, in the recipe's light."""

    title = "Flash"
    family = "light"
    purpose = "Brightens the whole picture, or fades it to a colour."

    kind: Literal["flash"] = "flash"
    stops: number(STOPS) = 0.0  # type: ignore[valid-type]
    mix: number(MIX) = 0.0  # type: ignore[valid-type]
    colour: coloured("Colour") = "#ffffff"  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Return the picture times 2^stops, mixed with the colour."""
        gain = 2.0 ** values["stops"] * (1 - values["mix"])
        offset = colour_in(values["colour"], context.light) * values["mix"]
        return recolour(pixels, gain * np.eye(3), offset)
