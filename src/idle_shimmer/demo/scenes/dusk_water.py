"""The harbour at dusk: hills, a town's first lights, water, seen in a slow pan."""

import numpy as np

from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.demo import paint


class DuskWater:
    """A wide shot; the camera drifts right and the hills move more slowly."""

    title = "Dusk water"
    frames = 120
    horizon = 405

    def __init__(self) -> None:
        shape = (self.horizon, paint.WIDTH + 260)
        self.sky = paint.sky(shape, paint.DUSK, seed=11)
        y, x = np.mgrid[: shape[0], : shape[1]].astype(np.float32)
        distance = np.hypot((x - 900) * 0.8, y - 392)
        self.sky += (np.exp(-distance / 60) * 2.2 + np.exp(-distance / 220) * 0.5)[
            ..., None
        ] * paint.colour("#ffb46b")
        self.hills = [
            (paint.ridge(shape, 0.84, 26, 420, 3), paint.colour("#6b5876"), 0.35),
            (paint.ridge(shape, 0.90, 20, 300, 8), paint.colour("#41405f"), 0.6),
            (paint.ridge(shape, 0.965, 9, 160, 5), paint.colour("#23263d"), 1.0),
        ]
        rng = np.random.default_rng(4)
        self.lights = np.column_stack(
            [
                rng.uniform(0, shape[1], 90),
                rng.normal(389, 5, 90),
                rng.uniform(1.2, 2.6, 90),
                rng.uniform(0, 6, 90),
            ]
        )

    def frame(self, number: int) -> Codes:
        """Return frame ``number``."""
        t = number / paint.RATE
        pan = 18 * t
        picture = np.zeros((paint.HEIGHT, paint.WIDTH, 3), np.float32)
        upper = self._window(self.sky, pan * 0.15)
        for mask, ink, pace in self.hills:
            upper = paint.over(upper, self._window(mask, pan * pace), ink)
        picture[: self.horizon] = upper
        lamps = np.zeros_like(picture)
        x, y, size, phase = self.lights.T
        flicker = 0.8 + 0.2 * np.sin(3 * t + phase)
        ink = paint.colour("#ffc27a") * (5 * flicker[:, None])
        paint.dots(lamps, x - pan, np.minimum(y, 402), size, ink)
        blink = 4.0 if number % 38 < 12 else 0.3
        paint.dot(lamps, 260 - pan, 392, 3, paint.colour("#ff5a3c") * blink)
        paint.glow(picture, lamps, 1.2)
        return paint.finished(paint.water(picture, self.horizon, t), number, 0.95)

    def _window(self, layer: np.ndarray, x: float) -> np.ndarray:
        return paint.crop(layer, x, 0)[: self.horizon]
