"""The lookup of a plain shift: rows, then columns, each with the same four weights throughout.

The same points, weights and edges as the general lookup; only the order of the sums differs.
"""

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.bands import over_rows, worth_a_thread
from idle_shimmer.core.geometry.edges import MIRROR, TILE, fold_index
from idle_shimmer.core.interpolation import cubic_weights
from idle_shimmer.core.kernel import copy, kernel
from idle_shimmer.core.picture import Pixels

_NO_SCALE = np.array([1.0, 0.0, 0.0, 1.0])
_LINEAR_PART = [0, 1, 3, 4]


def is_shift(matrices: NDArray[np.float64], edges: NDArray[np.int64]) -> bool:
    """Whether (moment, stage, 6) is one stage that only shifts, and its edges repeat the picture."""
    alone = len(edges) == 1 and edges[0] in (MIRROR, TILE)
    return alone and bool((matrices[:, 0, _LINEAR_PART] == _NO_SCALE).all())


def look_up_shift(source: Pixels, matrices: NDArray[np.float64], edge: int) -> Pixels:
    """The picture seen through shifts (moment, 1, 6), averaged; see ``look_up``."""
    height, width = source.shape[:2]
    out = np.empty_like(source)
    shifts = np.ascontiguousarray(matrices[:, 0, [2, 5]])
    flat, flat_out = source.reshape(height, -1), out.reshape(height, -1)
    fewest = worth_a_thread(width * len(shifts))
    over_rows(_shift_rows, height, flat, width, shifts, edge, flat_out, fewest=fewest)
    return out


@kernel
def _shift_rows(
    source: Any, width: int, shifts: Any, edge: int, out: Any, first: int, end: int
) -> None:
    line = np.empty(width * 3, np.float32)
    wide = np.empty((width + 3) * 3, np.float32)
    share = np.float32(1 / shifts.shape[0])
    for i in range(first, end):
        for moment in range(shifts.shape[0]):
            x, y = shifts[moment, 0], i + shifts[moment, 1]
            _between_rows(source, y, edge, share, line)
            _unfold(line, width, int(math.floor(x)) - 1, edge, wide)
            _between_columns(wide, np.float32(x - math.floor(x)), moment == 0, out[i])


@kernel
def _between_rows(source: Any, y: float, edge: int, share: Any, line: Any) -> None:
    """The row at ``y``, between four rows of the picture, times ``share``."""
    p = int(math.floor(y))
    weights = cubic_weights(np.float32(y - p))
    line[:] = 0
    for k in range(4):
        weight = weights[k] * share
        if weight != 0:
            row = source[fold_index(p + k - 1, source.shape[0], edge)]
            for n in range(line.shape[0]):
                line[n] += weight * row[n]


@kernel
def _unfold(line: Any, width: int, start: int, edge: int, wide: Any) -> None:
    """The row from column ``start`` on, with what lies beyond its ends, into ``wide``."""
    n, count = 0, wide.shape[0] // 3
    while n < count:
        j = fold_index(start + n, width, edge)
        if edge == MIRROR and (start + n) // width % 2 == 1:
            run = min(count - n, j + 1)
            for k in range(run):
                for c in range(3):
                    wide[3 * (n + k) + c] = line[3 * (j - k) + c]
        else:
            run = min(count - n, width - j)
            copy(line[3 * j : 3 * (j + run)], wide[3 * n : 3 * (n + run)])
        n += run


@kernel
def _between_columns(wide: Any, f: Any, fresh: bool, out: Any) -> None:
    """Adds the columns a fraction ``f`` after the second of ``wide``, or begins with them."""
    a, b, c, d = cubic_weights(f)
    length = out.shape[0]
    one, two, three, four = wide[:length], wide[3:], wide[6:], wide[9:]
    if fresh:
        out[:] = 0
    if f == 0:
        for n in range(length):
            out[n] += two[n]
        return
    for n in range(length):
        out[n] += a * one[n] + b * two[n] + c * three[n] + d * four[n]
