"""Flash: the whole picture brightens, or goes towards a colour."""

from typing import Literal

import numpy as np

from idle_shimmer.core.facts import Fact, coloured
from idle_shimmer.core.filters.light import recoloured
from idle_shimmer.core.passes.base import FrameContext, PicturePass, Values, number
from idle_shimmer.core.picture import Pixels, colour_in

STOPS = Fact(
    "Exposure", "amount", "stops", rest=0, low=-20, high=20, step=0.1, usual=3, moves="swell"
)
MIX = Fact("Towards the colour", "factor", "ratio", rest=0, low=0, high=1, step=0.01, moves="swell")


class Flash(PicturePass):
    """Exposure by ``stops``, then a step of ``mix`` towards ``colour``."""

    title = "Flash"
    family = "light"
    purpose = "Burns the whole picture bright, or through a colour."

    kind: Literal["flash"] = "flash"
    stops: number(STOPS) = 0.0  # type: ignore[valid-type]
    mix: number(MIX) = 0.0  # type: ignore[valid-type]
    colour: coloured("Colour") = "#ffffff"  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Times 2^stops; mixed in the recipe's light."""
        gain = 2.0 ** values["stops"] * (1 - values["mix"])
        towards = colour_in(values["colour"], context.light) * values["mix"]
        return recoloured(pixels, gain * np.eye(3), towards)
