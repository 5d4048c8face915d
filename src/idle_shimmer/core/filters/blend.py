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
from idle_shimmer.core.picture import Light, Picture
from idle_shimmer.core.transfer import linear_of_display_rows, within
from idle_shimmer.core.vectors import uncounted

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
        over_rows(_blend_unevenly, height, *flat, scale, plane, ramp, way, out, fewest=fewest)
    else:
        even, whole = np.float32(share), (0, width * 3)
        over_rows(_blend_evenly, height, *flat, scale, even, way, whole, out, fewest=fewest)
    return Picture(out.reshape(height, width, 3), light)


def _told_once(plane: NDArray[np.float32]) -> NDArray[np.float32]:
    """One row where all are alike by being one, one column likewise; contiguous."""
    plane = plane[:1].copy() if plane.strides[0] == 0 else plane
    plane = plane[:, :1].copy() if plane.strides[1] == 0 else plane
    return np.ascontiguousarray(plane, np.float32)


@kernel
def _blend_evenly(
    one: Any,
    other: Any,
    scale: Any,
    share: Any,
    way: Any,
    members: Any,
    out: Any,
    first: int,
    end: int,
) -> None:
    """The members from ``members[0]`` to before ``members[1]`` of each row, at one share."""
    one, other, out = uncounted(one), uncounted(other), uncounted(out)
    left, right = members
    target, as_they_are = way
    if as_they_are and share in (0, 1):
        whole = one if share == 0 else other
        for i in range(first, end):
            copy(whole[i][left:right], out[i][left:right])
    elif target == _CODES:
        for i in range(first, end):
            below, above = one[i][left:right], other[i][left:right]
            _evenly_to_codes(below, above, scale, share, out[i][left:right])
    elif target == _DISPLAY:
        for i in range(first, end):
            _evenly(one[i][left:right], other[i][left:right], scale, share, out[i][left:right])
    else:
        line = np.empty((1, right - left), np.float32)
        for i in range(first, end):
            _evenly(one[i][left:right], other[i][left:right], scale, share, line[0])
            linear_of_display_rows(line, out[i][left:right].reshape(1, -1), 0, 1)


@kernel
def _evenly(below: Any, above: Any, scale: Any, share: Any, out: Any) -> None:
    one, other = scale * (np.float32(1) - share), scale * share
    for n in range(out.shape[0]):
        out[n] = one * np.float32(below[n]) + other * np.float32(above[n])


@kernel
def _evenly_to_codes(below: Any, above: Any, scale: Any, share: Any, out: Any) -> None:
    one, other = scale * (np.float32(1) - share), scale * share
    for n in range(out.shape[0]):
        mixed = one * np.float32(below[n]) + other * np.float32(above[n])
        out[n] = np.uint8(within(mixed) * np.float32(255) + np.float32(0.5))


@kernel
def _blend_unevenly(
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
    length = out.shape[1]
    shares, spread = np.empty(plane.shape[1], np.float32), np.empty(length, np.float32)
    begin, stop = 0, 0
    i = first
    while i < end:
        if i == first or plane.shape[0] > 1:
            _find_shares(plane[min(i, plane.shape[0] - 1)], ramp, shares)
            begin, stop = _uneven(shares)
            for j in range(begin, stop):
                spread[3 * j] = spread[3 * j + 1] = spread[3 * j + 2] = shares[j]
        alike = end if plane.shape[0] == 1 else i + 1
        if plane.shape[1] == 1:
            _blend_evenly(one, other, scale, shares[0], way, (0, length), out, i, alike)
        else:
            lead, middle, tail = (0, 3 * begin), (3 * begin, 3 * stop), (3 * stop, length)
            if begin > 0:
                _blend_evenly(one, other, scale, shares[0], way, lead, out, i, alike)
            if begin < stop:
                _blend_each(one, other, scale, spread, way, middle, out, i, alike)
            if 3 * stop < length:
                _blend_evenly(one, other, scale, shares[stop], way, tail, out, i, alike)
        i = alike


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
def _blend_each(
    one: Any,
    other: Any,
    scale: Any,
    shares: Any,
    way: Any,
    members: Any,
    out: Any,
    first: int,
    end: int,
) -> None:
    """The members from ``members[0]`` to before ``members[1]`` of each row, each at its share."""
    one, other, out = uncounted(one), uncounted(other), uncounted(out)
    left, right = members
    target, own = way[0], shares[left:right]
    if target == _CODES:
        for i in range(first, end):
            below, above = one[i][left:right], other[i][left:right]
            _unevenly_to_codes(below, above, scale, own, out[i][left:right])
    elif target == _DISPLAY:
        for i in range(first, end):
            _unevenly(one[i][left:right], other[i][left:right], scale, own, out[i][left:right])
    else:
        line = np.empty((1, right - left), np.float32)
        for i in range(first, end):
            _unevenly(one[i][left:right], other[i][left:right], scale, own, line[0])
            linear_of_display_rows(line, out[i][left:right].reshape(1, -1), 0, 1)


@kernel
def _unevenly(below: Any, above: Any, scale: Any, shares: Any, out: Any) -> None:
    for n in range(out.shape[0]):
        a, b = np.float32(below[n]), np.float32(above[n])
        out[n] = scale * (a + shares[n] * (b - a))


@kernel
def _unevenly_to_codes(below: Any, above: Any, scale: Any, shares: Any, out: Any) -> None:
    for n in range(out.shape[0]):
        a, b = np.float32(below[n]), np.float32(above[n])
        mixed = scale * (a + shares[n] * (b - a))
        out[n] = np.uint8(within(mixed) * np.float32(255) + np.float32(0.5))
