"""Zoom and spin blur about a centre, at a cost that does not grow with their strength.

Pictures are float32 (H, W, 3), in any encoding, without clamping; beyond the frame lies the mirrored
picture (half-sample symmetric). ``zoom`` averages uniformly over scales 1 - a/2 … 1 + a/2 of the
picture about the centre, ``spin`` over rotations of -a/2 … +a/2. Points are pixels, x right, y down.

The picture is resampled along rays (zoom) or rings (spin) one pixel apart, where either blur is a
difference of two running integrals, and sampled from there. Near the centre, where the blur is only
a few pixels long, its samples are averaged one by one instead. Of rays and rings only the sector that
the frame covers is kept, and a large frame is computed in quarters: wherever the centre lies, at
3840×2160 they take about 0.3 GB.
"""

import cmath
import math
from typing import Any, NamedTuple

import numpy as np

from idle_shimmer.core.compute.jit import inlined, kernel
from idle_shimmer.core.compute.parallel import parallel_rows
from idle_shimmer.core.geometry.edges import MIRROR, fold
from idle_shimmer.core.geometry.sampling import sample
from idle_shimmer.core.picture.encoding import Pixels
from idle_shimmer.core.picture.resampling import cubic_weights

# Blurs up to the first length, in pixels, are averaged sample by sample; from the second on they
# come from rays or rings; in between one fades into the other.
SHORT_PX, LONG_PX = 3.0, 4.5
_ZOOM, _SPIN = 0, 1
# Rays are this many pixels apart at the farthest corner; nearer, they are denser.
_RAY_SPACING_PX = 1.3
# Frames that reach farther from a centre inside them are computed in quarters.
_WHOLE_REACH_PX = 2300.0


class _Blur(NamedTuple):
    """Frame size and centre in pixels, the amount as a share or in radians, zoom or spin."""

    width: int
    height: int
    centre_x: float
    centre_y: float
    amount: float
    style: int


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


class _Rays(NamedTuple):
    """The kept rays: from ``first`` on, of ``in_circle``; and the first radius of each."""

    in_circle: int
    first: int
    first_radius: int


class _Rings(NamedTuple):
    """The kept part of each ring from ``first_radius`` on.

    Ring i has ``counts[i]`` samples around the circle; those from ``firsts[i]`` on begin at ``starts[i]``.
    """

    first_radius: int
    counts: Any
    firsts: Any
    starts: Any


_NO_RAYS = _Rays(1, 0, 0)
_NO_RINGS = _Rings(0, *(np.zeros(2, np.int64) for _ in range(3)))


class _Integrals(NamedTuple):
    """The parts of the zoom's integrals that are the same on every ray; see ``_zoom_integrals``."""

    nodes: Any
    ends: Any


def zoom(pixels: Pixels, *, amount: float, centre: tuple[float, float]) -> Pixels:
    """Return the average over scales 1 - amount/2 … 1 + amount/2 (amount in 0…1.9) about ``centre``."""
    pixels = np.ascontiguousarray(pixels)
    height, width = pixels.shape[:2]
    blur = _Blur(width, height, *centre, amount, _ZOOM)
    out = np.empty_like(pixels)
    for tile in _tiles(blur):
        _zoom_tile(pixels, blur, tile, out)
    return out


def spin(pixels: Pixels, *, amount_deg: float, centre: tuple[float, float]) -> Pixels:
    """Return the average over rotations of ±amount/2 degrees (amount in 0…360) about ``centre``."""
    pixels = np.ascontiguousarray(pixels)
    height, width = pixels.shape[:2]
    blur = _Blur(width, height, *centre, math.radians(amount_deg), _SPIN)
    out = np.empty_like(pixels)
    for tile in _tiles(blur):
        _spin_tile(pixels, blur, tile, out)
    return out


def _zoom_tile(pixels: Pixels, blur: _Blur, tile: _Tile, out: Pixels) -> None:
    in_circle = 4 * math.ceil(math.pi / 2 * _reach(blur) / _RAY_SPACING_PX)
    sector = _sector(blur, tile)
    first = math.floor(sector.turn * in_circle)
    kept = min(in_circle, math.ceil(sector.span * in_circle) + 1)
    # One ray ahead and two behind, for interpolation.
    rays = _Rays(in_circle, first - 1, max(0, int(sector.near) - 1))
    radii = math.ceil(sector.far) + 3
    table = np.zeros((kept + 3, radii - rays.first_radius, 3), np.float32)
    if blur.amount * sector.far > SHORT_PX:
        integrals = _zoom_integrals(radii, blur.amount)
        parallel_rows(_fill_rays, kept + 3, pixels.reshape(-1), blur, integrals, rays, table)
    _resample(pixels, table, rays, _NO_RINGS, blur, tile, out)


