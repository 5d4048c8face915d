"""Block shift: rectangles of the picture jump sideways.

Shifts are in frame widths, block sizes in frame heights; what enters is the mirrored picture. Random
by (seed, frame, block) alone.
"""

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.filters.base import FrameContext, PictureFilter, Values, number
from idle_shimmer.core.kernels.displacement import displace
from idle_shimmer.core.parameters import Parameter, choice, seeded
from idle_shimmer.core.picture.encoding import Pixels
from idle_shimmer.core.picture.noise import hashed

AMOUNT = Parameter(
    "Amount", "amount", "width", rest=0, low=0, high=1, step=0.005, usual=0.1, moves="swell"
)
BLOCK = Parameter("Block", "amount", "height", low=0.01, high=1, step=0.01)
DENSITY = Parameter("Density", "factor", "ratio", low=0, high=1, step=0.05)
REFRESH = Parameter("Refresh", "amount", "frames", low=1, high=1000, step=1)
# Different words for the hash, so that the numbers are independent.
_CHOSEN, _DISTANCE = 1, 2


class BlockShift(PictureFilter):
    """The share ``density`` of the blocks shifts by up to ``amount``, newly every ``refresh`` frames.

    Blocks are ``block`` high and twice as wide, laid out from the frame's centre.
    """

    title = "Block shift"
    family = "glitch"
    carries_cover = True
    purpose = "Displaces blocks of the picture, like a damaged stream."

    kind: Literal["block_shift"] = "block_shift"
    amount: number(AMOUNT) = 0.0  # type: ignore[valid-type]
    block: number(BLOCK) = 0.12  # type: ignore[valid-type]
    density: number(DENSITY) = 0.4  # type: ignore[valid-type]
    refresh: number(REFRESH) = 2.0  # type: ignore[valid-type]
    axis: choice("Axis", "horizontal", "vertical", "both", orientation="axis") = "horizontal"  # type: ignore[valid-type]
    seed: seeded() = 1  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Return the picture with every block at its shift."""
        tick = math.floor(context.offset / max(1, round(values["refresh"])))
        size_px = values["block"] * context.height
        i = _cells(context.height, size_px)[:, None]
        j = _cells(context.width, 2 * size_px)[None, :]
        chosen = hashed(values["seed"], tick, i, j, _CHOSEN) < values["density"]

        def shift(axis: int, name: str) -> NDArray[np.float32]:
            if values["axis"] not in (name, "both"):
                return np.zeros((1, 1), np.float32)
            distance = 2 * hashed(values["seed"], tick, i, j, _DISTANCE + axis) - 1
            return (chosen * distance * values["amount"] * context.width).astype(np.float32)

        return displace(pixels, shift(0, "horizontal"), shift(1, "vertical"))


def _cells(size: int, cell_px: float) -> NDArray[np.int64]:
    """Return the number of each pixel's cell, counted from the frame's centre."""
    return np.floor((np.arange(size) + 0.5 - size / 2) / cell_px).astype(np.int64)
