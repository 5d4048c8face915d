"""Flicker: the exposure jumps about."""

import math
from typing import Literal

import numpy as np

from idle_shimmer.core.facts import Fact, seeded
from idle_shimmer.core.noise import hashed
from idle_shimmer.core.passes.base import FrameContext, PicturePass, Values, number
from idle_shimmer.core.picture import Pixels

DEPTH = Fact("Depth", "amount", "stops", rest=0, low=0, high=10, step=0.1, usual=1, moves="swell")
RATE = Fact("Rate", "amount", "Hz", low=0.1, high=60, step=0.5)


class Flicker(PicturePass):
    """Exposure between -``depth`` and +``depth`` stops, a new one ``rate`` times a second."""

    title = "Flicker"
    family = "light"
    purpose = "Makes the exposure jump, as an old lamp or shutter does."

    kind: Literal["flicker"] = "flicker"
    depth: number(DEPTH) = 0.0  # type: ignore[valid-type]
    rate: number(RATE) = 12.0  # type: ignore[valid-type]
    seed: seeded() = 1  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Times 2^(depth · noise); neighbouring levels alternate in sign, so that each is seen."""
        tick = math.floor(context.seconds * values["rate"] + 1e-9)
        level = 0.4 + 0.6 * float(hashed(values["seed"], tick))
        stops = values["depth"] * level * (1 if tick % 2 else -1)
        return pixels * np.float32(2.0**stops)
