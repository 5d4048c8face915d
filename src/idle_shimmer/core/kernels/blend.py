"""Two pictures weighted as display values, and converted to the encoding that is needed next.

Done apart, the steps (codes to display, the sum, display to linear light) would each read and write
the whole picture: together they take a third of the time. Where a row begins or ends with pixels of
one picture alone, as in a wipe, these are taken unchanged.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import copy, kernel
from idle_shimmer.core.compute.parallel import min_rows_per_thread, parallel_rows
from idle_shimmer.core.picture.encoding import Encoding, Picture
from idle_shimmer.core.picture.transfer import clamp01, linear_of_display_row

_CODES, _DISPLAY, _LINEAR = range(3)
_TARGET: dict[Encoding, int] = {"codes": _CODES, "display": _DISPLAY, "linear": _LINEAR}


@dataclass(frozen=True)
class Share:
    """How much of the other picture each pixel shows: ``start`` + ``slope`` · ``plane``, in 0…1.

    ``plane`` is float32 that broadcasts to (H, W).
    """

    plane: NDArray[np.float32]
    slope: float = 1.0
    start: float = 0.0


def blend(one: Picture, other: Picture, share: float | Share, encoding: Encoding) -> Picture:
    """Return ``one`` · (1 - share) + ``other`` · share of display values, in ``encoding``.

    Both pictures are of one size.
    """
    if not isinstance(share, Share):
        share = Share(np.full((1, 1), share, np.float32))
    from_codes = one.encoding == other.encoding == "codes"
    pictures = [one, other] if from_codes else [each.to("display") for each in (one, other)]
    height, width = pictures[0].pixels.shape[:2]
    first, second = (
        np.ascontiguousarray(each.pixels).reshape(height, width * 3) for each in pictures
    )
    out = np.empty((height, width * 3), np.uint8 if encoding == "codes" else np.float32)
    ramp = np.float32(share.slope), np.float32(share.start)
    # Codes are weighted as they are and divided by 255 with the weights.
    target = _TARGET[encoding], np.float32(1 / 255 if from_codes else 1), from_codes
    min_rows = min_rows_per_thread(width)
    # Read-only planes are passed by themselves: inside a tuple they would be another type.
    plane, how = _smallest(share.plane), (ramp, target)
    parallel_rows(_blend_rows, height, first, second, plane, how, out, min_rows=min_rows)
    return Picture(out.reshape(height, width, 3), encoding)


def _smallest(plane: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return one row of a plane that was broadcast from it, one column likewise; contiguous."""
    plane = plane[:1].copy() if plane.strides[0] == 0 else plane
    plane = plane[:, :1].copy() if plane.strides[1] == 0 else plane
    return np.ascontiguousarray(plane, np.float32)


@kernel
def _blend_rows(one: Any, other: Any, plane: Any, how: Any, out: Any, first: int, end: int) -> None:
    ramp, target = how
    length = out.shape[1]
    shares, line = np.empty(length, np.float32), np.empty(length, np.float32)
    begin, stop = 0, 0
    for i in range(first, end):
        if i == first or plane.shape[0] > 1:
            begin, stop = _find_shares(plane[min(i, plane.shape[0] - 1)], ramp, shares)
        below, above, made = one[i], other[i], out[i]
        if begin > 0:
            shown = above if shares[0] == 1 else below
            _put(shown[:begin], target, line, made[:begin])
        if begin < stop:
            pair = below[begin:stop], above[begin:stop]
            _mix(pair, shares[begin:stop], target, line, made[begin:stop])
        if stop < length:
            shown = above if shares[length - 1] == 1 else below
            _put(shown[stop:], target, line, made[stop:])


@kernel
def _find_shares(plane: Any, ramp: Any, shares: Any) -> tuple[int, int]:
    """Fill the shares of a row's floats; return its part between runs of 0 or 1 at both ends."""
    slope, start = ramp
    count = shares.shape[0]
    if plane.shape[0] == 1:
        shares[:] = clamp01(start + slope * plane[0])
    else:
        for j in range(plane.shape[0]):
            share = clamp01(start + slope * plane[j])
            shares[3 * j] = shares[3 * j + 1] = shares[3 * j + 2] = share
    begin, stop = 0, count
    first, last = shares[0], shares[count - 1]
    if first in (0, 1):
        while begin < stop and shares[begin] == first:
            begin += 1
    if last in (0, 1):
        while stop > begin and shares[stop - 1] == last:
            stop -= 1
    return begin, stop


@kernel
def _put(shown: Any, target: Any, line: Any, out: Any) -> None:
    """Convert one picture's part of a row."""
    kind, scale, from_codes = target
    if kind == _CODES and from_codes:
        copy(shown, out)
        return
    for n in range(out.shape[0]):
        line[n] = scale * np.float32(shown[n])
    _convert(line, kind, out)


@kernel
def _mix(pair: Any, shares: Any, target: Any, line: Any, out: Any) -> None:
    """Weight and convert a part of a row in which both pictures show."""
    below, above = pair
    kind, scale, _ = target
    for n in range(out.shape[0]):
        a, b = np.float32(below[n]), np.float32(above[n])
        line[n] = scale * (a + shares[n] * (b - a))
    _convert(line, kind, out)


@kernel
def _convert(line: Any, kind: int, out: Any) -> None:
    """Convert the display values in ``line`` to the target's encoding."""
    if kind == _CODES:
        for n in range(out.shape[0]):
            out[n] = np.uint8(clamp01(line[n]) * np.float32(255) + np.float32(0.5))
    elif kind == _DISPLAY:
        for n in range(out.shape[0]):
            out[n] = line[n]
    else:
        linear_of_display_row(line[: out.shape[0]], out)
