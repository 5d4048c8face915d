"""Drawing functions of the demo scenes: skies, hills, water, lights. Linear light, float32 (H, W, 3)."""

from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.compute.parallel import parallel_rows
from idle_shimmer.core.kernels.gaussian import gaussian
from idle_shimmer.core.picture.encoding import (
    CODE_OF_LINEAR,
    Codes,
    Pixels,
    index_of_linear,
)
from idle_shimmer.core.picture.transfer import linear_of_display

WIDTH, HEIGHT, RATE = 1280, 720, 25
Mask = NDArray[np.float32]


@lru_cache(maxsize=256)
def colour(text: str) -> NDArray[np.float32]:
    """Return the linear light of ``"#rrggbb"``, read-only float32 (3,)."""
    codes = [int(text[i : i + 2], 16) for i in (1, 3, 5)]
    ink = linear_of_display(np.array(codes) / 255).astype(np.float32)
    ink.flags.writeable = False
    return ink


def fractal(shape: tuple[int, int], cell: tuple[float, float], seed: int, octaves: int = 5) -> Mask:
    """Return smooth noise, about -1…1, whose largest features are ``cell`` (high, wide) pixels."""
    rng = np.random.default_rng(seed)
    total = np.zeros(shape, np.float32)
    for octave in range(octaves):
        size = [max(2, int(shape[i] / (cell[i] / 2**octave)) + 2) for i in (0, 1)]
        grid = rng.standard_normal(size).astype(np.float32)
        total += cv2.resize(grid, shape[::-1], interpolation=cv2.INTER_CUBIC) * 0.5**octave
    return total / 1.3


def sky(
    shape: tuple[int, int], stops: list[tuple[float, str]], seed: int, cloud: str = "#ffc9a0"
) -> Pixels:
    """Return a graded evening sky with thin clouds; ``stops`` are (height 0…1 from the top, colour)."""
    rows = np.linspace(0, 1, shape[0])
    colours = np.array([colour(text) for _, text in stops])
    graded = np.stack(
        [np.interp(rows, [at for at, _ in stops], colours[:, c]) for c in range(3)], axis=1
    )
    picture = np.repeat(graded[:, None, :], shape[1], axis=1).astype(np.float32)
    wisps = np.clip(fractal(shape, (70, 520), seed, 6) - 0.15, 0, None)
    low = np.linspace(0.25, 1, shape[0], dtype=np.float32)[:, None]
    return picture + (wisps * low * 0.22)[..., None] * colour(cloud)


def ridge(shape: tuple[int, int], level: float, rise: float, wide: float, seed: int) -> Mask:
    """Return a mask of hills: 1 below a soft skyline at ``level`` (share of the height)."""
    line = fractal((8, shape[1]), (8, wide), seed, 6)[4] * rise + level * shape[0]
    rows = np.arange(shape[0], dtype=np.float32)[:, None]
    return np.clip(rows - line[None, :] + 0.5, 0, 1)


def over(picture: Pixels, mask: Mask, ink: NDArray[np.float32] | Pixels) -> Pixels:
    """Draw ``ink`` over ``picture`` where ``mask`` is 1."""
    out = np.empty_like(picture)
    inks = np.broadcast_to(np.asarray(ink, np.float32), picture.shape)
    parallel_rows(_over_rows, picture.shape[0], picture, mask, inks, out)
    return out


@kernel
def _over_rows(picture: Any, mask: Any, ink: Any, out: Any, first: int, end: int) -> None:
    for i in range(first, end):
        for j in range(picture.shape[1]):
            m = mask[i, j]
            for c in range(3):
                out[i, j, c] = picture[i, j, c] + m * (ink[i, j, c] - picture[i, j, c])


def glow(picture: Pixels, lights: Pixels, strength: float = 1.0) -> None:
    """Add ``lights`` and their halo to ``picture``, in place."""
    cv2.add(picture, lights, picture)
    cv2.add(picture, halo(lights, strength), picture)


def halo(lights: Pixels, strength: float = 1.0) -> Pixels:
    """Return the halo of ``lights``, at two scales."""
    small = cv2.resize(lights, None, fx=0.25, fy=0.25, interpolation=cv2.INTER_AREA)
    near, far = gaussian(small, sigma_x=3, sigma_y=3), gaussian(small, sigma_x=14, sigma_y=14)
    spread = cv2.addWeighted(near, 0.55 * strength, far, 0.6 * strength, 0)
    return cv2.resize(spread, lights.shape[1::-1], interpolation=cv2.INTER_LINEAR)


