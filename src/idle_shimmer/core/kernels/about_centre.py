"""What zoom and spin blur share: the sides of a frame around a centre, and short blurs.

Points are pixels, x right, y down, from the frame's corner or from the centre.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any, NamedTuple

import numpy as np

from idle_shimmer.core.compute.jit import inlined, kernel
from idle_shimmer.core.compute.parallel import parallel_rows
from idle_shimmer.core.geometry.edge_modes import MIRROR, fold
from idle_shimmer.core.geometry.sampling import sample
from idle_shimmer.core.picture.encoding import Pixels

# Blurs up to the first length, in pixels, are averaged sample by sample; from the second on they are
# integrated; in between one fades into the other.
SHORT_PX, LONG_PX = 3.5, 5.0
# Columns that are transposed together.
_BLOCK = 16


class Frame(NamedTuple):
    """Frame size and centre in pixels."""

    width: int
    height: int
    centre_x: float
    centre_y: float


class SideForm(NamedTuple):
    """What a kernel knows of a side: see ``Side``."""

    is_across: bool
    towards: int
    nearest: float


@dataclass(frozen=True)
class Side:
    """The part of a frame that is seen from ``centre`` in one of four directions, between two diagonals.

    Its lines are rows of the picture, or columns where it ``is_across``, to the left or right of the
    centre: ``lines`` of them from ``first_row`` on, one after another ``towards`` (+1 or -1). ``nearest`` is
    the first line's distance from the centre. Its pixels lie at slopes ``low`` … ``high`` across the lines;
    ``left`` and ``right`` are the ends of the lines, from the centre, ``across_centre`` is the centre's coordinate along a line.
    """

    centre: tuple[float, float]
    is_across: bool
    towards: int
    first_row: int
    lines: int
    nearest: float
    low: float
    high: float
    left: float
    right: float

    def distance(self, line: Any) -> Any:
        """Return the distance of a line from the centre, in lines."""
        return self.nearest + line

    def part(self, begin: int, end: int) -> "Side":
        """Return its lines ``begin`` … ``end``, exclusive."""
        nearest = self.distance(begin)
        low, high = _slopes((self.left, self.right), nearest, self.distance(end - 1))
        first_row = self.first_row + self.towards * begin
        changed = {"first_row": first_row, "lines": end - begin, "nearest": nearest}
        return replace(self, low=low, high=high, **changed)

    @property
    def across_centre(self) -> float:
        """The centre's coordinate along a line."""
        return self.centre[1] if self.is_across else self.centre[0]

    @property
    def reach(self) -> float:
        """The distance from the centre to the farthest pixel, in pixels."""
        return float(self.distance(self.lines - 1) * math.hypot(1, max(-self.low, self.high)))

    @property
    def form(self) -> SideForm:
        """What a kernel needs of it."""
        return SideForm(self.is_across, self.towards, self.nearest)


def sides_of(width: int, height: int, centre: tuple[float, float]) -> Iterator[Side]:
    """Yield the sides of a frame that have pixels."""
    for is_across in (False, True):
        rows, columns = (width, height) if is_across else (height, width)
        middle, across = centre if is_across else centre[::-1]
        for towards in (-1, 1):
            # The first line strictly on this side of the centre, of those in the picture.
            first = math.ceil(middle - 1.5) if towards < 0 else math.floor(middle + 0.5)
            first = min(first, rows - 1) if towards < 0 else max(first, 0)
            lines = first + 1 if towards < 0 else rows - first
            nearest = (first + 0.5 - middle) * towards
            if lines <= 0:
                continue
            ends = (0.5 - across, columns - 0.5 - across)
            low, high = _slopes(ends, nearest, nearest + lines - 1)
            if low <= high:
                yield Side(centre, is_across, towards, first, lines, nearest, low, high, *ends)


