"""Grain: seeded noise, like film. Random by (seed, frame) alone."""

from typing import Literal

import numpy as np

from idle_shimmer.core.filters.base import FrameContext, PictureFilter, Values, number
from idle_shimmer.core.parameters import Parameter, seeded
from idle_shimmer.core.picture.encoding import Pixels
from idle_shimmer.core.picture.noise import field

AMOUNT = Parameter(
    "Amount", "amount", "stops", rest=0, low=0, high=4, step=0.05, usual=0.5, moves="swell"
)
_PITCH = 1 / 240


class Grain(PictureFilter):
    """Exposure noise of about ``amount`` stops, a new pattern on every frame.

    The grain's size is a share of the frame's height, so that it looks the same at every frame size.
    """

    title = "Grain"
    family = "glitch"
    purpose = "Adds film grain."

    kind: Literal["grain"] = "grain"
    amount: number(AMOUNT) = 0.0  # type: ignore[valid-type]
    seed: seeded() = 1  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Return the picture times 2^(amount · noise)."""
        pattern = values["seed"] * 65_537 + context.offset
        noise = field(pattern, (context.height, context.width), _PITCH * context.height)
        return pixels * np.exp2(np.float32(values["amount"]) * noise)[..., None]
