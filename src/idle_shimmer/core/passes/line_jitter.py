"""Line jitter: bands of lines slip sideways."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray

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
        """Each row from the slip of its band; random by (seed, frame, band) alone.

        A row that two bands share is mixed of both by how much of it each has.
        """
        line_px = values["line"] * context.height
        top = (np.arange(context.height) - context.height / 2) / line_px
        band, last = np.floor(top), np.floor(top + 1 / line_px - 1e-9)
        still = np.zeros((1, 1), np.float32)

        def slips(bands: NDArray[np.float64]) -> NDArray[np.float32]:
            noise = 2 * hashed(values["seed"], context.offset, bands.astype(np.int64)) - 1
            return (noise * values["amount"] * context.width).astype(np.float32)[:, None]

        out = shifted_by(pixels, slips(band), still)
        shared = np.flatnonzero(last > band)
        if shared.size:
            share = ((top[shared] + 1 / line_px - last[shared]) * line_px).astype(np.float32)
            other = shifted_by(pixels, slips(last[shared]), still, shared)
            out[shared] += share[:, None, None] * (other - out[shared])
        return out
