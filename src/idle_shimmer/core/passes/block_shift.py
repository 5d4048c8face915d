"""Block shift: rectangles of the picture jump aside."""

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.facts import Fact, choice, seeded
from idle_shimmer.core.filters.shifted import shifted_by
from idle_shimmer.core.noise import hashed
from idle_shimmer.core.passes.base import FrameContext, PicturePass, Values, number
from idle_shimmer.core.picture import Pixels

AMOUNT = Fact(
    "Amount", "amount", "width", rest=0, low=0, high=1, step=0.005, usual=0.1, moves="swell"
)
BLOCK = Fact("Block", "amount", "height", low=0.01, high=1, step=0.01)
DENSITY = Fact("Density", "factor", "ratio", low=0, high=1, step=0.05)
REFRESH = Fact("Refresh", "amount", "frames", low=1, high=1000, step=1)
_CHOSEN, _FAR = 1, 2


class BlockShift(PicturePass):
    """A ``density`` of the blocks shifts by up to ``amount``, anew every ``refresh`` frames.

    Blocks are ``block`` high and twice as wide, counted from the frame's centre.
    """

    title = "Block shift"
    family = "glitch"
    purpose = "Throws blocks of the picture aside, as a broken stream does."

    kind: Literal["block_shift"] = "block_shift"
    amount: number(AMOUNT) = 0.0  # type: ignore[valid-type]
    block: number(BLOCK) = 0.12  # type: ignore[valid-type]
    density: number(DENSITY) = 0.4  # type: ignore[valid-type]
    refresh: number(REFRESH) = 2.0  # type: ignore[valid-type]
    axis: choice("Axis", "horizontal", "vertical", "both") = "horizontal"  # type: ignore[valid-type]
    seed: seeded() = 1  # type: ignore[valid-type]

    def apply(self, pixels: Pixels, values: Values, context: FrameContext) -> Pixels:
        """Each pixel from its block's shift; random by (seed, frame, block) alone."""
        tick = math.floor(context.offset / max(1, round(values["refresh"])))
        size_px = values["block"] * context.height
        i = _cells(context.height, size_px)[:, None]
        j = _cells(context.width, 2 * size_px)[None, :]
        chosen = hashed(values["seed"], tick, i, j, _CHOSEN) < values["density"]

        def shift(axis: int, name: str) -> NDArray[np.float32]:
            if values["axis"] not in (name, "both"):
                return np.zeros((1, 1), np.float32)
            far = 2 * hashed(values["seed"], tick, i, j, _FAR + axis) - 1
            return (chosen * far * values["amount"] * context.width).astype(np.float32)

        return shifted_by(pixels, shift(0, "horizontal"), shift(1, "vertical"))


def _cells(size: int, cell_px: float) -> NDArray[np.int64]:
    """The number of the cell that each pixel's centre lies in, counted from the frame's centre."""
    return np.floor((np.arange(size) + 0.5 - size / 2) / cell_px).astype(np.int64)
