"""Fireworks over the harbour, doubled by the water."""

from typing import NamedTuple

import numpy as np

from idle_shimmer.core.picture.encoding import Codes, Pixels
from idle_shimmer.demo import paint

_INKS = ("#ffd27a", "#ff7a6b", "#8fe3d4", "#ffb0d0", "#b9c8ff")


class _Burst(NamedTuple):
    """One burst: its start in seconds, its centre in pixels, colour, seed and size."""

    start_s: float
    x: float
    y: float
    ink: str
    seed: int
    size: float


class Fireworks:
    """A still wide shot; each burst opens, falls and fades, its sparks leaving short trails."""

    title = "Fireworks"
    frames = 140
    horizon = 500

    def __init__(self) -> None:
        self.back = paint.sky((paint.HEIGHT, paint.WIDTH), paint.NIGHT, seed=61, cloud="#8c6f95")
        self.hill = paint.ridge((paint.HEIGHT, paint.WIDTH), 0.655, 16, 300, 19)
        rng = np.random.default_rng(62)
        starts = np.arange(-1.2, 7.5, 0.6)
        self.bursts = [
            _Burst(
                start,
                rng.uniform(180, 1100),
                rng.uniform(110, 270),
                _INKS[k % len(_INKS)],
                100 + k,
                rng.uniform(0.75, 1.25),
            )
            for k, start in enumerate(starts)
        ]

    def frame(self, number: int) -> Codes:
        """Return frame ``number``."""
        t = number / paint.RATE
        lights = np.zeros((paint.HEIGHT, paint.WIDTH, 3), np.float32)
        flash = 0.0
        for burst in self.bursts:
            age = t - burst.start_s
            if 0 <= age < 2.4:
                self._draw(burst, lights, age)
                flash += np.exp(-age * 7) * burst.size
        picture = self.back * np.float32(0.7 + 0.5 * flash)
        picture = paint.over(picture, self.hill, paint.colour("#12132a") * (1 + 3 * flash))
        paint.glow(picture, lights, 1.1)
        return paint.finished(paint.water(picture, self.horizon, t, chop=1.3), number, 1.0)

    def _draw(self, burst: _Burst, lights: Pixels, age: float) -> None:
        ink = paint.colour(burst.ink)
        rng = np.random.default_rng(burst.seed)
        count = 110
        angle, lift = rng.uniform(0, 2 * np.pi, count), rng.uniform(-1, 1, count)
        flat = np.sqrt(1 - lift**2) * rng.uniform(0.85, 1.0, count)
        for trail in range(5):
            past = age - trail * 0.035
            if past <= 0:
                continue
            far = 190 * burst.size * (1 - np.exp(-2.3 * past))
            px = burst.x + far * flat * np.cos(angle)
            py = burst.y + far * flat * np.sin(angle) + 34 * past**2
            fade = np.exp(-1.5 * past) * 0.72**trail * (0.7 + 0.3 * np.sin(40 * age + angle * 9))
            heat = np.clip(1.2 - past, 0, 1)
            tone = ink + (1 - ink) * heat * 0.7
            seen = fade > 0.02
            paint.dots(lights, px[seen], py[seen], 1.9, tone * (5.5 * fade[seen])[:, None])