def dots(lights: Pixels, x: Any, y: Any, radius: Any, ink: Any, softness: float = 1) -> None:
    """Add round lights to ``lights``, in place; ``x``, ``y``, ``radius`` (N,), ``ink`` (N, 3)."""
    count = np.size(x)
    xs, ys, radii = (
        np.broadcast_to(np.asarray(each, np.float32), (count,)) for each in (x, y, radius)
    )
    inks = np.broadcast_to(np.asarray(ink, np.float32), (count, 3))
    _stamp(lights, xs, ys, radii, inks, np.float32(softness))


def dot(
    lights: Pixels, x: float, y: float, radius: float, ink: NDArray[np.float32], softness: float = 1
) -> None:
    """Add one round light to ``lights``, in place."""
    dots(lights, x, y, radius, ink, softness)


@kernel
def _stamp(lights: Any, xs: Any, ys: Any, radii: Any, inks: Any, softness: Any) -> None:
    for n in range(xs.shape[0]):
        radius, soft, power = radii[n], softness, np.float32(1)
        if radius < 3:
            # A light smaller than its stamp is dimmed instead of shrunk, so that it does not flicker.
            power = min(power, np.float32(2) * (radius / np.float32(3)) ** 2)
            radius, soft = np.float32(3), softness + np.float32(1)
        reach = radius + soft
        first, end = max(int(ys[n] - reach), 0), min(int(ys[n] + reach) + 2, lights.shape[0])
        left, right = max(int(xs[n] - reach), 0), min(int(xs[n] + reach) + 2, lights.shape[1])
        for i in range(first, end):
            for j in range(left, right):
                away = np.sqrt((j - xs[n]) ** 2 + (i - ys[n]) ** 2)
                share = (radius - away) / soft + np.float32(0.5)
                if share > 0:
                    light = min(share, np.float32(1)) * power
                    for c in range(3):
                        lights[i, j, c] += light * inks[n, c]


