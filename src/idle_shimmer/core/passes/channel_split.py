"""Channel split: red and blue part."""

import math
from typing import Literal

from idle_shimmer.core.facts import Fact
from idle_shimmer.core.filters.shifted import split_channels
from idle_shimmer.core.passes.base import FrameContext, PicturePass, Values, number
from idle_shimmer.core.picture import Pixels

DISTANCE = Fact(
    "Distance", "amount", "height", rest=0, low=0, high=1, step=0.002, usual=0.02, moves="swell"
)
ANGLE = Fact("Angle", "angle", "deg", low=-3600, high=3600, step=1, flips="angle")


class ChannelSplit(PicturePass):
    """Red moves by half of ``distance`` along ``angle``, blue by half against it, green stays."""

    title = "Channel split"
    family = "glitch"
    purpose = "Pulls red and blue apart."

    kind: Literal["channel_split"] = "channel_split"
    distance: number(DISTANCE) = 0.0  # type: ignore[valid-type]
    angle: number(ANGLE) = 0.0  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """The channels put together again."""
        half = values["distance"] * context.height / 2
        angle = math.radians(values["angle"])
        right, down = half * math.cos(angle), -half * math.sin(angle)
        return split_channels(pixels, right, down)
