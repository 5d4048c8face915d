"""Zoom and spin blur about a centre, at a cost that does not grow with their strength.

Conventions: float32 (H, W, 3), any light, no clamping; beyond the frame lies its half-sample
mirror. ``zoom`` averages uniformly over scales 1 - a/2 … 1 + a/2 of the picture about the centre,
``spin`` over turns of -a/2 … +a/2. Points are pixels, x right, y down.

The picture is read along rays (zoom) or rings (spin) one pixel apart, where either blur is a
difference of two running integrals, and looked up from there. Near the centre, where the smear is
but a few pixels long, its samples are averaged one by one instead.
"""

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.bands import over_rows
from idle_shimmer.core.geometry.edges import MIRROR, fold
from idle_shimmer.core.geometry.sampling import sample
from idle_shimmer.core.interpolation import cubic_weights
from idle_shimmer.core.kernel import inlined, kernel
from idle_shimmer.core.picture import Pixels

# Smears up to the first length, in pixels, are averaged sample by sample; from the second on they
# come from rays or rings; in between one fades into the other.
SHORT_PX, LONG_PX = 3.0, 4.5
_ZOOM, _SPIN = 0, 1
# Rays are this many pixels apart at the farthest corner; nearer, they are denser.
_RAY_SPACING_PX = 1.3


def zoom(pixels: Pixels, *, amount: float, centre: tuple[float, float]) -> Pixels:
    """Averaged over scales 1 - amount/2 … 1 + amount/2 (amount in 0…1.9) about ``centre``."""
    pixels = np.ascontiguousarray(pixels)
    height, width = pixels.shape[:2]
    reach = _reach(width, height, centre)
    rays = 4 * math.ceil(math.pi / 2 * reach / _RAY_SPACING_PX)
    # Only as far as the longest ray inside the frame; further out no pixel asks.
    radii = math.ceil(reach) + 3
    polar = np.zeros((rays + 3, radii, 3), np.float32)
    nodes, ends = _zoom_sums(radii, amount)
    if amount * reach > SHORT_PX:
        over_rows(
            _zoom_rays, rays, pixels.reshape(-1), width, height, *centre, nodes, ends, amount, polar
        )
        polar[rays:] = polar[:3]
    return _looked_up(pixels, polar, np.zeros(1, np.int64), centre, amount, _ZOOM)


def spin(pixels: Pixels, *, amount_deg: float, centre: tuple[float, float]) -> Pixels:
    """Averaged over turns of -amount/2 … +amount/2 degrees (amount in 0…360) about ``centre``."""
    pixels = np.ascontiguousarray(pixels)
    height, width = pixels.shape[:2]
    amount = math.radians(amount_deg)
    reach = _reach(width, height, centre)
    counts = np.maximum(8, np.ceil(math.tau * np.arange(math.ceil(reach) + 4))).astype(np.int64)
    # Each ring carries its first three samples again at its end, for the lookup across the join.
    starts = np.concatenate([[0], np.cumsum(counts + 3)]).astype(np.int64)
    rings = np.zeros((1, int(starts[-1]), 3), np.float32)
    if amount * reach > SHORT_PX:
        over_rows(
            _spin_rings,
            counts.size,
            pixels.reshape(-1),
            width,
            height,
            *centre,
            starts,
            amount,
            rings,
        )
    return _looked_up(pixels, rings, starts, centre, amount, _SPIN)


def _reach(width: int, height: int, centre: tuple[float, float]) -> float:
    """The distance from the centre to the farthest corner, in pixels."""
    return max(math.dist(centre, (x, y)) for x in (0, width) for y in (0, height))


def _looked_up(
    pixels: Pixels,
    polar: Pixels,
    starts: NDArray[np.int64],
    centre: tuple[float, float],
    amount: float,
    style: int,
) -> Pixels:
    out = np.empty_like(pixels)
    over_rows(
        _back_rows, out.shape[0], pixels.reshape(-1), polar, starts, *centre, amount, style, out
    )
    return out


def _zoom_sums(radii: int, amount: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The parts of the zoom's integrals that are the same on every ray.

    With r' = r/s the average over s is (r/a) times the integral of f(r')/r'² over r/s2 … r/s1. On a
    piece m … m+1 where f is p + q·r', that of p/r'² + q/r' has the members below. Rows of the first
    array: (1/m - 1/(m+1), ln((m+1)/m)); of the second: for each radius both limits as
    (m, 1/m - 1/x, ln(x/m)).
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
    return nodes, ends


@inlined
def _read(source: Any, width: int, height: int, x: float, y: float) -> tuple[Any, Any, Any]:
    """The cubic interpolation at a point in pixels, mirrored beyond the frame."""
    x, y = fold(x, width, MIRROR) - 0.5, fold(y, height, MIRROR) - 0.5
    return sample(source, 0, height, width, x, y, MIRROR)


@inlined
def _inside(along: float, at: float, size: float) -> float:
    """How far a ray goes in one coordinate before it leaves the frame by more than two pixels."""
    if along > 1e-9:
        return (size + 2 - at) / along
    return (-2 - at) / along if along < -1e-9 else 1e9


