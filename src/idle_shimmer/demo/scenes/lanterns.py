"""Rows of lanterns over the quay, swaying, and their reflections."""

from functools import lru_cache
from typing import NamedTuple

import numpy as np

from idle_shimmer.core.picture.encoding import Codes, Pixels
from idle_shimmer.demo import paint

_INKS = ("#ffb24d", "#ff8f45", "#ffd27a", "#ff6a4a", "#ffe3a1")


class _Row(NamedTuple):
    """One string of lanterns: speed in px/s, sizes in pixels, brightness."""

    number: int
    pace: float
    spacing: float
    radius: float
    height: float
    power: float
    softness: int = 2


_FAR_ROWS = (
    _Row(0, 36, 62, 5, 330, 3.2),
    _Row(1, 62, 104, 11, 240, 2.2),
    _Row(2, 104, 190, 24, 120, 1.4),
)
_NEAR_ROW = _Row(7, 230, 430, 58, 40, 0.5, softness=22)


class Lanterns:
    """A tracking shot: the near row moves fast and out of focus, the far ones slowly."""

    title = "Lantern rows"
    frames = 140
    horizon = 470

    def __init__(self) -> None:
        self.sky = paint.sky(
            (paint.HEIGHT, paint.WIDTH + 100), paint.NIGHT, seed=31, cloud="#c98a90"
        )
        self.hill = paint.ridge((paint.HEIGHT, paint.WIDTH + 200), 0.60, 18, 380, 9)

    def frame(self, number: int) -> Codes:
        """Return frame ``number``."""
        t = number / paint.RATE
        picture = paint.crop(self.sky, 4 * t, 0)
        picture = paint.over(picture, paint.crop(self.hill, 10 * t, 0), paint.colour("#1b1c33"))
        lights = np.zeros_like(picture)
        for row in _FAR_ROWS:
            self._draw(row, lights, t)
        paint.glow(picture, lights, 0.9)
        picture = paint.water(picture, self.horizon, t, chop=1.2, tint="#7d8bb0")
        near = np.zeros_like(picture)
        self._draw(_NEAR_ROW, near, t)
        return paint.finished(picture + near, number, 1.0)

    def _draw(self, row: _Row, lights: Pixels, t: float) -> None:
        """Draw one string of lanterns, which hangs in shallow curves and moves left."""
        number, pace, spacing, radius, height, power, softness = row
        shift = pace * t
        first = int((shift - 200) // spacing)
        k = np.arange(first, first + int((paint.WIDTH + 400) / spacing) + 2)
        swing = np.sin(1.3 * t + 0.6 * k + number) * radius * 0.35
        sag = 26 * np.sin(np.pi * ((k * spacing / 520) % 1.0)) * (1 + number * 0.3)
        ink = np.array([self._ink(number * 1000 + n % 997) for n in k.tolist()])
        shine = (power * (0.85 + 0.15 * np.sin(5 * t + 2.1 * k)))[:, None]
        x, y = k * spacing - shift + swing, height + sag
        paint.dots(lights, x, y, radius, ink * shine, softness)
        if radius > 4 and softness < 10:
            flame = paint.colour("#fff3d0") * shine
            paint.dots(lights, x, y + radius * 0.2, radius * 0.45, flame, 2)

    @staticmethod
    @lru_cache(maxsize=4096)
    def _ink(seed: int) -> np.ndarray:
        return paint.colour(_INKS[int(np.random.default_rng(seed).integers(len(_INKS)))])
