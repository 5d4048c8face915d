"""The carousel of lights: a great wheel that turns above the pier."""

import cv2
import numpy as np

from idle_shimmer.core.picture.encoding import Codes, Pixels
from idle_shimmer.demo import paint

_RINGS = (
    (236, 48, "#ffe2b0", 1.0),
    (196, 40, "#ff9fb8", 1.0),
    (156, 32, "#8fe3d4", -0.6),
    (112, 24, "#ffc27a", -0.6),
    (66, 16, "#d9b8ff", 1.0),
)


class Carousel:
    """Nearly head on; the rings of bulbs turn against one another and ripple in brightness."""

    title = "Carousel of lights"
    frames = 128
    horizon = 600

    def __init__(self) -> None:
        stops = [(0, "#141433"), (0.55, "#34305c"), (0.82, "#7b5470"), (1, "#c98670")]
        self.back = paint.sky((paint.HEIGHT, paint.WIDTH + 60), stops, seed=51, cloud="#b98aa8")
        self.ground = paint.ridge((paint.HEIGHT, paint.WIDTH + 60), 0.815, 12, 120, 14)

    def frame(self, number: int) -> Codes:
        """Return frame ``number``."""
        t = number / paint.RATE
        picture = paint.crop(self.back, 5 * t, 0)
        centre = (650 - 6 * t, 300.0)
        picture = self._frame_work(picture, centre, t)
        lights = np.zeros_like(picture)
        for radius, bulbs, ink, pace in _RINGS:
            angle = 2 * np.pi * np.arange(bulbs) / bulbs + 0.42 * pace * t
            shine = 2.6 + 2.2 * np.sin(6 * angle - 5 * t) ** 2
            x, y = centre[0] + radius * np.cos(angle), centre[1] + radius * np.sin(angle)
            paint.dots(lights, x, y, 4.2, paint.colour(ink) * shine[:, None])
        paint.dot(lights, *centre, 15, paint.colour("#fff2cf") * 2.4, 4)
        paint.glow(picture, lights, 0.95)
        picture = paint.over(picture, paint.crop(self.ground, 9 * t, 0), paint.colour("#0e0d1c"))
        return paint.finished(paint.water(picture, self.horizon, t, chop=0.8), number, 1.0)

    def _frame_work(self, picture: Pixels, centre: tuple[float, float], t: float) -> Pixels:
        ink = np.zeros(picture.shape[:2], np.float32)
        middle = (int(centre[0] * 16), int(centre[1] * 16))
        for k in range(16):
            angle = 2 * np.pi * k / 16 + 0.42 * t
            end = (
                int((centre[0] + 240 * np.cos(angle)) * 16),
                int((centre[1] + 240 * np.sin(angle)) * 16),
            )
            cv2.line(ink, middle, end, 0.8, 2, cv2.LINE_AA, 4)
        for radius, *_ in _RINGS[::2]:
            cv2.circle(ink, middle, radius * 16, 0.7, 2, cv2.LINE_AA, 4)
        for foot in (-150, 150):
            cv2.line(ink, middle, (int((centre[0] + foot) * 16), 640 * 16), 1.0, 9, cv2.LINE_AA, 4)
        return paint.over(picture, ink, paint.colour("#1c1830"))
