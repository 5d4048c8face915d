"""Flicker: the exposure jumps. Random by (seed, time) alone."""

import math
from typing import Literal

import numpy as np

from idle_shimmer.core.filters.base import FrameContext, PictureFilter, Values, number
from idle_shimmer.core.parameters import Parameter, seeded
from idle_shimmer.core.picture.encoding import Pixels
from idle_shimmer.core.picture.noise import hashed

DEPTH = Parameter(
    "Depth", "amount", "stops", rest=0, low=0, high=10, step=0.1, usual=1, moves="swell"
)
RATE = Parameter("Rate", "amount", "Hz", low=0.1, high=60, step=0.5)


class Flicker(PictureFilter):
    """Exposure between -``depth`` and +``depth`` stops, a new value ``rate`` times a second."""

    title = "Flicker"
    family = "light"
    purpose = "Makes the exposure jump, like a failing lamp."

    kind: Literal["flicker"] = "flicker"
    depth: number(DEPTH) = 0.0  # type: ignore[valid-type]
    rate: number(RATE) = 12.0  # type: ignore[valid-type]
    seed: seeded() = 1  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Return the picture times 2^(depth · noise); the sign alternates, so that each step shows."""
        tick = math.floor(context.seconds * values["rate"] + 1e-9)
        level = 0.4 + 0.6 * float(hashed(values["seed"], tick))
        stops = values["depth"] * level * (1 if tick % 2 else -1)
        return pixels * np.float32(2.0**stops)
