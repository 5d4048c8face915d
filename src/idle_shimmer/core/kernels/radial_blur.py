"""Zoom and spin blur about a centre, at a cost that does not grow with their strength.

Pictures are float32 (H, W, 3), in any encoding, without clamping; beyond the frame lies the mirrored
picture (half-sample symmetric). ``zoom`` averages uniformly over scales 1 - a/2 … 1 + a/2 of the
picture about the centre, ``spin`` over rotations of -a/2 … +a/2. Points are pixels, x right, y down.

The picture is resampled along rays (zoom) or rings (spin) one pixel apart, where either blur is a
difference of two running integrals, and sampled from there. Near the centre, where the blur is only
a few pixels long, its samples are averaged one by one instead.
"""

import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

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


class _Blur(NamedTuple):
    """Frame size and centre in pixels, the amount as a share or in radians, zoom or spin."""

    width: int
    height: int
    centre_x: float
    centre_y: float
    amount: float
    style: int


class _Integrals(NamedTuple):
    """The parts of the zoom's integrals that are the same on every ray; see ``_zoom_integrals``."""

    nodes: Any
    ends: Any


def zoom(pixels: Pixels, *, amount: float, centre: tuple[float, float]) -> Pixels:
    """Return the average over scales 1 - amount/2 … 1 + amount/2 (amount in 0…1.9) about ``centre``."""
    pixels = np.ascontiguousarray(pixels)
    height, width = pixels.shape[:2]
    blur = _Blur(width, height, *centre, amount, _ZOOM)
    reach = _reach(blur)
    rays = 4 * math.ceil(math.pi / 2 * reach / _RAY_SPACING_PX)
    # Only as far as the longest ray inside the frame; no pixel needs more.
    radii = math.ceil(reach) + 3
    polar = np.zeros((rays + 3, radii, 3), np.float32)
    if amount * reach > SHORT_PX:
        integrals = _zoom_integrals(radii, amount)
        parallel_rows(_fill_rays, rays, pixels.reshape(-1), blur, integrals, polar)
        polar[rays:] = polar[:3]
    return _resampled(pixels, polar, np.zeros(1, np.int64), blur)


def spin(pixels: Pixels, *, amount_deg: float, centre: tuple[float, float]) -> Pixels:
    """Return the average over rotations of ±amount/2 degrees (amount in 0…360) about ``centre``."""
    pixels = np.ascontiguousarray(pixels)
    height, width = pixels.shape[:2]
    blur = _Blur(width, height, *centre, math.radians(amount_deg), _SPIN)
    reach = _reach(blur)
    counts = np.maximum(8, np.ceil(math.tau * np.arange(math.ceil(reach) + 4))).astype(np.int64)
    # Each ring repeats its first three samples at its end, for interpolation across the join.
    starts = np.concatenate([[0], np.cumsum(counts + 3)]).astype(np.int64)
    rings = np.zeros((1, int(starts[-1]), 3), np.float32)
    if blur.amount * reach > SHORT_PX:
        parallel_rows(_fill_rings, counts.size, pixels.reshape(-1), blur, starts, rings)
    return _resampled(pixels, rings, starts, blur)


def _reach(blur: _Blur) -> float:
    """Return the distance from the centre to the farthest corner, in pixels."""
    corners = ((x, y) for x in (0, blur.width) for y in (0, blur.height))
    return max(math.dist((blur.centre_x, blur.centre_y), corner) for corner in corners)


def _resampled(pixels: Pixels, polar: Pixels, starts: NDArray[np.int64], blur: _Blur) -> Pixels:
    out = np.empty_like(pixels)
    parallel_rows(_resample_rows, out.shape[0], pixels.reshape(-1), polar, starts, blur, out)
    return out


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
def _fill_rays(source: Any, blur: Any, integrals: Any, polar: Any, first: int, end: int) -> None:
    nodes, ends = integrals.nodes, integrals.ends
    rays, radii = polar.shape[0] - 3, polar.shape[1]
    line = np.empty((nodes.shape[0] + 1, 3))
    sums = np.zeros((nodes.shape[0] + 1, 3))
    for k in range(first, end):
        angle = 2 * math.pi * k / rays
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
        for r in range(last + 1):
            scale = max(r, 1) / blur.amount
            for c in range(3):
                low = _ray_integral(line, sums, ends[r, :3], c)
                high = _ray_integral(line, sums, ends[r, 3:], c)
                polar[k, r, c] = np.float32(scale * (high - low))


