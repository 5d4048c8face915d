"""Warps through a plain translation: rows, then columns, each with the same four weights throughout.

The same points, weights and edges as the general warp; only the order of the sums differs. Codes may
be translated without conversion, because display values are proportional to them.
"""

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import copy, kernel
from idle_shimmer.core.compute.parallel import min_rows_per_thread, parallel_rows
from idle_shimmer.core.geometry.edge_modes import MIRROR, TILE, fold_index
from idle_shimmer.core.geometry.shutter import Part
from idle_shimmer.core.picture.encoding import Codes, Pixels
from idle_shimmer.core.picture.resampling import cubic_weights

_NO_SCALE = np.array([1.0, 0.0, 0.0, 1.0])
_LINEAR_PART = [0, 1, 3, 4]


def is_translation(matrices: NDArray[np.float64], edges: NDArray[np.int64]) -> bool:
    """Whether (time sample, stage, 6) is one stage that only shifts, and its edge repeats the picture."""
    alone = len(edges) == 1 and edges[0] in (MIRROR, TILE)
    return alone and bool((matrices[:, 0, _LINEAR_PART] == _NO_SCALE).all())


def warp_translation(source: Pixels, matrices: NDArray[np.float64], edge: int) -> Pixels:
    """Return the picture seen through translations (time sample, 1, 6), averaged; see ``warp``."""
    height, width = source.shape[:2]
    out = np.empty_like(source)
    offsets = np.ascontiguousarray(matrices[:, 0, [2, 5]])
    _run(_translated_rows, source, offsets, edge, (0, 0, width, height), out)
    return out


def shift_codes_into(out: Codes, codes: Codes, right: float, down: float, part: Part) -> None:
    """Write ``codes``, shifted by pixels, to a part of ``out``; both uint8 (H, W, 3), contiguous.

    Beyond the frame lies the mirrored picture. Values are interpolated, rounded and clipped.
    """
    _run(_code_rows, np.ascontiguousarray(codes), np.array([[-right, -down]]), MIRROR, part, out)


def _run(
    rows: Any,
    source: NDArray[Any],
    offsets: NDArray[np.float64],
    edge: int,
    part: Part,
    out: NDArray[Any],
) -> None:
    """Run kernel ``rows`` over a part; ``offsets`` (time sample, 2) are how far right and down to look."""
    height = source.shape[0]
    left, top, right, bottom = part
    min_rows = min_rows_per_thread((right - left) * len(offsets))
    flat, flat_out = source.reshape(height, -1), out.reshape(out.shape[0], -1)
    parallel_rows(rows, bottom - top, flat, offsets, edge, part, flat_out, min_rows=min_rows)


@kernel
def _translated_rows(
    source: Any, offsets: Any, edge: int, part: Any, out: Any, first: int, end: int
) -> None:
    left, top, right, _ = part
    wide = np.empty((right - left + 3) * 3, np.float32)
    for i in range(top + first, top + end):
        translated_row(source, offsets, edge, i, left, wide, out[i, 3 * left : 3 * right])


@kernel
def _code_rows(
    source: Any, offsets: Any, edge: int, part: Any, out: Any, first: int, end: int
) -> None:
    left, top, right, _ = part
    found = np.empty((right - left) * 3, np.float32)
    wide = np.empty((right - left + 3) * 3, np.float32)
    for i in range(top + first, top + end):
        translated_row(source, offsets, edge, i, left, wide, found)
        _round(found, out[i, 3 * left : 3 * right])


@kernel
def _round(values: Any, codes: Any) -> None:
    for n in range(codes.shape[0]):
        above = max(np.float32(0), values[n])
        codes[n] = np.uint8(min(np.float32(255), above) + np.float32(0.5))