def water(
    above: Pixels, horizon: int, t: float, *, chop: float = 1.0, tint: str = "#6f86a0"
) -> Pixels:
    """Return ``above`` with its rippled reflection below row ``horizon``."""
    height, width = above.shape[0] - horizon, above.shape[1]
    near = np.arange(height, dtype=np.float32) / height
    # Waves shrink towards the horizon: their phase follows the logarithm of the distance from it.
    phase = 46 * np.log1p(14 * near)
    down = np.stack([phase * 2.3 - 3.1 * t, phase * 3.7 + 2.3 * t + 1, phase * 6.1 - 4.7 * t + 2])
    across = np.arange(width)[None, :] * np.array([[0.010], [-0.017], [0.031]])
    waves = _circle(down), _circle(across)
    places = np.empty((2, height, width), np.float32)
    sway = np.empty((height, width), np.float32)
    parallel_rows(_sway_rows, height, waves, np.float32(chop), horizon, places, sway)
    mirrored = cv2.remap(
        above, places[0], places[1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT
    )
    mirrored = cv2.blur(mirrored, (1, 5))
    shade = ((0.78 - 0.42 * near)[:, None] * (0.55 + 0.45 * colour(tint) / colour(tint).max()))[
        :, None, :
    ]
    glint = cv2.max(sway - np.float32(1.55), 0) * (0.05 * (1 - near))[:, None]
    out = np.empty_like(above)
    out[:horizon] = above[:horizon]
    shaded, glints = shade.astype(np.float32), glint.astype(np.float32)
    parallel_rows(_lay_rows, height, mirrored, shaded, glints, colour("#ffd9b0"), out[horizon:])
    return out


def _circle(angles: NDArray[Any]) -> NDArray[np.float32]:
    """Return (sine, cosine) of ``angles`` (waves, N), as (2, waves, N)."""
    return np.stack([np.sin(angles), np.cos(angles)]).astype(np.float32)


@kernel
def _sway_rows(
    waves: Any, chop: Any, horizon: int, places: Any, sway: Any, first: int, end: int
) -> None:
    down, across = waves
    weights = (np.float32(1), np.float32(0.7), np.float32(0.5))
    height, width = sway.shape
    for i in range(first, end):
        near = np.float32(i) / np.float32(height)
        sideways = (np.float32(2) + np.float32(26) * near) * chop
        deep = (np.float32(1) + np.float32(12) * near) * chop
        top = np.float32(horizon - 1) - np.float32(0.96) * np.float32(i)
        for j in range(width):
            sum_ = np.float32(0)
            for w in range(3):
                # sin(a + b), from the sines of a column and a row.
                wave = down[0, w, i] * across[1, w, j] + down[1, w, i] * across[0, w, j]
                sum_ += weights[w] * wave
            sway[i, j] = sum_
            places[0, i, j] = np.float32(j) + sum_ * sideways
            row = top + sum_ * deep
            places[1, i, j] = min(max(row, np.float32(0)), np.float32(horizon - 1))


@kernel
def _lay_rows(
    mirrored: Any, shade: Any, glint: Any, ink: Any, out: Any, first: int, end: int
) -> None:
    for i in range(first, end):
        for j in range(out.shape[1]):
            for c in range(3):
                out[i, j, c] = mirrored[i, j, c] * shade[i, 0, c] + glint[i, j] * ink[c]


def crop(layer: NDArray[np.float32], x: float, y: float, zoom: float = 1.0) -> NDArray[np.float32]:
    """Return the part of ``layer`` whose top-left corner is (x, y)."""
    if zoom == 1:
        middle = (x + (WIDTH - 1) / 2, y + (HEIGHT - 1) / 2)
        return cv2.getRectSubPix(layer, (WIDTH, HEIGHT), middle)
    return cv2.warpAffine(
        layer,
        np.array([[1 / zoom, 0, x], [0, 1 / zoom, y]]),
        (WIDTH, HEIGHT),
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REFLECT,
    )


@lru_cache(maxsize=1)
def _corners() -> Mask:
    y, x = np.mgrid[:HEIGHT, :WIDTH].astype(np.float32)
    r2 = ((x / WIDTH - 0.5) ** 2 + (y / HEIGHT - 0.5) ** 2) * 2
    return 1 - np.float32(0.38) * r2


@lru_cache(maxsize=1)
def _grain_sheet() -> Mask:
    sheet = np.random.default_rng(5).standard_normal((2 * HEIGHT, 2 * WIDTH)).astype(np.float32)
    return 1 + np.float32(0.035) * cv2.GaussianBlur(sheet, (0, 0), 0.8)


def _grain(number: int) -> Mask:
    """Return a different part of one large grain picture for every frame."""
    y, x = np.random.default_rng(number).integers(0, (HEIGHT, WIDTH))
    return _grain_sheet()[y : y + HEIGHT, x : x + WIDTH]


def finished(picture: Pixels, number: int, exposure: float = 1.0) -> Codes:
    """Finish a scene: exposure, soft highlights, dark corners and fine grain."""
    out = np.empty(picture.shape, np.uint8)
    shades = _corners(), _grain(number)
    parallel_rows(_finish_rows, HEIGHT, picture, shades, np.float32(exposure), CODE_OF_LINEAR, out)
    return out


@kernel
def _finish_rows(
    picture: Any, shades: Any, exposure: Any, table: Any, out: Any, first: int, end: int
) -> None:
    corners, grain = shades
    shoulder, knee, floor = np.float32(0.55), np.float32(0.6), np.float32(0.0006)
    width = picture.shape[1]
    places = np.empty((width, 3), np.int32)
    for i in range(first, end):
        for j in range(width):
            shade = corners[i, j] * grain[i, j]
            for c in range(3):
                lit = np.float32(picture[i, j, c]) * exposure
                over = lit - knee if lit > knee else np.float32(0)
                soft = lit / (np.float32(1) + over * shoulder)
                places[j, c] = index_of_linear(soft * shade + floor, table)
        for j in range(width):
            for c in range(3):
                out[i, j, c] = table[np.uintp(places[j, c])]


DUSK = [(0.0, "#27284a"), (0.45, "#6a5780"), (0.75, "#d98c79"), (0.95, "#f6c58c"), (1.0, "#ffdda6")]
NIGHT = [(0.0, "#10122a"), (0.5, "#23264a"), (0.85, "#5a4a70"), (1.0, "#a86f72")]
