"""Line jitter: bands of lines slip sideways."""

from typing import Literal

import numpy as np

from idle_shimmer.core.facts import Fact, seeded
from idle_shimmer.core.filters.shifted import shifted_by
from idle_shimmer.core.noise import hashed
from idle_shimmer.core.passes.base import FrameContext, PicturePass, Values, number
from idle_shimmer.core.picture import Pixels

AMOUNT = Fact(
    "Amount", "amount", "width", rest=0, low=0, high=1, step=0.005, usual=0.03, moves="swell"
)
LINE = Fact("Line", "amount", "height", low=0.002, high=1, step=0.002)


class LineJitter(PicturePass):
    """Every band of ``line`` height slips sideways by up to ``amount``, anew on every frame."""

    title = "Line jitter"
    family = "glitch"
    purpose = "Lets the lines of the picture slip, as worn tape does."

    kind: Literal["line_jitter"] = "line_jitter"
    amount: number(AMOUNT) = 0.0  # type: ignore[valid-type]
    line: number(LINE) = 0.012  # type: ignore[valid-type]
    seed: seeded() = 1  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Each row from the slip of its band; random by (seed, frame, band) alone."""
        line_px = values["line"] * context.height
        row = np.arange(context.height) + 0.5 - context.height / 2
        band = np.floor(row / line_px).astype(np.int64)
        slip = (2 * hashed(values["seed"], context.offset, band) - 1) * values["amount"]
        right = (slip * context.width).astype(np.float32)[:, None]
        return shifted_by(pixels, right, np.zeros((1, 1), np.float32))