@kernel
def translated_row(
    source: Any, offsets: Any, edge: int, i: int, left: int, wide: Any, out: Any
) -> None:
    """Write row ``i`` from column ``left`` on, averaged over ``offsets`` (time sample, 2), to ``out``.

    ``source`` is (H, W * 3); ``wide`` has room for three pixels more than ``out``, both flat.
    """
    share = np.float32(1 / offsets.shape[0])
    for sample in range(offsets.shape[0]):
        fraction = weighted_row(source, offsets[sample], share, edge, i, left, wide)
        if sample == 0:
            _between_columns(wide, fraction, out)
        else:
            _add_between_columns(wide, fraction, out)


@kernel
def weighted_row(
    source: Any, offset: Any, share: Any, edge: int, i: int, left: int, wide: Any
) -> Any:
    """Write the weighted sum of the four rows about row ``i`` to ``wide``, at all needed columns.

    ``wide`` begins with the pixel before column ``left``. Returns the fraction of a column by which
    ``offset`` lies past whole ones, 0…1.
    """
    height = source.shape[0]
    x, y = left + offset[0], i + offset[1]
    q, p = int(math.floor(x)), int(math.floor(y))
    a, b, c, d = cubic_weights(np.float32(y - p))
    rows = (
        source[fold_index(p - 1, height, edge)],
        source[fold_index(p, height, edge)],
        source[fold_index(p + 1, height, edge)],
        source[fold_index(p + 2, height, edge)],
    )
    _unfold(rows, (a * share, b * share, c * share, d * share), q - 1, edge, wide)
    return np.float32(x - q)


@kernel
def _unfold(rows: Any, weights: Any, start: int, edge: int, wide: Any) -> None:
    """Write the weighted sum of four rows from column ``start`` on, with what lies beyond their ends."""
    n, count, width = 0, wide.shape[0] // 3, rows[0].shape[0] // 3
    while n < count:
        j = fold_index(start + n, width, edge)
        mirrored = edge == MIRROR and (start + n) // width % 2 == 1
        run = min(count - n, j + 1 if mirrored else width - j)
        part = wide[3 * n : 3 * (n + run)]
        first = 3 * (j + 1 - run) if mirrored else 3 * j
        _weighted_sum(rows, weights, first, part)
        if mirrored:
            _reverse(part)
        n += run


@kernel
def _weighted_sum(rows: Any, weights: Any, first: int, total: Any) -> None:
    a, b, c, d = weights
    end = first + total.shape[0]
    one, two = rows[0][first:end], rows[1][first:end]
    three, four = rows[2][first:end], rows[3][first:end]
    if a == 0 and c == 0 and d == 0:
        for n in range(total.shape[0]):
            total[n] = b * np.float32(two[n])
        return
    for n in range(total.shape[0]):
        upper = a * np.float32(one[n]) + b * np.float32(two[n])
        total[n] = upper + c * np.float32(three[n]) + d * np.float32(four[n])


@kernel
def _reverse(part: Any) -> None:
    """Reverse the order of pixels, in place."""
    last = part.shape[0] // 3 - 1
    for k in range((last + 1) // 2):
        for c in range(3):
            there = 3 * (last - k) + c
            part[3 * k + c], part[there] = part[there], part[3 * k + c]


@kernel
def _between_columns(wide: Any, f: Any, out: Any) -> None:
    """Interpolate at a fraction ``f`` after the second column of ``wide``."""
    a, b, c, d = cubic_weights(f)
    length = out.shape[0]
    one, two, three, four = wide[:length], wide[3:], wide[6:], wide[9:]
    if f == 0:
        copy(two, out)
        return
    for n in range(length):
        out[n] = a * one[n] + b * two[n] + c * three[n] + d * four[n]


@kernel
def _add_between_columns(wide: Any, f: Any, out: Any) -> None:
    a, b, c, d = cubic_weights(f)
    length = out.shape[0]
    one, two, three, four = wide[:length], wide[3:], wide[6:], wide[9:]
    for n in range(length):
        out[n] += a * one[n] + b * two[n] + c * three[n] + d * four[n]
