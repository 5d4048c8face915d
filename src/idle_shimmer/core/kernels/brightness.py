"""Changes of brightness and colour by pixel: highlights, spill, falloff, colour matrices.

Pictures are float32 (H, W, 3), in any encoding, without clamping. Each reads the picture once.
"""

from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.compute.parallel import parallel_rows
from idle_shimmer.core.picture.encoding import LUMA_BT709, Pixels

_FALLOFF_STEPS = 4096


def highlights(pixels: Pixels, threshold: float) -> Pixels:
    """Return what of each pixel's luma lies above ``threshold``, its hue kept; a new array."""
    out = np.empty_like(pixels)
    parallel_rows(_highlight_rows, pixels.shape[0], pixels, LUMA_BT709, np.float32(threshold), out)
    return out


@kernel
def _highlight_rows(
    pixels: Any, weights: Any, threshold: Any, out: Any, first: int, end: int
) -> None:
    for i in range(first, end):
        for j in range(pixels.shape[1]):
            red, green, blue = pixels[i, j, 0], pixels[i, j, 1], pixels[i, j, 2]
            bright = weights[0] * red + weights[1] * green + weights[2] * blue
            share = max(bright - threshold, np.float32(0)) / max(bright, np.float32(1e-6))
            out[i, j, 0], out[i, j, 1], out[i, j, 2] = red * share, green * share, blue * share


def add_spill(pixels: Pixels, spill: Pixels, tint: NDArray[np.float32]) -> Pixels:
    """Return ``pixels`` + ``spill`` · ``tint`` (3,), in the memory of ``spill``."""
    parallel_rows(_spill_rows, pixels.shape[0], pixels, tint.astype(np.float32), spill)
    return spill


@kernel
def _spill_rows(pixels: Any, tint: Any, spill: Any, first: int, end: int) -> None:
    for i in range(first, end):
        for j in range(pixels.shape[1]):
            for c in range(3):
                spill[i, j, c] = pixels[i, j, c] + spill[i, j, c] * tint[c]


def apply_falloff(
    pixels: Pixels, axes: tuple[float, float], gain: Callable[[NDArray[np.float64]], NDArray[Any]]
) -> Pixels:
    """Return ``pixels`` times ``gain`` of the distance from the frame's centre; a new array.

    The distance is that of an ellipse with half ``axes`` (pixels), 1 on it; ``gain`` is tabulated
    evenly in its square, up to the corners.
    """
    height, width = pixels.shape[:2]
    farthest = (width / 2 / axes[0]) ** 2 + (height / 2 / axes[1]) ** 2
    squares = np.arange(_FALLOFF_STEPS + 2) * (farthest / _FALLOFF_STEPS)
    table = gain(np.sqrt(squares)).astype(np.float32)
    out = np.empty_like(pixels)
    steps = _FALLOFF_STEPS / farthest
    parallel_rows(_falloff_rows, height, pixels, axes, np.float32(steps), table, out)
    return out


@kernel
def _falloff_rows(
    pixels: Any, axes: Any, steps: Any, table: Any, out: Any, first: int, end: int
) -> None:
    height, width = pixels.shape[0], pixels.shape[1]
    across = np.empty(width, np.float32)
    for j in range(width):
        across[j] = np.float32(steps * ((j + 0.5 - width / 2) / axes[0]) ** 2)
    # A gain for each float, as the loop over floats is vectorised.
    gains = np.empty(3 * width, np.float32)
    for i in range(first, end):
        down = np.float32(steps * ((i + 0.5 - height / 2) / axes[1]) ** 2)
        for j in range(width):
            at = across[j] + down
            k = np.int32(at)
            gain = table[k] + (at - np.float32(k)) * (table[k + 1] - table[k])
            gains[3 * j] = gains[3 * j + 1] = gains[3 * j + 2] = gain
        source, made = pixels[i].reshape(-1), out[i].reshape(-1)
        for n in range(3 * width):
            made[n] = source[n] * gains[n]


def recolour(pixels: Pixels, matrix: NDArray[Any], offset: NDArray[Any] | None = None) -> Pixels:
    """Return every pixel times ``matrix`` (3, 3), plus ``offset`` (3,); a new array."""
    whole = matrix if offset is None else np.column_stack([matrix, offset])
    return cv2.transform(np.ascontiguousarray(pixels), whole.astype(np.float32))
