"""Zoom blur about a centre, at a cost that hardly grows with its strength.

Pictures are float32 (H, W, 3), in any encoding, without clamping; beyond the frame lies the mirrored
picture (half-sample symmetric). The result averages uniformly over scales 1 - a/2 … 1 + a/2 of the
picture about the centre.

The frame is divided at the centre into four sides: above, below, left and right, along the diagonals.
On each side rays from the centre are followed from line to line of pixels: a ray meets each line at one
point, so that samples, and the result, are interpolated along the line alone. Scaling about the centre
scales distances from it in lines, too: with r' = r/s the average over s is (r/a) times the integral of
f(r')/r'² over r/(1 + a/2) … r/(1 - a/2), where r counts lines from the centre. Along a ray f is taken as
linear between its samples, and the integral is summed from far to near, where it grows: differences
keep their precision in float32.

Beyond the frame samples are farther apart the farther they lie: they count less, and there are always
many. Near the centre, where the blur is a few pixels long, they are averaged one by one (``about_centre``).
"""

import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import inlined, kernel
from idle_shimmer.core.compute.parallel import parallel_rows
from idle_shimmer.core.geometry.edge_modes import MIRROR, fold_index
from idle_shimmer.core.kernels.about_centre import (
    SHORT_PX,
    Frame,
    Side,
    average_near,
    sides_of,
    transposed,
)
from idle_shimmer.core.picture.encoding import Pixels
from idle_shimmer.core.picture.resampling import cubic_line, cubic_weights

# Rays are this many pixels apart at the farthest line; nearer, they are denser.
_RAY_SPACING_PX = 1.25
# Rays are followed in groups: what a group needs fits into the processor's cache.
_GROUP = 96
# A side whose table would have more entries, of 12 bytes, is divided.
_MOST_ENTRIES = 8_000_000
# Rows that are written together.
_BAND = 32
# Samples are one line apart up to so many times the farthest line, then two, four, …
_EVERY_LINE = 1.5
# Lines nearer than this are not integrated: 1/r² has no end there.
_NEAREST = 0.5


class _Rays(NamedTuple):
    """Rays of slopes ``first`` + k · ``step`` across the lines, so ``many`` of them.

    Nothing is seen of them before ``left`` and after ``right``, from the centre along the lines.
    """

    first: float
    step: float
    many: int
    left: float
    right: float


class _Integral(NamedTuple):
    """How the integral along a ray is made of its samples.

    The first ``every_line`` samples lie one line apart. ``lines`` are the distances of the result's lines from the centre, ``distances`` those of the samples (n), ``rows`` of the picture that they lie on;
    ``near`` and ``far``, the weights of both samples of each piece between two of them. For each line of
    the result: ``limits``, the pieces in which both limits lie, and ``shares``, the weights of
    (sum behind the piece, its near sample, its far sample) at the lower and the upper limit.
    """

    every_line: int
    lines: NDArray[np.float64]
    distances: NDArray[np.float64]
    rows: NDArray[np.int64]
    near: NDArray[np.float32]
    far: NDArray[np.float32]
    limits: NDArray[np.int64]
    shares: NDArray[np.float32]


def zoom(pixels: Pixels, *, amount: float, centre: tuple[float, float]) -> Pixels:
    """Return the average over scales 1 - amount/2 … 1 + amount/2 (amount in 0…1.9) about ``centre``.

    ``centre`` is in pixels, x right, y down, inside the frame or outside.
    """
    pixels = np.ascontiguousarray(pixels)
    if amount == 0:
        return pixels.copy()
    out = np.empty_like(pixels)
    height, width = pixels.shape[:2]
    frame = Frame(width, height, *centre)
    turned: Pixels | None = None
    for side in sides_of(width, height, centre):
        if amount * side.reach <= SHORT_PX:
            continue
        if side.is_across and turned is None:
            turned = transposed(pixels)
        _blur_side(
            pixels if turned is None or not side.is_across else turned, side, amount, frame, out
        )
    average_near(pixels, frame, amount, out, is_turned=False)
    return out


def _blur_side(source: Pixels, side: Side, amount: float, frame: Frame, out: Pixels) -> None:
    """Write the pixels of a side; ``source`` is the picture with the side's lines as its rows."""
    step = _RAY_SPACING_PX / side.distance(side.lines - 1)
    count = math.ceil((side.high - side.low) / step) + 4
    if side.lines * count > _MOST_ENTRIES and side.lines > 1:
        middle = side.lines // 2
        for part in (side.part(0, middle), side.part(middle, side.lines)):
            _blur_side(source, part, amount, frame, out)
        return
    # One ray ahead of the first and two behind the last, for interpolation.
    rays = _Rays(side.low - step, step, count, side.left, side.right)
    table = np.empty((side.lines, count, 3), np.float32)
    integral = _integral(side, amount, source.shape[0])
    groups = math.ceil(count / _GROUP)
    parallel_rows(
        _follow_rays, groups, source, side.across_centre, integral, rays, table, min_rows=1
    )
    parallel_rows(_put_side, out.shape[0], table, frame, side.form, rays, out)


