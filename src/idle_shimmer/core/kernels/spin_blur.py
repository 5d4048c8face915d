"""Spin blur about a centre, at a cost that hardly grows with its strength.

Pictures are float32 (H, W, 3), in any encoding, without clamping; beyond the frame lies the mirrored
picture (half-sample symmetric). The result averages uniformly over rotations of -a/2 … +a/2 of the
picture about the centre.

The picture is resampled along rings one pixel apart, where the blur is a difference of two running
integrals of the linear interpolant, and the result is sampled from there: cubically across the rings,
linearly along them, where it is smooth. Of a ring only the arcs are read that the frame's own pixels
average. Near the centre, where the blur is only a few pixels long, samples are averaged one by one
(``about_centre``). Of rings only the sector that the frame covers is kept, and a large frame is
computed in quarters: wherever the centre lies, at 3840×2160 they take about 0.3 GB.
"""

import cmath
import math
from typing import Any, NamedTuple

import numpy as np

from idle_shimmer.core.compute.jit import inlined, kernel
from idle_shimmer.core.compute.parallel import parallel_rows, threads
from idle_shimmer.core.kernels.about_centre import SHORT_PX, Frame, average_near, read
from idle_shimmer.core.picture.encoding import Pixels
from idle_shimmer.core.picture.resampling import cubic_weights, sum_pixels

# Frames that reach farther from a centre inside them are computed in quarters.
_WHOLE_REACH_PX = 2300.0
# Pixels around the frame whose rings are read, for interpolation.
_ROOM_PX = 4.0


class _Tile(NamedTuple):
    """A part of the frame, in whole pixels; ends are exclusive."""

    left: int
    right: int
    top: int
    bottom: int


class _Sector(NamedTuple):
    """What a tile covers, seen from the centre: from a turn (0…1) for a span, and distances in px."""

    turn: float
    span: float
    near: float
    far: float


class _Rings(NamedTuple):
    """The kept part of each ring from ``first_radius`` on.

    Ring i has ``counts[i]`` samples around the circle (``lengths``, as float64); those from ``firsts[i]`` on
    begin at ``starts[i]``. They are computed in ``order``: long and short ones for each thread.
    """

    first_radius: int
    counts: Any
    lengths: Any
    firsts: Any
    starts: Any
    order: Any


def spin(pixels: Pixels, *, amount_deg: float, centre: tuple[float, float]) -> Pixels:
    """Return the average over rotations of ±amount/2 degrees (amount in 0…360) about ``centre``.

    ``centre`` is in pixels, x right, y down, inside the frame or outside.
    """
    pixels = np.ascontiguousarray(pixels)
    if amount_deg == 0:
        return pixels.copy()
    frame = Frame(pixels.shape[1], pixels.shape[0], *centre)
    amount = math.radians(amount_deg)
    out = np.empty_like(pixels)
    flat = pixels.reshape(-1)
    for tile in _tiles(frame):
        sector = _sector(frame, tile)
        if amount * sector.far <= SHORT_PX:
            continue
        rings, samples = _rings_in(sector)
        # One pixel more: sums read a float too many.
        table = np.empty((samples + 1, 3), np.float32)
        parallel_rows(_fill_rings, rings.counts.size, flat, (frame, tile), rings, amount, table)
        parallel_rows(_put_tile, tile.bottom - tile.top, table.reshape(-1), frame, tile, rings, out)
    average_near(pixels, frame, amount, out, is_turned=True)
    return out


def _rings_in(sector: _Sector) -> tuple[_Rings, int]:
    """Return the rings of a sector, and how many samples are kept of all of them."""
    # One ring ahead of the nearest and two behind the farthest, for interpolation across.
    first_radius = max(0, int(sector.near) - 1)
    radii = np.arange(first_radius, math.ceil(sector.far) + 4)
    counts = np.maximum(8, np.ceil(math.tau * radii)).astype(np.int64)
    firsts = np.floor(sector.turn * counts).astype(np.int64)
    kept = np.minimum(counts, np.ceil(sector.span * counts).astype(np.int64) + 1)
    # Three more samples at the end of each, for interpolation.
    starts = np.concatenate([[0], np.cumsum(kept + 3)]).astype(np.int64)
    order = np.concatenate([np.arange(n, radii.size, threads()) for n in range(threads())])
    rings = _Rings(first_radius, counts, counts.astype(np.float64), firsts, starts, order)
    return rings, int(starts[-1])


