"""The last step of a frame: rounded once, to the depth of the output.

Where an 8-bit output gets a frame that was computed, it is dithered: noise of triangular density, from
-1 to +1 code, is added before rounding, so that the error has neither a mean nor a variance that depends
on the picture (Lipshitz, Wannamaker and Vanderkooy 1992, section 4). The noise is a function of frame,
row and column alone. Values that are whole codes already, such as those of an untouched area, stay.
"""

from typing import Any, Literal

import numpy as np

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.compute.parallel import min_rows_per_thread, parallel_rows
from idle_shimmer.core.picture.encoding import Codes, DeepCodes, Picture, Pixels
from idle_shimmer.core.picture.transfer import clamp01

Depth = Literal[8, 16]
# Float conversions there and back leave a whole code within so much of itself.
_WHOLE = 1e-3
_FIRST, _SECOND, _GOLDEN = 0x85EBCA6B, 0xC2B2AE35, 0x9E3779B1


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
    seed = np.uint32(frame * _GOLDEN & 0xFFFFFFFF)
    parallel_rows(_dithered_rows, height, flat, seed, out, min_rows=min_rows_per_thread(width))
    return out.reshape(display.shape)


@kernel
def _dithered_rows(display: Any, seed: Any, out: Any, first: int, end: int) -> None:
    for i in range(first, end):
        row = np.uint32(seed ^ np.uint32(i * 0x27D4EB2F))
        for j in range(display.shape[1]):
            value = clamp01(display[i, j]) * np.float32(255)
            whole = np.float32(np.int32(value + np.float32(0.5)))
            if abs(value - whole) < np.float32(_WHOLE):
                out[i, j] = np.uint8(whole)
                continue
            h = np.uint32(row + np.uint32(j) * np.uint32(_GOLDEN))
            h = np.uint32((h ^ (h >> np.uint32(15))) * np.uint32(_FIRST))
            h = np.uint32((h ^ (h >> np.uint32(13))) * np.uint32(_SECOND))
            h = np.uint32(h ^ (h >> np.uint32(16)))
            # Two independent halves of 16 bits: their sum has triangular density.
            total = np.float32((h & np.uint32(0xFFFF)) + (h >> np.uint32(16)))
            noise = total / np.float32(65536) - np.float32(1)
            noisy = min(max(value + noise, np.float32(0)), np.float32(255))
            out[i, j] = np.uint8(noisy + np.float32(0.5))