def _integral(side: Side, amount: float, rows: int) -> _Integral:
    """Return the samples along the rays of a side, and how they are summed."""
    low, high = 1 - amount / 2, 1 + amount / 2
    near, far = side.distance(0), side.distance(side.lines - 1)
    steps = _steps(side, max(_NEAREST, near / high), far / low, _EVERY_LINE * far)
    every_line = int(np.searchsorted(np.diff(steps), 1.5)) + 1
    distances = side.distance(0) + steps
    u, v = distances[:-1], distances[1:]
    behind = (-u * (1 / u - 1 / v) + np.log(v / u)) / (v - u)
    ahead = (1 / u - 1 / v) - behind
    lines = side.distance(np.arange(side.lines, dtype=np.float64))
    limits = np.empty((side.lines, 2), np.int64)
    shares = np.empty((side.lines, 6), np.float32)
    for column, scale in ((0, high), (1, low)):
        x = np.clip(lines / scale, distances[0], distances[-1])
        piece = np.clip(np.searchsorted(distances, x, side="right") - 1, 0, len(u) - 1)
        begin, end = u[piece], v[piece]
        late = (-begin * (1 / x - 1 / end) + np.log(end / x)) / (end - begin)
        factor = (1 if column == 0 else -1) * lines / amount
        limits[:, column] = piece
        parts = (np.ones(side.lines), (1 / x - 1 / end) - late, late)
        for n, part in enumerate(parts):
            shares[:, 3 * column + n] = factor * part
    numbers = side.first_row + side.towards * steps.astype(np.int64)
    folded = np.array([fold_index(int(n), rows, MIRROR) for n in numbers], np.int64)
    return _Integral(
        every_line,
        lines,
        distances,
        folded,
        ahead.astype(np.float32),
        behind.astype(np.float32),
        limits,
        shares,
    )


def _steps(side: Side, nearest: float, farthest: float, every_line: float) -> NDArray[np.float64]:
    """Return the lines that samples lie on, in lines from the first one: closely at first, then wider."""
    begin = side.distance(0)
    first = math.floor(nearest - begin)
    if begin + first < _NEAREST:
        first += 1
    found = [np.arange(first, math.ceil(min(farthest, every_line) - begin) + 2, dtype=np.float64)]
    spacing = 1
    while begin + found[-1][-1] < farthest:
        spacing *= 2
        last, end = found[-1][-1], 2 * (begin + found[-1][-1])
        count = max(2, math.ceil((min(end, farthest + spacing) - begin - last) / spacing) + 1)
        found.append(last + spacing * np.arange(1, count + 1))
    return np.concatenate(found)


@kernel
def _follow_rays(
    source: Any, across_centre: float, integral: Any, rays: Any, table: Any, first: int, end: int
) -> None:
    """Fill the table of results, (lines, rays, 3), for groups of rays.

    ``source`` is a picture whose rows are the lines.
    """
    samples, columns = integral.distances.shape[0], source.shape[1]
    line = np.empty((samples, _GROUP * 3), np.float32)
    sums = np.zeros((samples, _GROUP * 3), np.float32)
    for group in range(first, end):
        begin = group * _GROUP
        count = min(_GROUP, rays.many - begin)
        width = 3 * count
        lines = _lines_of(rays, begin, count, integral, table.shape[0])
        if lines == 0:
            continue
        last = integral.limits[lines - 1, 1] + 1
        nearest = integral.limits[0, 0]
        for m in range(nearest, last + 1):
            distance = integral.distances[m]
            at = across_centre + (rays.first + begin * rays.step) * distance - 0.5
            step = rays.step * distance
            if m < integral.every_line:
                _read_line(source, integral.rows[m], columns, at, step, count, line[m])
            else:
                _read_nearest(source, integral.rows[m], columns, at, step, count, line[m])
        _add_up(integral, line, sums, (nearest, last), width)
        for r in range(lines):
            low, high = integral.limits[r, 0], integral.limits[r, 1]
            s = integral.shares[r]
            a, b, c, d, e, f = s[0], s[1], s[2], s[3], s[4], s[5]
            low_sum, low_near, low_far = sums[low + 1], line[low], line[low + 1]
            high_sum, high_near, high_far = sums[high + 1], line[high], line[high + 1]
            out = table[r].reshape(-1)[begin * 3 : begin * 3 + width]
            for k in range(width):
                out[k] = (
                    a * low_sum[k]
                    + d * high_sum[k]
                    + b * low_near[k]
                    + c * low_far[k]
                    + e * high_near[k]
                    + f * high_far[k]
                )


