"""Brushes of the demo scenes: skies, hills, water, lights. Linear light, float32 (H, W, 3)."""

from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.bands import over_rows
from idle_shimmer.core.filters.gaussian import gaussian
from idle_shimmer.core.kernel import kernel
from idle_shimmer.core.picture import Pixels, linear_of_display

WIDTH, HEIGHT, RATE = 1280, 720, 25
Mask = NDArray[np.float32]


def colour(text: str) -> NDArray[np.float32]:
    """Linear light of ``"#rrggbb"``, (3,)."""
    codes = [int(text[i : i + 2], 16) for i in (1, 3, 5)]
    return linear_of_display(np.array(codes) / 255).astype(np.float32)


def fractal(shape: tuple[int, int], cell: tuple[float, float], seed: int, octaves: int = 5) -> Mask:
    """Smooth noise, about -1…1, whose largest features are ``cell`` (high, wide) pixels."""
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
    """A graded evening sky with thin clouds; ``stops`` are (height 0…1 from the top, colour)."""
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
    """A mask of hills: 1 below a soft skyline at ``level`` (share of the height)."""
    line = fractal((8, shape[1]), (8, wide), seed, 6)[4] * rise + level * shape[0]
    rows = np.arange(shape[0], dtype=np.float32)[:, None]
    return np.clip(rows - line[None, :] + 0.5, 0, 1)


def over(picture: Pixels, mask: Mask, ink: NDArray[np.float32] | Pixels) -> Pixels:
    """``ink`` laid over ``picture`` where ``mask`` is 1."""
    out = np.empty_like(picture)
    inks = np.broadcast_to(np.asarray(ink, np.float32), picture.shape)
    over_rows(_over_rows, picture.shape[0], picture, mask, inks, out)
    return out


@kernel
def _over_rows(picture: Any, mask: Any, ink: Any, out: Any, first: int, end: int) -> None:
    for i in range(first, end):
        for j in range(picture.shape[1]):
            m = mask[i, j]
            for c in range(3):
                out[i, j, c] = picture[i, j, c] + m * (ink[i, j, c] - picture[i, j, c])


def glow(lights: Pixels, strength: float = 1.0) -> Pixels:
    """``lights`` with the halos of a lens around them, at three scales."""
    small = cv2.resize(lights, None, fx=0.25, fy=0.25, interpolation=cv2.INTER_AREA)
    near, far = gaussian(small, sigma_x=3, sigma_y=3), gaussian(small, sigma_x=14, sigma_y=14)
    halo = cv2.addWeighted(near, 0.55 * strength, far, 0.6 * strength, 0)
    return lights + cv2.resize(halo, lights.shape[1::-1], interpolation=cv2.INTER_LINEAR)


@lru_cache(maxsize=4096)
def _disc(radius: float, softness: int, dx: float, dy: float) -> Mask:
    """A round stamp whose centre lies (dx, dy) right of and below its middle pixel."""
    side = 2 * (int(radius) + softness + 1) + 1
    y, x = np.mgrid[:side, :side] - side // 2
    away = np.hypot(x - dx, y - dy)
    return np.clip((radius - away) / max(softness, 1) + 0.5, 0, 1).astype(np.float32)


def dot(
    lights: Pixels, x: float, y: float, radius: float, ink: NDArray[np.float32], softness: int = 1
) -> None:
    """Adds a round light to ``lights``, in place, to a quarter of a pixel."""
    # A light smaller than its stamp is dimmed instead of shrunk, so that it does not flicker.
    power = min(1.0, (radius / 3) ** 2 * 2) if radius < 3 else 1.0
    stamp_radius, softness = (3.0, softness + 1) if radius < 3 else (float(round(radius)), softness)
    left, top = int(np.floor(x)), int(np.floor(y))
    stamp = _disc(stamp_radius, softness, round(4 * (x - left)) / 4, round(4 * (y - top)) / 4)
    left, top = left - stamp.shape[1] // 2, top - stamp.shape[0] // 2
    x0, y0 = max(left, 0), max(top, 0)
    x1, y1 = min(left + stamp.shape[1], lights.shape[1]), min(top + stamp.shape[0], lights.shape[0])
    if x1 > x0 and y1 > y0:
        part = stamp[y0 - top : y1 - top, x0 - left : x1 - left]
        lights[y0:y1, x0:x1] += part[..., None] * (ink * power).astype(np.float32)


