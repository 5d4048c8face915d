"""The last step of a frame: rounded once, to the depth of the output.

Where an 8-bit output gets a frame that was computed, it is dithered, see ``dither``. Values that are whole
codes already, such as those of an untouched area, stay.
"""

from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.compute.parallel import min_rows_per_thread, parallel_rows
from idle_shimmer.core.picture.dither import WHOLE, dither_seed, row_seed, triangular_noise
from idle_shimmer.core.picture.encoding import Codes, DeepCodes, Picture, Pixels
from idle_shimmer.core.picture.transfer import clamp01

Depth = Literal[8, 16]


@dataclass(frozen=True, slots=True)
class OutputFrame:
    """A frame on its way to an encoder, not yet rounded; ``number`` is that of its dither."""

    picture: Picture
    number: int

    def codes(self, depth: Depth) -> Codes | DeepCodes:
        """Return its codes, uint8 or uint16 (H, W, 3)."""
        return output_codes(self.picture, depth, self.number)


def output_codes(picture: Picture, depth: Depth, frame: int) -> Codes | DeepCodes:
    """Return the codes of a frame: uint8 or uint16 (H, W, 3), by the depth of the output.

    Codes of the source come out as they are, or at the other depth; computed values are rounded, for
    8 bits with the dither of frame number ``frame``.
    """
    if depth == 16:
        return picture.to("deep").pixels
    if picture.encoding in ("codes", "deep"):
        return picture.to("codes").pixels
    return dithered(picture.to("display").pixels, frame)


def dithered(display: Pixels, frame: int) -> Codes:
    """Return display values (H, W, 3) as uint8 codes, with triangular dither."""
    height, width = display.shape[:2]
    flat = np.ascontiguousarray(display).reshape(height, width * 3)
    out = np.empty(flat.shape, np.uint8)
    seed = dither_seed(frame)
    parallel_rows(_dithered_rows, height, flat, seed, out, min_rows=min_rows_per_thread(width))
    return out.reshape(display.shape)


@kernel
def _dithered_rows(display: Any, seed: Any, out: Any, first: int, end: int) -> None:
    for i in range(first, end):
        row = row_seed(seed, i)
        for j in range(display.shape[1]):
            value = clamp01(display[i, j]) * np.float32(255)
            whole = np.float32(np.int32(value + np.float32(0.5)))
            if abs(value - whole) < np.float32(WHOLE):
                out[i, j] = np.uint8(whole)
                continue
            noise = triangular_noise(row, j)
            noisy = min(max(value + noise, np.float32(0)), np.float32(255))
            out[i, j] = np.uint8(noisy + np.float32(0.5))
