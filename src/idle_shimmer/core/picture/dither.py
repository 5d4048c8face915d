"""Noise that is added before rounding, so that the error depends neither on the picture nor shows bands.

Of triangular density from -1 to +1 code (Lipshitz, Wannamaker and Vanderkooy 1992, section 4). A function
of frame, row and column alone.
"""

from typing import Any

import numpy as np

from idle_shimmer.core.compute.jit import inlined

_FIRST, _SECOND, _GOLDEN = 0x85EBCA6B, 0xC2B2AE35, 0x9E3779B1
# Float conversions there and back leave a whole code within so much of itself.
WHOLE = 1e-3


def dither_seed(frame: int) -> np.uint32:
    """Return the seed of a frame's noise."""
    return np.uint32(frame * _GOLDEN & 0xFFFFFFFF)


@inlined
def row_seed(seed: Any, row: Any) -> Any:
    """Return the seed of a row's noise."""
    return np.uint32(seed ^ np.uint32(row * 0x27D4EB2F))


@inlined
def triangular_noise(row: Any, column: Any) -> Any:
    """Return noise from -1 to +1; ``row`` is a ``row_seed``."""
    h = np.uint32(row + np.uint32(column) * np.uint32(_GOLDEN))
    h = np.uint32((h ^ (h >> np.uint32(15))) * np.uint32(_FIRST))
    h = np.uint32((h ^ (h >> np.uint32(13))) * np.uint32(_SECOND))
    h = np.uint32(h ^ (h >> np.uint32(16)))
    # Two independent halves of 16 bits: their sum has triangular density.
    total = np.float32((h & np.uint32(0xFFFF)) + (h >> np.uint32(16)))
    return total / np.float32(65536) - np.float32(1)
