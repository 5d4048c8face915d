"""Line jitter: bands of lines slip sideways. Random by (seed, frame, band) alone."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.filters.base import FrameContext, PictureFilter, Values, number
from idle_shimmer.core.kernels.displacement import displace
from idle_shimmer.core.parameters import Parameter, seeded
from idle_shimmer.core.picture.encoding import Pixels
from idle_shimmer.core.picture.noise import hashed

AMOUNT = Parameter(
    "Amount", "amount", "width", rest=0, low=0, high=1, step=0.005, usual=0.03, moves="swell"
)
LINE = Parameter("Line", "amount", "height", low=0.002, high=1, step=0.002)


class LineJitter(PictureFilter):
    """Every band, ``line`` frame heights high, slips by up to ``amount`` frame widths on each frame."""

    title = "Line jitter"
    family = "glitch"
    carries_cover = True
    stays_upright = True
    purpose = "Makes the lines of the picture slip, like worn tape."

    kind: Literal["line_jitter"] = "line_jitter"
    amount: number(AMOUNT) = 0.0  # type: ignore[valid-type]
    line: number(LINE) = 0.012  # type: ignore[valid-type]
    seed: seeded() = 1  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Return the picture with each row at the slip of its band.

        A row that two bands share is a mix of both, weighted by area.
        """
        line_px = values["line"] * context.height
        top = (np.arange(context.height) - context.height / 2) / line_px
        band, last = np.floor(top), np.floor(top + 1 / line_px - 1e-9)
        no_shift = np.zeros((1, 1), np.float32)

        def slips(bands: NDArray[np.float64]) -> NDArray[np.float32]:
            noise = 2 * hashed(values["seed"], context.offset, bands.astype(np.int64)) - 1
            return (noise * values["amount"] * context.width).astype(np.float32)[:, None]

        out = displace(pixels, slips(band), no_shift)
        shared = np.flatnonzero(last > band)
        if shared.size:
            share = ((top[shared] + 1 / line_px - last[shared]) * line_px).astype(np.float32)
            other = displace(pixels, slips(last[shared]), no_shift, shared)
            out[shared] += share[:, None, None] * (other - out[shared])
        return out
