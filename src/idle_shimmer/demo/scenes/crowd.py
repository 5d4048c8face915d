"""The crowd on the pier, dark against the lit water, some with sparklers."""

import cv2
import numpy as np

from idle_shimmer.core.picture.encoding import Codes, Pixels
from idle_shimmer.demo import paint


class Crowd:
    """A slow push in; heads bob, sparklers spit, discs of light drift far behind."""

    title = "Pier crowd"
    frames = 120

    def __init__(self) -> None:
        stops = [(0, "#171732"), (0.45, "#4a3a63"), (0.7, "#b8705f"), (1, "#f0a766")]
        self.back = paint.sky((paint.HEIGHT, paint.WIDTH), stops, seed=41)
        rng = np.random.default_rng(42)
        self.discs = [
            (
                rng.uniform(-40, 1320),
                rng.normal(300, 70),
                rng.uniform(12, 34),
                rng.uniform(0, 6),
                rng.integers(3),
            )
            for _ in range(46)
        ]
        self.rows = [
            self._people(seed, count, size, base)
            for seed, count, size, base in ((1, 30, 24, 520), (2, 20, 40, 600), (3, 12, 66, 720))
        ]

    def _people(self, seed: int, count: int, size: float, base: float) -> list[tuple[float, ...]]:
        rng = np.random.default_rng(seed)
        places = np.linspace(-60, paint.WIDTH + 60, count) + rng.normal(0, size * 0.5, count)
        return [
            (
                x,
                base + rng.normal(0, size * 0.25),
                size * rng.uniform(0.85, 1.15),
                rng.uniform(0, 6),
            )
            for x in places
        ]

    def frame(self, number: int) -> Codes:
        """Return frame ``number``."""
        t = number / paint.RATE
        zoom = 1 + 0.012 * t
        picture = self.back * np.float32(0.8)
        lights = np.zeros_like(picture)
        inks = np.array([paint.colour(text) for text in ("#ffb765", "#ff7d5c", "#9fd8c8")])
        x, y, radius, phase, tint = np.array(self.discs).T
        shine = 0.28 + 0.1 * np.sin(2 * t + phase)
        ink = inks[tint.astype(int)] * shine[:, None]
        paint.dots(lights, x + 14 * np.sin(0.4 * t + phase), y, radius, ink, 3)
        self._sparklers(lights, self.rows[0], t, number)
        paint.glow(picture, lights, 0.8)
        for depth, row in enumerate(self.rows):
            haze = paint.colour(("#3a2c47", "#1f1a2e", "#0b0a14")[depth])
            picture = paint.over(picture, self._silhouettes(row, t, 1 + depth * 0.35), haze)
            if depth == 1:
                sparks = np.zeros_like(picture)
                self._sparklers(sparks, row, t, number)
                paint.glow(picture, sparks, 1.3)
        return paint.finished(
            paint.crop(picture, 640 - 640 / zoom, 380 - 380 / zoom, zoom), number, 1.0
        )

    def _silhouettes(self, row: list[tuple[float, ...]], t: float, pace: float) -> np.ndarray:
        ink = np.zeros((paint.HEIGHT, paint.WIDTH), np.float32)
        for x, y, size, phase in row:
            bob = size * 0.10 * np.sin(2.1 * pace * t + phase)
            centre = (int((x + bob * 0.5) * 16), int((y + bob) * 16))
            cv2.ellipse(
                ink, centre, (int(size * 7.4), int(size * 9.3)), 0, 0, 360, 1.0, -1, cv2.LINE_AA, 4
            )
            body = (centre[0], int((y + bob + size * 2.25) * 16))
            cv2.ellipse(
                ink, body, (int(size * 19), int(size * 26)), 0, 0, 360, 1.0, -1, cv2.LINE_AA, 4
            )
        floor = int(row[0][1] + row[0][2] * 2.2)
        ink[min(floor, paint.HEIGHT) :] = 1
        return cv2.blur(ink, (3, 3))

    def _sparklers(
        self, lights: Pixels, row: list[tuple[float, ...]], t: float, number: int
    ) -> None:
        rng = np.random.default_rng(number * 7 + len(row))
        for x, y, size, phase in row[3::6]:
            hand = (
                x + size * 1.1 + size * 0.6 * np.sin(2.6 * t + phase),
                y - size * (1.2 + 0.4 * np.cos(2.6 * t + phase)),
            )
            paint.dot(lights, *hand, size * 0.12 + 2, paint.colour("#fff0c8") * 9)
            angle, far = rng.uniform(0, 2 * np.pi, 26), size * rng.uniform(0.1, 0.9, 26)
            px, py = hand[0] + far * np.cos(angle), hand[1] + far * np.sin(angle)
            paint.dots(lights, px, py, 1.4, paint.colour("#ffd58a") * 4)
