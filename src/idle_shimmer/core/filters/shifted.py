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
from idle_shimmer.core.geometry.shift import shifted_row
from idle_shimmer.core.kernel import kernel
from idle_shimmer.core.picture import Pixels


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
    # Every channel is shifted both ways and weighed by 0 or 1: as whole runs of floats that is
    # quicker than taking pixels apart.
    length = pixels.shape[1]
    shares = np.zeros((3, length), np.float32)
    for c in range(3):
        shares[c, c::3] = 1
    red, blue = np.empty(length, np.float32), np.empty(length, np.float32)
    wide = np.empty(length + 9, np.float32)
    for i in range(first, end):
        shifted_row(pixels, red_look, MIRROR, i, 0, wide, red)
        shifted_row(pixels, blue_look, MIRROR, i, 0, wide, blue)
        _merge(shares, red, pixels[i], blue, out[i])


@kernel
def _merge(shares: Any, red: Any, green: Any, blue: Any, out: Any) -> None:
    of_red, of_green, of_blue = shares[0], shares[1], shares[2]
    for n in range(out.shape[0]):
        out[n] = of_red[n] * red[n] + of_green[n] * green[n] + of_blue[n] * blue[n]
