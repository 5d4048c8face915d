"""Pictures whose pixels are shifted each by its own amount, and channels shifted whole.

Conventions: float32 (H, W) or (H, W, 3), any light; beyond the frame lies its half-sample mirror.
Shifts are pixels, +x right and +y down.
"""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.bands import over_rows
from idle_shimmer.core.geometry.edges import MIRROR
from idle_shimmer.core.geometry.shift import weighed_row
from idle_shimmer.core.interpolation import cubic_weights
from idle_shimmer.core.kernel import kernel
from idle_shimmer.core.picture import Pixels
from idle_shimmer.core.vectors import RGB_BLOCK, merge_rgb, uncounted


def shifted_by(
    pixels: Pixels,
    right: NDArray[np.float32],
    down: NDArray[np.float32],
    rows: NDArray[np.int64] | None = None,
) -> Pixels:
    """Each output pixel from where ``right`` and ``down``, broadcast to (H, W), say it came.

    With ``rows`` only these rows are made, and the shifts have as many.
    """
    height, width = pixels.shape[:2]
    rows = np.arange(height) if rows is None else rows
    x = np.arange(width, dtype=np.float32)[None, :] - right
    y = rows.astype(np.float32)[:, None] - down
    shape = (rows.size, width)
    x, y = (np.ascontiguousarray(np.broadcast_to(each, shape), np.float32) for each in (x, y))
    return cv2.remap(pixels, x, y, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT)


def split_channels(pixels: Pixels, right: float, down: float) -> Pixels:
    """Red shifted by (``right``, ``down``), blue against it, green left; float32 (H, W, 3).

    Between pixels: Keys's cubic (1981, a = -1/2), which leaves whole shifts exact.
    """
    height = pixels.shape[0]
    out = np.empty_like(pixels)
    flat, looks = np.ascontiguousarray(pixels).reshape(height, -1), np.array([[-right, -down]])
    over_rows(_split_rows, height, flat, looks, -looks, out.reshape(height, -1))
    return out


@kernel
def _split_rows(pixels: Any, red_look: Any, blue_look: Any, out: Any, first: int, end: int) -> None:
    length = pixels.shape[1]
    red, blue = np.empty(length + 9, np.float32), np.empty(length + 9, np.float32)
    whole = np.float32(1)
    for i in range(first, end):
        red_past = weighed_row(pixels, red_look[0], whole, MIRROR, i, 0, red)
        blue_past = weighed_row(pixels, blue_look[0], whole, MIRROR, i, 0, blue)
        _merge(red, cubic_weights(red_past), pixels[i], blue, cubic_weights(blue_past), out[i])


@kernel
def _merge(red: Any, of_red: Any, green: Any, blue: Any, of_blue: Any, out: Any) -> None:
    """Red and blue each between columns, green as it is."""
    red, green, blue, out = uncounted(red), uncounted(green), uncounted(blue), uncounted(out)
    merged = 0
    for n in range(0, out.shape[0] - RGB_BLOCK + 1, RGB_BLOCK):
        merge_rgb(red, of_red, green, blue, of_blue, out, n)
        merged = n + RGB_BLOCK
    for n in range(merged, out.shape[0], 3):
        out[n], out[n + 1], out[n + 2] = np.float32(0), green[n + 1], np.float32(0)
        for k in range(4):
            out[n] += of_red[k] * red[n + 3 * k]
            out[n + 2] += of_blue[k] * blue[n + 2 + 3 * k]
