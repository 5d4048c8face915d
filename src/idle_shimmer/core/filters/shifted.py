"""Pictures whose pixels are shifted each by its own amount, and channels shifted whole.

Conventions: float32 (H, W) or (H, W, 3), any light; beyond the frame lies its half-sample mirror.
Shifts are pixels, +x right and +y down.
"""

import math

import cv2
import numpy as np
from numpy.typing import NDArray

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


def shifted_whole(plane: NDArray[np.float32], right: float, down: float) -> NDArray[np.float32]:
    """One channel (H, W) shifted as a whole, by Keys's cubic (1981, a = -1/2)."""
    height, width = plane.shape
    whole_x, whole_y = math.floor(right), math.floor(down)
    room_x, room_y = min(abs(whole_x) + 3, 4 * width), min(abs(whole_y) + 3, 4 * height)
    wide = cv2.copyMakeBorder(plane, room_y, room_y, room_x, room_x, cv2.BORDER_REFLECT)
    left, top = room_x - whole_x, room_y - whole_y
    part = wide[top - 2 : top + height + 2, left - 2 : left + width + 2]
    taps_x, taps_y = _taps(right - whole_x), _taps(down - whole_y)
    moved = cv2.sepFilter2D(part, cv2.CV_32F, taps_x, taps_y)
    return np.ascontiguousarray(moved[2 : 2 + height, 2 : 2 + width])


def _taps(f: float) -> NDArray[np.float32]:
    """Weights of the pixels at -2 … +2 for a picture moved by ``f`` (0…1) of a pixel."""
    weights = [
        (0.5 * f - 0.5) * f * f,
        ((-1.5 * f + 2) * f + 0.5) * f,
        (1.5 * f - 2.5) * f * f + 1,
        ((-0.5 * f + 1) * f - 0.5) * f,
        0.0,
    ]
    return np.array(weights, np.float32)