def _spin_tile(pixels: Pixels, blur: _Blur, tile: _Tile, out: Pixels) -> None:
    sector = _sector(blur, tile)
    rings, samples = _rings_in(sector)
    table = np.zeros((1, samples, 3), np.float32)
    if blur.amount * sector.far > SHORT_PX:
        parallel_rows(_fill_rings, rings.counts.size, pixels.reshape(-1), blur, rings, table)
    _resample(pixels, table, _NO_RAYS, rings, blur, tile, out)


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
    return _Rings(first_radius, counts, firsts, starts), int(starts[-1])


def _reach(blur: _Blur) -> float:
    """Return the distance from the centre to the farthest corner, in pixels."""
    corners = ((x, y) for x in (0, blur.width) for y in (0, blur.height))
    return max(math.dist((blur.centre_x, blur.centre_y), corner) for corner in corners)


def _tiles(blur: _Blur) -> list[_Tile]:
    """Return the frame whole, or a large one in quarters around the centre."""
    if _reach(blur) <= _WHOLE_REACH_PX:
        return [_Tile(0, blur.width, 0, blur.height)]
    x = min(max(math.ceil(blur.centre_x - 0.5), 0), blur.width)
    y = min(max(math.ceil(blur.centre_y - 0.5), 0), blur.height)
    columns, rows = ((0, x), (x, blur.width)), ((0, y), (y, blur.height))
    tiles = (_Tile(*one, *other) for one in columns for other in rows)
    return [tile for tile in tiles if tile.left < tile.right and tile.top < tile.bottom]


def _sector(blur: _Blur, tile: _Tile) -> _Sector:
    """Return what the pixels of a tile cover, seen from the centre of the blur."""
    left, right = (x + 0.5 - blur.centre_x for x in (tile.left, tile.right - 1))
    top, bottom = (y + 0.5 - blur.centre_y for y in (tile.top, tile.bottom - 1))
    corners = [complex(x, y) for x in (left, right) for y in (top, bottom)]
    far = max(map(abs, corners))
    if left < 0 < right and top < 0 < bottom:
        return _Sector(0.0, 1.0, 0.0, far)
    near = math.hypot(max(left, -right, 0.0), max(top, -bottom, 0.0))
    middle = complex(left + right, top + bottom) / 2 or 1
    apart = [cmath.phase(corner / middle) / math.tau for corner in corners]
    turn = (cmath.phase(middle) / math.tau + min(apart)) % 1.0
    return _Sector(turn, max(apart) - min(apart), near, far)


def _resample(
    pixels: Pixels,
    table: Pixels,
    rays: _Rays,
    rings: _Rings,
    blur: _Blur,
    tile: _Tile,
    out: Pixels,
) -> None:
    rows = tile.bottom - tile.top
    parallel_rows(_resample_rows, rows, pixels.reshape(-1), table, rays, rings, blur, tile, out)


def _zoom_integrals(radii: int, amount: float) -> _Integrals:
    """Return what of the zoom's integrals is the same on every ray.

    With r' = r/s the average over s is (r/a) times the integral of f(r')/r'² over r/s2 … r/s1. On a
    piece m … m+1 where f is p + q·r', that of p/r'² + q/r' has the members below. Rows of ``nodes``:
    (1/m - 1/(m+1), ln((m+1)/m)); of ``ends``: for each radius both limits as (m, 1/m - 1/x, ln(x/m)).
    """
    low, high = 1 - amount / 2, 1 + amount / 2
    farthest = math.ceil(radii / low) + 2
    m = np.arange(1, farthest + 1, dtype=np.float64)
    nodes = np.zeros((farthest + 1, 2))
    nodes[1:, 0], nodes[1:, 1] = 1 / m - 1 / (m + 1), np.log((m + 1) / m)
    ends = np.zeros((radii, 6))
    radius = np.maximum(np.arange(radii, dtype=np.float64), 1.0)
    for column, scale in ((0, high), (3, low)):
        x = np.maximum(radius / scale, 1.0)
        whole = np.floor(x)
        ends[:, column] = whole
        ends[:, column + 1], ends[:, column + 2] = 1 / whole - 1 / x, np.log(x / whole)
    return _Integrals(nodes, ends)