@inlined
def _add_up(integral: Any, line: Any, sums: Any, samples: Any, width: int) -> None:
    """Integrate along the rays, from the farthest of the samples (nearest, last) inwards."""
    nearest, last = samples
    for k in range(width):
        sums[last, k] = 0
    for m in range(last - 1, nearest - 1, -1):
        a, b = integral.near[m], integral.far[m]
        here, there, after, target = line[m], line[m + 1], sums[m + 1], sums[m]
        for k in range(width):
            target[k] = after[k] + a * here[k] + b * there[k]


@inlined
def _lines_of(rays: Any, begin: int, count: int, integral: Any, lines: int) -> int:
    """Return on how many lines rays ``begin`` … of ``count`` are seen, with those around them."""
    low = rays.first + (begin - 3) * rays.step
    high = rays.first + (begin + count + 2) * rays.step
    farthest = np.inf
    if low > 0:
        farthest = rays.right / low
    elif high < 0:
        farthest = rays.left / high
    seen = lines
    while seen > 0 and integral.lines[seen - 1] > farthest:
        seen -= 1
    return seen


@kernel
def _read_line(
    source: Any, row: int, columns: int, at: float, step: float, count: int, out: Any
) -> None:
    """Write ``count`` cubic samples of a row from ``at`` on, ``step`` apart, mirrored beyond its ends."""
    flat = source[row].reshape(-1)
    for k in range(count):
        x = at + k * step
        j = int(math.floor(x))
        if 1 <= j < columns - 2:
            red, green, blue = cubic_line(flat, 3 * (j - 1), np.float32(x - j))
            out[3 * k], out[3 * k + 1], out[3 * k + 2] = red, green, blue
        else:
            wa, wb, wc, wd = cubic_weights(np.float32(x - j))
            ja = 3 * fold_index(j - 1, columns, MIRROR)
            jb = 3 * fold_index(j, columns, MIRROR)
            jc = 3 * fold_index(j + 1, columns, MIRROR)
            jd = 3 * fold_index(j + 2, columns, MIRROR)
            for c in range(3):
                out[3 * k + c] = (
                    wa * flat[ja + c] + wb * flat[jb + c] + wc * flat[jc + c] + wd * flat[jd + c]
                )


@kernel
def _read_nearest(
    source: Any, row: int, columns: int, at: float, step: float, count: int, out: Any
) -> None:
    """Write ``count`` pixels of a row from ``at`` on, ``step`` apart, mirrored beyond its ends.

    For samples so far apart that they average out: which pixel is read changes nothing that is seen.
    """
    flat, period = source[row].reshape(-1), 2.0 * columns
    for k in range(count):
        x = at + k * step + 0.5
        x -= period * math.floor(x / period)
        j = min(int(x if x < columns else period - x), columns - 1)
        for c in range(3):
            out[3 * k + c] = flat[3 * j + c]


@kernel
def _put_side(table: Any, frame: Any, form: Any, rays: Any, out: Any, first: int, end: int) -> None:
    """Write the pixels of one side into rows ``first`` … ``end``, in bands that read one line at a time."""
    across_centre = frame.centre_y if form.is_across else frame.centre_x
    flat, row = out.reshape(-1), out.shape[1] * 3
    for top in range(first, end, _BAND):
        bottom = min(end, top + _BAND)
        begin, stop = (0, out.shape[1]) if form.is_across else (top, bottom)
        low, high = (top, bottom) if form.is_across else (0, out.shape[1])
        for n in range(begin, stop):
            along = (
                n + 0.5 - (frame.centre_x if form.is_across else frame.centre_y)
            ) * form.towards
            seen = int(math.floor(along - form.nearest + 0.5))
            if along <= 0 or not 0 <= seen < table.shape[0]:
                continue
            # A diagonal belongs to the sides above and below, as far as rounding lets it.
            room = along - 1e-9 if form.is_across else along + 1e-9
            start = max(low, int(math.ceil(across_centre - 0.5 - room)))
            after = min(high, int(math.floor(across_centre - 0.5 + room)) + 1)
            line = table[seen].reshape(-1)
            scale = 1 / (along * rays.step)
            offset = (0.5 - across_centre) * scale - rays.first / rays.step
            place, step = (3 * n, row) if form.is_across else (n * row, 3)
            for k in range(start, after):
                at = k * scale + offset
                # Rounding may put the outermost slopes beyond their rays.
                ray = min(max(int(at), 1), rays.many - 3)
                target = place + k * step
                red, green, blue = cubic_line(line, 3 * (ray - 1), np.float32(at - ray))
                flat[target], flat[target + 1], flat[target + 2] = red, green, blue
