"""Pictures whose pixels are shifted each by its own amount, and channels shifted whole.

Conventions: float32 (H, W) or (H, W, 3), any light; beyond the frame lies its half-sample mirror.
Shifts are pixels, +x right and +y down.
"""

import math
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.bands import over_rows
from idle_shimmer.core.geometry.edges import MIRROR, fold_index, mirror_ends
from idle_shimmer.core.interpolation import cubic_weights
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
    out = np.empty_like(pixels)
    flat = np.ascontiguousarray(pixels)
    over_rows(_split_rows, pixels.shape[0], flat, right, down, out)
    return out


@kernel
def _split_rows(pixels: Any, right: float, down: float, out: Any, first: int, end: int) -> None:
    width = pixels.shape[1]
    # Room for the shift at both sides of the mirrored line.
    room = int(math.ceil(abs(right))) + 3
    line = np.empty(width + 2 * room, np.float32)
    red, blue = np.empty(width, np.float32), np.empty(width, np.float32)
    for i in range(first, end):
        _fill_line(pixels, i - down, 0, room, line)
        _shift_line(line, -right, room, red)
        _fill_line(pixels, i + down, 2, room, line)
        _shift_line(line, right, room, blue)
        here, split = pixels[i], out[i]
        for j in range(width):
            split[j, 0], split[j, 1], split[j, 2] = red[j], here[j, 1], blue[j]


@kernel
def _fill_line(pixels: Any, y: float, channel: int, room: int, line: Any) -> None:
    """One channel of the row at ``y``, mirrored at both ends."""
    height, width = pixels.shape[0], pixels.shape[1]
    p = int(math.floor(y))
    two = pixels[fold_index(p, height, MIRROR)]
    inside = line[room : room + width]
    if y == p:
        for j in range(width):
            inside[j] = two[j, channel]
    else:
        wy = cubic_weights(np.float32(y - p))
        one = pixels[fold_index(p - 1, height, MIRROR)]
        three = pixels[fold_index(p + 1, height, MIRROR)]
        four = pixels[fold_index(p + 2, height, MIRROR)]
        for j in range(width):
            upper = wy[0] * one[j, channel] + wy[1] * two[j, channel]
            inside[j] = upper + wy[2] * three[j, channel] + wy[3] * four[j, channel]
    mirror_ends(line, room, 1)


@kernel
def _shift_line(line: Any, x: float, room: int, shifted: Any) -> None:
    """The line from ``x`` on, counted from the row's first pixel."""
    q = int(math.floor(x))
    a, b, c, d = cubic_weights(np.float32(x - q))
    one, two, three, four = (
        line[room + q - 1 :],
        line[room + q :],
        line[room + q + 1 :],
        line[room + q + 2 :],
    )
    for j in range(shifted.shape[0]):
        shifted[j] = a * one[j] + b * two[j] + c * three[j] + d * four[j]
