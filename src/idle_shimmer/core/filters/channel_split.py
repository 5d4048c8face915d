"""Channel split: red and blue move apart. Distances are in frame heights."""

import math
from typing import Literal

from idle_shimmer.core.filters.base import FrameContext, PictureFilter, Values, number
from idle_shimmer.core.kernels.displacement import split_channels
from idle_shimmer.core.parameters import Parameter
from idle_shimmer.core.picture.encoding import Pixels

DISTANCE = Parameter(
    "Distance", "amount", "height", rest=0, low=0, high=1, step=0.002, usual=0.02, moves="swell"
)
ANGLE = Parameter("Angle", "angle", "deg", low=-3600, high=3600, step=1, orientation="angle")


class ChannelSplit(PictureFilter):
    """Red moves by half of ``distance`` along ``angle``, blue by half the other way."""

    title = "Channel split"
    family = "glitch"
    carries_cover = True
    purpose = "Moves red and blue apart."

    kind: Literal["channel_split"] = "channel_split"
    distance: number(DISTANCE) = 0.0  # type: ignore[valid-type]
    angle: number(ANGLE) = 0.0  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Return the picture with its channels moved."""
        half = values["distance"] * context.height / 2
        angle = math.radians(values["angle"])
        right, down = half * math.cos(angle), -half * math.sin(angle)
        return split_channels(pixels, right, down)
