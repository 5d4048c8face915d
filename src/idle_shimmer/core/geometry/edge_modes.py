"""What lies beyond the frame: the mirrored, repeated or smeared picture, or black.

A frame of width W covers x from 0 to W; pixel j is the point j + 0.5. ``mirror`` is half-sample
symmetric (… c b a | a b c …), ``tile`` repeats, ``smear`` takes the nearest edge pixel, ``black``
shows nothing: there the coverage falls from 1 to 0 over one pixel. ``clear`` is sampled like black; what
shows there is put under it afterwards (``core.frame.frame``).
"""

import math
from typing import Any, Literal

import numpy as np

from idle_shimmer.core.compute.jit import inlined, kernel

Edge = Literal["mirror", "tile", "smear", "black", "clear"]
MIRROR, TILE, SMEAR, BLACK = range(4)
EDGE_CODE: dict[Edge, int] = {
    "mirror": MIRROR,
    "tile": TILE,
    "smear": SMEAR,
    "black": BLACK,
    "clear": BLACK,
}


@inlined
def fold_with_sign(x: float, size: float, edge: int) -> tuple[float, float]:
    """Return the point inside 0…size that shows at ``x``, and -1 where it is mirrored there, else 1.

    Smeared and black points stay where they are.
    """
    if 0 <= x <= size or edge not in (MIRROR, TILE):
        return x, 1.0
    copy = math.floor(x / size)
    if edge == MIRROR and copy % 2 == 1:
        return size * (copy + 1) - x, -1.0
    return x - size * copy, 1.0


@inlined
def fold(x: float, size: float, edge: int) -> float:
    """Return the point inside 0…size that shows at ``x``."""
    if 0 <= x <= size:
        return x
    if edge == MIRROR:
        x = x - 2 * size * math.floor(x / (2 * size))
        return 2 * size - x if x > size else x
    if edge == TILE:
        return x - size * math.floor(x / size)
    return min(max(x, 0.0), size)


@kernel
def fold_row(xs: Any, size: float, edge: int, out: Any) -> None:
    """Write ``fold`` of a row of points to ``out``, another array."""
    for j in range(xs.shape[0]):
        out[j] = xs[j]
    fold_in_place(out, size, edge)


@kernel
def fold_in_place(xs: Any, size: float, edge: int) -> None:
    """Fold a row of points. Without branches, and with one array alone, it is vectorised."""
    if edge == MIRROR:
        for j in range(xs.shape[0]):
            x = xs[j] - 2 * size * np.floor(xs[j] / (2 * size))
            xs[j] = 2 * size - x if x > size else x
    elif edge == TILE:
        for j in range(xs.shape[0]):
            xs[j] = xs[j] - size * np.floor(xs[j] / size)
    else:
        for j in range(xs.shape[0]):
            xs[j] = min(max(xs[j], 0.0), size)


@inlined
def fold_index(k: int, count: int, edge: int) -> int:
    """Return the pixel index inside 0…count-1 that shows at index ``k``."""
    if 0 <= k < count:
        return k
    # The copies next to the frame without a division, which takes longer than the rest.
    if edge == MIRROR:
        k = k if -2 * count <= k < 2 * count else k % (2 * count)
        k = -1 - k if k < 0 else k
        return 2 * count - 1 - k if k >= count else k
    if edge == TILE:
        k = k if -count <= k < 2 * count else k % count
        return k + count if k < 0 else (k - count if k >= count else k)
    return min(max(k, 0), count - 1)


@kernel
def mirror_ends(wide: Any, room: int, channels: int) -> None:
    """Fill ``room`` pixels at both ends of a flat row with the mirror of what lies between them."""
    width = wide.shape[0] // channels - 2 * room
    for k in range(room):
        left = room + fold_index(-1 - k, width, MIRROR)
        right = room + fold_index(width + k, width, MIRROR)
        for c in range(channels):
            wide[(room - 1 - k) * channels + c] = wide[left * channels + c]
            wide[(room + width + k) * channels + c] = wide[right * channels + c]


@inlined
def coverage(x: float, size: float) -> float:
    """Return how much of a one-pixel-wide sample at ``x`` lies inside the picture, 0…1."""
    return min(max(min(x, size - x) + 0.5, 0.0), 1.0)