def _tiles(frame: Frame) -> list[_Tile]:
    """Return the frame whole, or a large one in quarters around the centre."""
    corners = ((x, y) for x in (0, frame.width) for y in (0, frame.height))
    centre = frame.centre_x, frame.centre_y
    if max(math.dist(centre, corner) for corner in corners) <= _WHOLE_REACH_PX:
        return [_Tile(0, frame.width, 0, frame.height)]
    x = min(max(math.ceil(frame.centre_x - 0.5), 0), frame.width)
    y = min(max(math.ceil(frame.centre_y - 0.5), 0), frame.height)
    columns, rows = ((0, x), (x, frame.width)), ((0, y), (y, frame.height))
    tiles = (_Tile(*one, *other) for one in columns for other in rows)
    return [tile for tile in tiles if tile.left < tile.right and tile.top < tile.bottom]


def _sector(frame: Frame, tile: _Tile) -> _Sector:
    """Return what the pixels of a tile cover, seen from the centre of the blur."""
    left, right = (x + 0.5 - frame.centre_x for x in (tile.left, tile.right - 1))
    top, bottom = (y + 0.5 - frame.centre_y for y in (tile.top, tile.bottom - 1))
    corners = [complex(x, y) for x in (left, right) for y in (top, bottom)]
    far = max(map(abs, corners))
    if left < 0 < right and top < 0 < bottom:
        return _Sector(0.0, 1.0, 0.0, far)
    near = math.hypot(max(left, -right, 0.0), max(top, -bottom, 0.0))
    middle = complex(left + right, top + bottom) / 2 or 1
    apart = [cmath.phase(corner / middle) / math.tau for corner in corners]
    turn = (cmath.phase(middle) / math.tau + min(apart)) % 1.0
    return _Sector(turn, max(apart) - min(apart), near, far)


@kernel
def _fill_rings(
    source: Any, view: Any, rings: Any, amount: float, table: Any, first: int, end: int
) -> None:
    """Fill the table (samples, 3) of averages along the kept part of rings ``first`` … ``end``.

    ``view`` is (frame, tile).
    """
    frame, tile = view
    most = 0
    for n in range(first, end):
        i = rings.order[n]
        half = 0.5 * amount / (2 * math.pi) * rings.counts[i]
        kept = rings.starts[i + 1] - rings.starts[i]
        most = max(most, kept + 2 * (int(half) + 2) + 1)
    xs, ys = np.empty(most), np.empty(most)
    wanted = np.empty(most, np.int64)
    line, sums = np.empty((most, 3), np.float32), np.empty((most + 1, 3))
    for n in range(first, end):
        i = rings.order[n]
        radius, count = rings.first_radius + i, rings.counts[i]
        start, kept = rings.starts[i], rings.starts[i + 1] - rings.starts[i]
        half = 0.5 * amount / (2 * math.pi) * count
        margin = int(half) + 2
        length = kept + 2 * margin + 1
        _place_ring(frame, radius, count, rings.firsts[i] - margin, length, xs, ys)
        _mark_wanted(tile, margin, length, xs, ys, wanted)
        _read_ring(source, frame, count, length, (xs, ys), wanted, line)
        for c in range(3):
            sums[0, c] = 0.0
        for k in range(length - 1):
            for c in range(3):
                sums[k + 1, c] = sums[k, c] + 0.5 * (line[k, c] + line[k + 1, c])
        _difference(line, sums, half, margin, kept, table[start : start + kept])


@inlined
def _place_ring(
    frame: Any, radius: int, count: int, begin: int, length: int, xs: Any, ys: Any
) -> None:
    """Write where the samples of a ring from number ``begin`` on lie, in pixels of the frame."""
    angle, step = 2 * math.pi * begin / count, 2 * math.pi / count
    u, v = radius * math.cos(angle), radius * math.sin(angle)
    cosine, sine = math.cos(step), math.sin(step)
    for k in range(length):
        xs[k], ys[k] = frame.centre_x + u, frame.centre_y + v
        u, v = u * cosine - v * sine, u * sine + v * cosine


@inlined
def _mark_wanted(tile: Any, reach: int, length: int, xs: Any, ys: Any, wanted: Any) -> None:
    """Mark the samples that an average in the tile needs: within ``reach`` samples of one inside it."""
    left, right = tile.left - _ROOM_PX, tile.right + _ROOM_PX
    top, bottom = tile.top - _ROOM_PX, tile.bottom + _ROOM_PX
    since = length
    for k in range(length):
        inside = left <= xs[k] <= right and top <= ys[k] <= bottom
        since = 0 if inside else since + 1
        wanted[k] = since
    until = length
    for k in range(length - 1, -1, -1):
        until = 0 if wanted[k] == 0 else until + 1
        wanted[k] = 1 if min(wanted[k], until) <= reach else 0