@inlined
def _read(source: Any, blur: Any, x: float, y: float) -> tuple[Any, Any, Any]:
    """Return the cubic interpolation at a point in pixels, mirrored beyond the frame."""
    x, y = fold(x, blur.width, MIRROR) - 0.5, fold(y, blur.height, MIRROR) - 0.5
    return sample(source, 0, blur.height, blur.width, x, y, MIRROR)


@inlined
def _length_inside(along: float, at: float, size: float) -> float:
    """Return how far a ray goes in one coordinate before it is two pixels outside the frame."""
    if along > 1e-9:
        return (size + 2 - at) / along
    return (-2 - at) / along if along < -1e-9 else 1e9


@kernel
def _fill_rays(
    source: Any, blur: Any, integrals: Any, rays: Any, polar: Any, first: int, end: int
) -> None:
    nodes, ends = integrals.nodes, integrals.ends
    radii = polar.shape[1] + rays.first_radius
    line = np.empty((nodes.shape[0] + 1, 3))
    sums = np.zeros((nodes.shape[0] + 1, 3))
    for k in range(first, end):
        angle = 2 * math.pi * (rays.first + k) / rays.in_circle
        cosine, sine = math.cos(angle), math.sin(angle)
        inside = min(
            _length_inside(cosine, blur.centre_x, blur.width),
            _length_inside(sine, blur.centre_y, blur.height),
        )
        last = min(radii - 1, max(2, int(inside) + 2))
        farthest = min(nodes.shape[0] - 1, int(ends[last, 3]) + 2)
        for m in range(1, farthest + 1):
            line[m] = _read(source, blur, blur.centre_x + m * cosine, blur.centre_y + m * sine)
        for m in range(1, farthest):
            for c in range(3):
                slope = line[m + 1, c] - line[m, c]
                constant = (line[m, c] - slope * m) * nodes[m, 0]
                sums[m + 1, c] = sums[m, c] + constant + slope * nodes[m, 1]
        for r in range(rays.first_radius, last + 1):
            scale = max(r, 1) / blur.amount
            for c in range(3):
                low = _ray_integral(line, sums, ends[r, :3], c)
                high = _ray_integral(line, sums, ends[r, 3:], c)
                polar[k, r - rays.first_radius, c] = np.float32(scale * (high - low))


@inlined
def _ray_integral(line: Any, sums: Any, limit: Any, c: int) -> float:
    """Return the integral along a ray up to a limit, (m, 1/m - 1/x, ln(x/m))."""
    m = int(limit[0])
    slope = line[m + 1, c] - line[m, c]
    return sums[m, c] + (line[m, c] - slope * m) * limit[1] + slope * limit[2]


@kernel
def _fill_rings(source: Any, blur: Any, rings: Any, table: Any, first: int, end: int) -> None:
    for i in range(first, end):
        r, count = rings.first_radius + i, rings.counts[i]
        start, kept = rings.starts[i], rings.starts[i + 1] - rings.starts[i]
        line = np.empty((count, 3))
        sums = np.zeros((count + 1, 3))
        for k in range(count):
            angle = 2 * math.pi * k / count
            x, y = blur.centre_x + r * math.cos(angle), blur.centre_y + r * math.sin(angle)
            line[k] = _read(source, blur, x, y)
        # The integral of the linear interpolant around the ring, from node 0 to node k.
        for k in range(count):
            for c in range(3):
                sums[k + 1, c] = sums[k, c] + 0.5 * (line[k, c] + line[(k + 1) % count, c])
        half = 0.5 * blur.amount / (2 * math.pi) * count
        for k in range(kept):
            at = rings.firsts[i] + k
            for c in range(3):
                upper = _ring_integral(line, sums, at + half, c)
                lower = _ring_integral(line, sums, at - half, c)
                table[0, start + k, c] = np.float32((upper - lower) / (2 * half))


