"""Pictures whose pixels are each displaced by their own amount, and channels moved as a whole.

Pictures are float32 (H, W) or (H, W, 3), in any encoding; beyond the frame lies the mirrored picture.
Shifts are pixels, +x right and +y down.
"""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.compute.parallel import parallel_rows
from idle_shimmer.core.compute.simd import RGB_BLOCK, merge_channels
from idle_shimmer.core.geometry.edge_modes import MIRROR
from idle_shimmer.core.geometry.translate import weighted_row
from idle_shimmer.core.picture.encoding import Pixels
from idle_shimmer.core.picture.resampling import cubic_weights


def displace(
    pixels: Pixels,
    right: NDArray[np.float32],
    down: NDArray[np.float32],
    rows: NDArray[np.int64] | None = None,
) -> Pixels:
    """Return the picture with each output pixel taken from where its shift says that it came from.

    ``right`` and ``down`` broadcast to (H, W). With ``rows`` only these rows are made, and the
    shifts have as many.
    """
    height, width = pixels.shape[:2]
    rows = np.arange(height) if rows is None else rows
    x = np.arange(width, dtype=np.float32)[None, :] - right
    y = rows.astype(np.float32)[:, None] - down
    shape = (rows.size, width)
    x, y = (np.ascontiguousarray(np.broadcast_to(each, shape), np.float32) for each in (x, y))
    return cv2.remap(pixels, x, y, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT)


def split_channels(pixels: Pixels, right: float, down: float) -> Pixels:
    """Return red shifted by (``right``, ``down``), blue by the opposite, green unchanged.

    Pixels are interpolated by the cubic (Keys 1981, a = -1/2), which leaves whole shifts exact.
    """
    height = pixels.shape[0]
    out = np.empty_like(pixels)
    flat = np.ascontiguousarray(pixels).reshape(height, -1)
    offsets = np.array([[-right, -down], [right, down]])
    parallel_rows(_split_rows, height, flat, offsets, out.reshape(height, -1))
    return out


@kernel
def _split_rows(pixels: Any, offsets: Any, out: Any, first: int, end: int) -> None:
    length = pixels.shape[1]
    red, blue = np.empty(length + 9, np.float32), np.empty(length + 9, np.float32)
    whole = np.float32(1)
    for i in range(first, end):
        fraction_red = weighted_row(pixels, offsets[0], whole, MIRROR, i, 0, red)
        fraction_blue = weighted_row(pixels, offsets[1], whole, MIRROR, i, 0, blue)
        weights = cubic_weights(fraction_red), cubic_weights(fraction_blue)
        _merge((red, pixels[i], blue), weights, out[i])


@kernel
def _merge(channels: Any, weights: Any, out: Any) -> None:
    """Interpolate red and blue between columns, and leave green."""
    red, green, blue = channels
    of_red, of_blue = weights
    merged = 0
    for n in range(0, out.shape[0] - RGB_BLOCK + 1, RGB_BLOCK):
        merge_channels((red, green, blue), weights, out, n)
        merged = n + RGB_BLOCK
    for n in range(merged, out.shape[0], 3):
        out[n], out[n + 1], out[n + 2] = np.float32(0), green[n + 1], np.float32(0)
        for k in range(4):
            out[n] += of_red[k] * red[n + 3 * k]
            out[n + 2] += of_blue[k] * blue[n + 2 + 3 * k]