def _slopes(ends: tuple[float, float], nearest: float, farthest: float) -> tuple[float, float]:
    """Return the slopes of all pixels of some lines whose ends lie at ``ends``, between the diagonals."""
    begin, end = ends
    low = begin / (nearest if begin < 0 else farthest)
    high = end / (nearest if end > 0 else farthest)
    return max(-1.0, low), min(1.0, high)


def transposed(pixels: Pixels) -> Pixels:
    """Return the picture (W, H, 3) whose rows are the columns of ``pixels`` (H, W, 3)."""
    height, width = pixels.shape[:2]
    out = np.empty((width, height, 3), np.float32)
    parallel_rows(_transpose, -(-width // _BLOCK), pixels, out)
    return out


@kernel
def _transpose(pixels: Any, out: Any, first: int, end: int) -> None:
    for block in range(first, end):
        left, right = block * _BLOCK, min(out.shape[0], (block + 1) * _BLOCK)
        for i in range(out.shape[1]):
            for j in range(left, right):
                out[j, i, 0], out[j, i, 1], out[j, i, 2] = (
                    pixels[i, j, 0],
                    pixels[i, j, 1],
                    pixels[i, j, 2],
                )


@inlined
def read(source: Any, frame: Any, x: float, y: float) -> tuple[Any, Any, Any]:
    """Return the cubic interpolation at a point of the frame, mirrored beyond it."""
    x, y = fold(x, frame.width, MIRROR) - 0.5, fold(y, frame.height, MIRROR) - 0.5
    return sample(source, 0, frame.height, frame.width, x, y, MIRROR)


def average_near(
    pixels: Pixels, frame: Frame, amount: float, out: Pixels, *, is_turned: bool
) -> None:
    """Write the pixels near the centre, whose blur is short, into ``out``: samples averaged one by one.

    ``amount`` is the spread of scales, or of angles in radians where the blur ``is_turned``.
    """
    parallel_rows(_average_rows, frame.height, pixels.reshape(-1), frame, amount, is_turned, out)


@kernel
def _average_rows(
    source: Any, frame: Any, amount: float, is_turned: bool, out: Any, first: int, end: int
) -> None:
    radius = LONG_PX / amount
    for i in range(first, end):
        y = i + 0.5 - frame.centre_y
        if abs(y) >= radius:
            continue
        reach = math.sqrt(radius * radius - y * y)
        begin = max(0, int(math.ceil(frame.centre_x - 0.5 - reach)))
        stop = min(out.shape[1], int(math.floor(frame.centre_x - 0.5 + reach)) + 1)
        for j in range(begin, stop):
            x = j + 0.5 - frame.centre_x
            length = amount * math.sqrt(x * x + y * y)
            r, g, b = _average(source, frame, x, y, amount, length, is_turned)
            share = np.float32(max(0.0, (length - SHORT_PX) / (LONG_PX - SHORT_PX)))
            if share == 0:
                out[i, j, 0], out[i, j, 1], out[i, j, 2] = r, g, b
            else:
                out[i, j, 0] = r + share * (out[i, j, 0] - r)
                out[i, j, 1] = g + share * (out[i, j, 1] - g)
                out[i, j, 2] = b + share * (out[i, j, 2] - b)


@inlined
def _average(
    source: Any, frame: Any, x: float, y: float, amount: float, length: float, is_turned: bool
) -> tuple[Any, Any, Any]:
    """Return the average over scales, or rotations, of ±amount/2, of samples about a pixel apart."""
    count = int(math.ceil(length)) + 1
    red, green, blue = np.float32(0), np.float32(0), np.float32(0)
    for n in range(count):
        at = amount * ((n + 0.5) / count - 0.5)
        if is_turned:
            cosine, sine = math.cos(at), math.sin(at)
            u, v = x * cosine - y * sine, x * sine + y * cosine
        else:
            u, v = x / (1 + at), y / (1 + at)
        r, g, b = read(source, frame, frame.centre_x + u, frame.centre_y + v)
        red += r
        green += g
        blue += b
    share = np.float32(1 / count)
    return red * share, green * share, blue * share