@inlined
def _ray_integral(line: Any, sums: Any, limit: Any, c: int) -> float:
    """Return the integral along a ray up to a limit, (m, 1/m - 1/x, ln(x/m))."""
    m = int(limit[0])
    slope = line[m + 1, c] - line[m, c]
    return sums[m, c] + (line[m, c] - slope * m) * limit[1] + slope * limit[2]


@kernel
def _fill_rings(source: Any, blur: Any, starts: Any, rings: Any, first: int, end: int) -> None:
    for r in range(first, end):
        start = starts[r]
        count = starts[r + 1] - start - 3
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
        for k in range(count + 3):
            for c in range(3):
                upper = _ring_integral(line, sums, k + half, c)
                lower = _ring_integral(line, sums, k - half, c)
                rings[0, start + k, c] = np.float32((upper - lower) / (2 * half))


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
    source: Any, polar: Any, starts: Any, blur: Any, out: Any, first: int, end: int
) -> None:
    for i in range(first, end):
        for j in range(blur.width):
            x, y = j + 0.5 - blur.centre_x, i + 0.5 - blur.centre_y
            r = math.sqrt(x * x + y * y)
            length = r * blur.amount
            share = min(max((length - SHORT_PX) / (LONG_PX - SHORT_PX), 0.0), 1.0)
            red, green, blue = np.float32(0), np.float32(0), np.float32(0)
            if share > 0:
                angle = math.atan2(y, x)
                turn = (angle if angle >= 0 else angle + 2 * math.pi) / (2 * math.pi)
                if blur.style == _ZOOM:
                    red, green, blue = _from_rays(polar, r, turn)
                else:
                    red, green, blue = _from_rings(polar[0], starts, r, turn)
            if share < 1:
                r1, g1, b1 = _short_average(source, blur, x, y, length)
                s = np.float32(share)
                red, green, blue = r1 + s * (red - r1), g1 + s * (green - g1), b1 + s * (blue - b1)
            out[i, j, 0], out[i, j, 1], out[i, j, 2] = red, green, blue


@inlined
def _from_rays(polar: Any, r: float, turn: float) -> tuple[Any, Any, Any]:
    """Interpolate cubically across the rays, linearly along them, where the picture is smooth."""
    rays = polar.shape[0] - 3
    at = turn * rays
    k, m = int(math.floor(at)), int(r)
    w = cubic_weights(np.float32(at - k))
    f = np.float32(r - m)
    k = (k - 1 + rays) % rays
    red, green, blue = np.float32(0), np.float32(0), np.float32(0)
    for n in range(4):
        near, far = polar[k + n, m], polar[k + n, m + 1]
        red += w[n] * (near[0] + f * (far[0] - near[0]))
        green += w[n] * (near[1] + f * (far[1] - near[1]))
        blue += w[n] * (near[2] + f * (far[2] - near[2]))
    return red, green, blue


@inlined
def _from_rings(rings: Any, starts: Any, r: float, turn: float) -> tuple[Any, Any, Any]:
    """Interpolate cubically across the rings, linearly along them."""
    m = int(r)
    w = cubic_weights(np.float32(r - m))
    red, green, blue = np.float32(0), np.float32(0), np.float32(0)
    for n in range(4):
        ring = abs(m + n - 1)
        start = starts[ring]
        at = turn * (starts[ring + 1] - start - 3)
        k = int(at)
        f = np.float32(at - k)
        near, far = rings[start + k], rings[start + k + 1]
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