@kernel
def _zoom_rays(
    source: Any,
    width: int,
    height: int,
    centre_x: float,
    centre_y: float,
    nodes: Any,
    ends: Any,
    amount: float,
    polar: Any,
    first: int,
    end: int,
) -> None:
    rays, radii = polar.shape[0] - 3, polar.shape[1]
    line = np.empty((nodes.shape[0] + 1, 3))
    sums = np.zeros((nodes.shape[0] + 1, 3))
    for k in range(first, end):
        angle = 2 * math.pi * k / rays
        cosine, sine = math.cos(angle), math.sin(angle)
        shown = min(_inside(cosine, centre_x, width), _inside(sine, centre_y, height))
        last = min(radii - 1, max(2, int(shown) + 2))
        farthest = min(nodes.shape[0] - 1, int(ends[last, 3]) + 2)
        for m in range(1, farthest + 1):
            line[m] = _read(source, width, height, centre_x + m * cosine, centre_y + m * sine)
        for m in range(1, farthest):
            a, b = nodes[m, 0], nodes[m, 1]
            for c in range(3):
                steep = line[m + 1, c] - line[m, c]
                sums[m + 1, c] = sums[m, c] + (line[m, c] - steep * m) * a + steep * b
        for r in range(last + 1):
            near, far = int(ends[r, 0]), int(ends[r, 3])
            scale = max(r, 1) / amount
            for c in range(3):
                steep_n, steep_f = (
                    line[near + 1, c] - line[near, c],
                    line[far + 1, c] - line[far, c],
                )
                low = (
                    sums[near, c]
                    + (line[near, c] - steep_n * near) * ends[r, 1]
                    + steep_n * ends[r, 2]
                )
                high = (
                    sums[far, c]
                    + (line[far, c] - steep_f * far) * ends[r, 4]
                    + steep_f * ends[r, 5]
                )
                polar[k, r, c] = np.float32(scale * (high - low))


@kernel
def _spin_rings(
    source: Any,
    width: int,
    height: int,
    centre_x: float,
    centre_y: float,
    starts: Any,
    amount: float,
    rings: Any,
    first: int,
    end: int,
) -> None:
    for r in range(first, end):
        start = starts[r]
        count = starts[r + 1] - start - 3
        line = np.empty((count, 3))
        sums = np.zeros((count + 1, 3))
        for k in range(count):
            angle = 2 * math.pi * k / count
            x, y = centre_x + r * math.cos(angle), centre_y + r * math.sin(angle)
            line[k] = _read(source, width, height, x, y)
        # The integral of the linear interpolant around the ring, from node 0 to node k.
        for k in range(count):
            for c in range(3):
                sums[k + 1, c] = sums[k, c] + 0.5 * (line[k, c] + line[(k + 1) % count, c])
        half = 0.5 * amount / (2 * math.pi) * count
        for k in range(count + 3):
            for c in range(3):
                total = _ring_integral(line, sums, k + half, c) - _ring_integral(
                    line, sums, k - half, c
                )
                rings[0, start + k, c] = np.float32(total / (2 * half))


@inlined
def _ring_integral(line: Any, sums: Any, at: float, c: int) -> float:
    """The integral around a ring from node 0 to ``at`` nodes, which may be any number of rounds."""
    count = line.shape[0]
    rounds = math.floor(at / count)
    at -= rounds * count
    k = min(int(at), count - 1)
    f = at - k
    here, there = line[k, c], line[(k + 1) % count, c]
    return rounds * sums[count, c] + sums[k, c] + f * (here + 0.5 * f * (there - here))


@kernel
def _back_rows(
    source: Any,
    polar: Any,
    starts: Any,
    centre_x: float,
    centre_y: float,
    amount: float,
    style: int,
    out: Any,
    first: int,
    end: int,
) -> None:
    height, width = out.shape[0], out.shape[1]
    for i in range(first, end):
        for j in range(width):
            x, y = j + 0.5 - centre_x, i + 0.5 - centre_y
            r = math.sqrt(x * x + y * y)
            smear = r * amount
            share = min(max((smear - SHORT_PX) / (LONG_PX - SHORT_PX), 0.0), 1.0)
            red, green, blue = np.float32(0), np.float32(0), np.float32(0)
            if share > 0:
                angle = math.atan2(y, x)
                turn = (angle if angle >= 0 else angle + 2 * math.pi) / (2 * math.pi)
                if style == _ZOOM:
                    red, green, blue = _from_rays(polar, r, turn)
                else:
                    red, green, blue = _from_rings(polar[0], starts, r, turn)
            if share < 1:
                r1, g1, b1 = _one_by_one(
                    source, width, height, centre_x, centre_y, x, y, amount, smear, style
                )
                s = np.float32(share)
                red, green, blue = r1 + s * (red - r1), g1 + s * (green - g1), b1 + s * (blue - b1)
            out[i, j, 0], out[i, j, 1], out[i, j, 2] = red, green, blue


@inlined
def _from_rays(polar: Any, r: float, turn: float) -> tuple[Any, Any, Any]:
    """Cubic across the rays, linear along them, where the picture is smooth."""
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
    """Cubic across the rings, linear along them."""
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
def _one_by_one(
    source: Any,
    width: int,
    height: int,
    centre_x: float,
    centre_y: float,
    x: float,
    y: float,
    amount: float,
    smear: float,
    style: int,
) -> tuple[Any, Any, Any]:
    """The average of samples about a pixel apart along a short smear."""
    count = int(math.ceil(smear)) + 1
    red, green, blue = np.float32(0), np.float32(0), np.float32(0)
    for n in range(count):
        at = amount * ((n + 0.5) / count - 0.5)
        if style == _ZOOM:
            u, v = x / (1 + at), y / (1 + at)
        else:
            cosine, sine = math.cos(at), math.sin(at)
            u, v = x * cosine - y * sine, x * sine + y * cosine
        r, g, b = _read(source, width, height, centre_x + u, centre_y + v)
        red += r
        green += g
        blue += b
    share = np.float32(1 / count)
    return red * share, green * share, blue * share