def water(
    above: Pixels, horizon: int, t: float, *, chop: float = 1.0, tint: str = "#6f86a0"
) -> Pixels:
    """``above`` with everything below row ``horizon`` replaced by its trembling reflection."""
    height, width = above.shape[:2]
    depth = np.arange(height - horizon, dtype=np.float32)[:, None]
    near = depth / (height - horizon)
    x = np.arange(width, dtype=np.float32)[None, :]
    # Waves shrink towards the horizon: their phase runs with the logarithm of nearness.
    phase = 46 * np.log1p(14 * near)
    sway = (
        _wave(phase * 2.3 - 3.1 * t, x * 0.010)
        + 0.7 * _wave(phase * 3.7 + 2.3 * t + 1.0, x * -0.017)
        + 0.5 * _wave(phase * 6.1 - 4.7 * t + 2.0, x * 0.031)
    )
    map_x = (x + sway * ((2 + 26 * near) * chop)).astype(np.float32)
    map_y = (horizon - 1 - depth * 0.96 + sway * ((1 + 12 * near) * chop)).astype(np.float32)
    mirrored = cv2.remap(
        above,
        map_x,
        cv2.min(cv2.max(map_y, 0), horizon - 1),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REFLECT,
    )
    mirrored = cv2.sepFilter2D(
        mirrored, cv2.CV_32F, np.ones(1, np.float32), np.full(5, 0.2, np.float32)
    )
    shade = (0.78 - 0.42 * near)[..., None] * (0.55 + 0.45 * colour(tint) / colour(tint).max())
    glint = cv2.max(sway - np.float32(1.55), 0) * (0.05 * (1 - near))
    out = above.copy()
    out[horizon:] = mirrored * shade.astype(np.float32) + glint[..., None] * colour("#ffd9b0")
    return out


def _wave(down: Mask, across: Mask) -> Mask:
    """sin(down + across), from the sines of a column and a row."""
    both = np.sin(down) * np.cos(across) + np.cos(down) * np.sin(across)
    return both.astype(np.float32)


def crop(layer: NDArray[np.float32], x: float, y: float, zoom: float = 1.0) -> NDArray[np.float32]:
    """The frame seen through a camera whose top-left corner is (x, y) of ``layer``."""
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
    """Another part of one sheet of grain for every frame."""
    y, x = np.random.default_rng(number).integers(0, (HEIGHT, WIDTH))
    return _grain_sheet()[y : y + HEIGHT, x : x + WIDTH]


def finished(picture: Pixels, number: int, exposure: float = 1.0) -> Pixels:
    """The last step of every scene: exposure, a soft shoulder, dark corners and fine grain."""
    out = np.empty(picture.shape, np.float32)
    over_rows(_finish_rows, HEIGHT, picture, _corners(), _grain(number), np.float32(exposure), out)
    return out


@kernel
def _finish_rows(
    picture: Any, corners: Any, grain: Any, exposure: Any, out: Any, first: int, end: int
) -> None:
    shoulder, knee, floor = np.float32(0.55), np.float32(0.6), np.float32(0.0006)
    for i in range(first, end):
        for j in range(picture.shape[1]):
            shade = corners[i, j] * grain[i, j]
            for c in range(3):
                lit = np.float32(picture[i, j, c]) * exposure
                soft = lit / (np.float32(1) + max(lit - knee, np.float32(0)) * shoulder)
                out[i, j, c] = soft * shade + floor


DUSK = [(0.0, "#27284a"), (0.45, "#6a5780"), (0.75, "#d98c79"), (0.95, "#f6c58c"), (1.0, "#ffdda6")]
NIGHT = [(0.0, "#10122a"), (0.5, "#23264a"), (0.85, "#5a4a70"), (1.0, "#a86f72")]