@inlined
def _read_ring(
    source: Any, frame: Any, count: int, length: int, points: Any, wanted: Any, line: Any
) -> None:
    """Read the wanted samples of a ring; after a whole round they repeat."""
    xs, ys = points
    for k in range(length):
        if wanted[k] == 0:
            line[k, 0], line[k, 1], line[k, 2] = np.float32(0), np.float32(0), np.float32(0)
        elif k >= count and wanted[k - count] == 1:
            line[k, 0], line[k, 1], line[k, 2] = (
                line[k - count, 0],
                line[k - count, 1],
                line[k - count, 2],
            )
        else:
            red, green, blue = read(source, frame, xs[k], ys[k])
            line[k, 0], line[k, 1], line[k, 2] = red, green, blue


@inlined
def _difference(line: Any, sums: Any, half: float, margin: int, kept: int, out: Any) -> None:
    """Write the average over ``half`` samples on each side, from sample ``margin`` on.

    Every average ends at the same fraction between two samples: its four end weights are the same.
    """
    whole = int(half)
    f = half - whole
    # From sample n - whole - 1 + (1 - f) up to n + whole + f.
    share = 1 / (2 * half)
    upper, lower = margin + whole, margin - whole - 1
    g = 1 - f
    a, b = share * f * (1 - 0.5 * f), share * 0.5 * f * f
    c, d = share * g * (1 - 0.5 * g), share * 0.5 * g * g
    for k in range(kept):
        for n in range(3):
            ends = a * line[upper + k, n] + b * line[upper + k + 1, n]
            ends -= c * line[lower + k, n] + d * line[lower + k + 1, n]
            inner = share * (sums[upper + k, n] - sums[lower + k, n])
            out[k, n] = np.float32(inner + ends)


@kernel
def _put_tile(
    table: Any, frame: Any, tile: Any, rings: Any, out: Any, first: int, end: int
) -> None:
    """Write rows of a tile, interpolated cubically across the rings and linearly along them."""
    width = tile.right - tile.left
    distances, turns = np.empty(width), np.empty(width)
    for i in range(tile.top + first, tile.top + end):
        _polar_row(frame, i + 0.5 - frame.centre_y, tile.left, distances, turns)
        for n in range(width):
            ring, turn = int(distances[n]), turns[n]
            a, b, c, d = cubic_weights(np.float32(distances[n] - ring))
            ring -= rings.first_radius
            ka, fa = _on_ring(rings, abs(ring + rings.first_radius - 1) - rings.first_radius, turn)
            kb, fb = _on_ring(rings, ring, turn)
            kc, fc = _on_ring(rings, ring + 1, turn)
            kd, fd = _on_ring(rings, ring + 2, turn)
            ga, gb, gc, gd = a * fa, b * fb, c * fc, d * fd
            j = tile.left + n
            out[i, j, 0], out[i, j, 1], out[i, j, 2] = sum_pixels(
                table,
                (ka, ka + 3, kb, kb + 3, kc, kc + 3, kd, kd + 3),
                (a - ga, ga, b - gb, gb, c - gc, gc, d - gd, gd),
            )


@inlined
def _on_ring(rings: Any, ring: int, turn: float) -> tuple[Any, Any]:
    """Return the first float of the sample at or before a turn (0…1) of a ring, and the fraction after it."""
    at = turn * rings.lengths[ring]
    k = int(at)
    f = np.float32(at - k)
    k -= rings.firsts[ring]
    if k < 0:
        k += rings.counts[ring]
    return 3 * (k + rings.starts[ring]), f


@inlined
def _polar_row(frame: Any, y: float, left: int, distances: Any, turns: Any) -> None:
    """Write the distance and the turn (0…1) of a row of pixels; without branches it is vectorised.

    The arctangent is the odd polynomial of Abramowitz and Stegun 4.4.49 (from memory): within 2e-8.
    """
    for n in range(distances.shape[0]):
        x = left + n + 0.5 - frame.centre_x
        distances[n] = math.sqrt(x * x + y * y)
        across, down = abs(x), abs(y)
        t = min(across, down) / max(max(across, down), 1e-9)
        q = t * t
        p = 0.0028662257 * q - 0.0161657367
        p = p * q + 0.0429096138
        p = p * q - 0.0752896400
        p = p * q + 0.1065626393
        p = p * q - 0.1420889944
        p = p * q + 0.1999355085
        p = p * q - 0.3333314528
        angle = (p * q + 1.0) * t * (0.5 / math.pi)
        angle = 0.25 - angle if down > across else angle
        angle = 0.5 - angle if x < 0 else angle
        turns[n] = (1.0 - angle if angle > 0 else 0.0) if y < 0 else angle