@inlined
def _ring_integral(line: Any, sums: Any, at: float, c: int) -> float:
    """Return the integral around a ring from node 0 to ``at`` nodes, any number of rounds."""
    count = line.shape[0]
    rounds = math.floor(at / count)
    at -= rounds * count
    k = min(int(at), count - 1)
    f = at - k
    here, there = line[k, c], line[(k + 1) % count, c]
    return rounds * sums[count, c] + sums[k, c] + f * (here + 0.5 * f * (there - here))


@kernel
def _resample_rows(
    source: Any,
    table: Any,
    rays: Any,
    rings: Any,
    blur: Any,
    tile: Any,
    out: Any,
    first: int,
    end: int,
) -> None:
    for i in range(tile.top + first, tile.top + end):
        for j in range(tile.left, tile.right):
            x, y = j + 0.5 - blur.centre_x, i + 0.5 - blur.centre_y
            r = math.sqrt(x * x + y * y)
            length = r * blur.amount
            share = min(max((length - SHORT_PX) / (LONG_PX - SHORT_PX), 0.0), 1.0)
            red, green, blue = np.float32(0), np.float32(0), np.float32(0)
            if share > 0:
                angle = math.atan2(y, x)
                turn = (angle if angle >= 0 else angle + 2 * math.pi) / (2 * math.pi)
                if blur.style == _ZOOM:
                    red, green, blue = _from_rays(table, rays, r, turn)
                else:
                    red, green, blue = _from_rings(table[0], rings, r, turn)
            if share < 1:
                r1, g1, b1 = _short_average(source, blur, x, y, length)
                s = np.float32(share)
                red, green, blue = r1 + s * (red - r1), g1 + s * (green - g1), b1 + s * (blue - b1)
            out[i, j, 0], out[i, j, 1], out[i, j, 2] = red, green, blue


@inlined
def _from_rays(polar: Any, rays: Any, r: float, turn: float) -> tuple[Any, Any, Any]:
    """Interpolate cubically across the rays, linearly along them, where the picture is smooth."""
    at = turn * rays.in_circle
    k, m = int(math.floor(at)), int(r)
    w = cubic_weights(np.float32(at - k))
    f = np.float32(r - m)
    k -= 1 + rays.first
    if k < 0:
        k += rays.in_circle
    m -= rays.first_radius
    red, green, blue = np.float32(0), np.float32(0), np.float32(0)
    for n in range(4):
        near, far = polar[k + n, m], polar[k + n, m + 1]
        red += w[n] * (near[0] + f * (far[0] - near[0]))
        green += w[n] * (near[1] + f * (far[1] - near[1]))
        blue += w[n] * (near[2] + f * (far[2] - near[2]))
    return red, green, blue


@inlined
def _from_rings(table: Any, rings: Any, r: float, turn: float) -> tuple[Any, Any, Any]:
    """Interpolate cubically across the rings, linearly along them."""
    m = int(r)
    w = cubic_weights(np.float32(r - m))
    red, green, blue = np.float32(0), np.float32(0), np.float32(0)
    for n in range(4):
        ring = abs(m + n - 1) - rings.first_radius
        count = rings.counts[ring]
        at = turn * count
        k = int(at)
        f = np.float32(at - k)
        k -= rings.firsts[ring]
        if k < 0:
            k += count
        k += rings.starts[ring]
        near, far = table[k], table[k + 1]
        red += w[n] * (near[0] + f * (far[0] - near[0]))
        green += w[n] * (near[1] + f * (far[1] - near[1]))
        blue += w[n] * (near[2] + f * (far[2] - near[2]))
    return red, green, blue


@inlined
def _short_average(
    source: Any, blur: Any, x: float, y: float, length: float
) -> tuple[Any, Any, Any]:
    """Return the average of samples about a pixel apart along a short blur."""
    count = int(math.ceil(length)) + 1
    red, green, blue = np.float32(0), np.float32(0), np.float32(0)
    for n in range(count):
        at = blur.amount * ((n + 0.5) / count - 0.5)
        if blur.style == _ZOOM:
            u, v = x / (1 + at), y / (1 + at)
        else:
            cosine, sine = math.cos(at), math.sin(at)
            u, v = x * cosine - y * sine, x * sine + y * cosine
        r, g, b = _read(source, blur, blur.centre_x + u, blur.centre_y + v)
        red += r
        green += g
        blue += b
    share = np.float32(1 / count)
    return red * share, green * share, blue * share
