"""Two pictures weighted in display light, and brought to the light that is needed next, at one go.

By themselves the steps (codes to display, the sum, display to linear light) would each read and
write the whole picture: together they take a third of the time. Where a row begins or ends with
pixels of one picture alone, as with a wipe, these are taken as they are.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.bands import over_rows, worth_a_thread
from idle_shimmer.core.kernel import copy, kernel
from idle_shimmer.core.picture import Light, Picture, codes_of_display_rows
from idle_shimmer.core.transfer import linear_of_display_rows, within

_CODES, _DISPLAY, _LINEAR = range(3)
_TARGET: dict[Light, int] = {"codes": _CODES, "display": _DISPLAY, "linear": _LINEAR}


@dataclass(frozen=True)
class Share:
    """How much of the other picture each pixel shows: ``start`` + ``slope`` · ``plane``, in 0…1.

    ``plane`` is float32 that broadcasts to (H, W).
    """

    plane: NDArray[np.float32]
    slope: float = 1.0
    start: float = 0.0


def blended(one: Picture, other: Picture, share: float | Share, light: Light) -> Picture:
    """``one`` · (1 - share) + ``other`` · share in display light, given in ``light``.

    Both pictures are of one size.
    """
    codes = one.light == other.light == "codes"
    pictures = [one, other] if codes else [each.to("display") for each in (one, other)]
    height, width = pictures[0].pixels.shape[:2]
    flat = [np.ascontiguousarray(each.pixels).reshape(height, width * 3) for each in pictures]
    scale = np.float32(1 / 255 if codes else 1)
    out = np.empty((height, width * 3), np.uint8 if light == "codes" else np.float32)
    way = (_TARGET[light], codes and light == "codes")
    fewest = worth_a_thread(width)
    if isinstance(share, Share):
        plane = _told_once(share.plane)
        ramp = np.float32(share.slope), np.float32(share.start)
        over_rows(_blend_rows, height, *flat, scale, plane, ramp, way, out, fewest=fewest)
    else:
        over_rows(_blend_evenly, height, *flat, scale, np.float32(share), way, out, fewest=fewest)
    return Picture(out.reshape(height, width, 3), light)


def _told_once(plane: NDArray[np.float32]) -> NDArray[np.float32]:
    """One row where all are alike by being one, one column likewise; contiguous."""
    plane = plane[:1] if plane.strides[0] == 0 else plane
    plane = plane[:, :1] if plane.strides[1] == 0 else plane
    return np.ascontiguousarray(plane, np.float32)


@kernel
def _blend_evenly(
    one: Any,
    other: Any,
    scale: Any,
    share: Any,
    way: Any,
    out: Any,
    first: int,
    end: int,
) -> None:
    store = np.empty((1, out.shape[1]), np.float32)
    for i in range(first, end):
        _mix(one[i], other[i], scale, share, way, store, out[i])


@kernel
def _mix(
    below: Any,
    above: Any,
    scale: Any,
    share: Any,
    way: Any,
    store: Any,
    out: Any,
) -> None:
    """Part of a row, flat, at one share."""
    target, as_they_are = way
    one, other = scale * (np.float32(1) - share), scale * share
    if as_they_are and share == 0:
        copy(below, out)
    elif as_they_are and share == 1:
        copy(above, out)
    elif target == _CODES:
        for n in range(out.shape[0]):
            mixed = one * np.float32(below[n]) + other * np.float32(above[n])
            out[n] = np.uint8(within(mixed) * np.float32(255) + np.float32(0.5))
    elif target == _DISPLAY:
        for n in range(out.shape[0]):
            out[n] = one * np.float32(below[n]) + other * np.float32(above[n])
    else:
        line = store[:, : out.shape[0]]
        for n in range(out.shape[0]):
            line[0, n] = one * np.float32(below[n]) + other * np.float32(above[n])
        linear_of_display_rows(line, out.reshape(1, -1), 0, 1)


@kernel
def _blend_rows(
    one: Any,
    other: Any,
    scale: Any,
    plane: Any,
    ramp: Any,
    way: Any,
    out: Any,
    first: int,
    end: int,
) -> None:
    width = out.shape[1] // 3
    store = np.empty((1, out.shape[1]), np.float32)
    shares, spread = np.empty(plane.shape[1], np.float32), np.empty(out.shape[1], np.float32)
    begin, stop = 0, 0
    for i in range(first, end):
        if i == first or plane.shape[0] > 1:
            _find_shares(plane[min(i, plane.shape[0] - 1)], ramp, shares)
            begin, stop = _uneven(shares)
            for j in range(begin, stop):
                spread[3 * j] = spread[3 * j + 1] = spread[3 * j + 2] = shares[j]
        below, above, row = one[i], other[i], out[i]
        if plane.shape[1] == 1:
            _mix(below, above, scale, shares[0], way, store, row)
            continue
        for left, right in ((0, 3 * begin), (3 * stop, 3 * width)):
            if left < right:
                part = slice(left, right)
                share = shares[left // 3]
                _mix(below[part], above[part], scale, share, way, store, row[part])
        if begin < stop:
            mid = slice(3 * begin, 3 * stop)
            _mix_unevenly(below[mid], above[mid], scale, spread[mid], way, store, row[mid])


@kernel
def _find_shares(plane: Any, ramp: Any, shares: Any) -> None:
    slope, start = ramp
    for j in range(shares.shape[0]):
        shares[j] = within(start + slope * plane[j])


@kernel
def _uneven(shares: Any) -> tuple[int, int]:
    """The part of a row between the runs of 0 or 1 that it begins and ends with."""
    begin, stop = 0, shares.shape[0]
    lead, tail = shares[0], shares[stop - 1]
    if lead in (0, 1):
        while begin < stop and shares[begin] == lead:
            begin += 1
    if tail in (0, 1):
        while stop > begin and shares[stop - 1] == tail:
            stop -= 1
    return begin, stop


@kernel
def _mix_unevenly(
    below: Any,
    above: Any,
    scale: Any,
    shares: Any,
    way: Any,
    store: Any,
    out: Any,
) -> None:
    """Part of a row, flat, at a share for each member."""
    target = way[0]
    line = store[:, : out.shape[0]]
    mixed = line[0]
    for n in range(out.shape[0]):
        a, b = np.float32(below[n]), np.float32(above[n])
        mixed[n] = scale * (a + shares[n] * (b - a))
    if target == _CODES:
        codes_of_display_rows(line, out.reshape(1, -1), 0, 1)
    elif target == _DISPLAY:
        copy(mixed, out)
    else:
        linear_of_display_rows(line, out.reshape(1, -1), 0, 1)
