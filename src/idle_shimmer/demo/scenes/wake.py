"""The wake of a boat on its way out, foam on dark water, the harbour's lights behind."""

import cv2
import numpy as np

from idle_shimmer.core.picture.encoding import Codes, Pixels
from idle_shimmer.demo import paint


class Wake:
    """Looking back over the stern: the water streams away in perspective and rocks gently."""

    title = "Wake"
    frames = 112
    horizon = 210

    def __init__(self) -> None:
        self.back = paint.sky(
            (paint.HEIGHT, paint.WIDTH),
            [(0, "#2a2c52"), (0.2, "#7c5a7c"), (0.3, "#e79a78"), (1, "#e79a78")],
            seed=71,
        )
        self.hill = paint.ridge((paint.HEIGHT, paint.WIDTH), 0.275, 14, 260, 23)
        shape = (1024, 1024)
        self.chop = paint.fractal(shape, (70, 90), 72, 6)
        self.foam = np.clip(paint.fractal(shape, (60, 36), 73, 7) + 0.15, 0, None)
        rng = np.random.default_rng(74)
        self.lamps = [(rng.uniform(0, paint.WIDTH), rng.normal(203, 3)) for _ in range(60)]
        # Water and foam are drawn at half size, which is enough and four times as fast.
        y, x = np.mgrid[self.horizon : paint.HEIGHT : 2, : paint.WIDTH : 2].astype(np.float32)
        self.depth = np.float32(5200) / (y - self.horizon + 9)
        self.side = (x - 640) * self.depth / 420
        self.near = np.clip(1 - self.depth / 420, 0, 1)
        spread = np.abs(self.side) / (6 + self.depth * 0.16)
        crest = np.exp(-(((spread - 1.0) / 0.30) ** 2)) + 0.55 * np.exp(-((spread / 0.55) ** 2))
        self.crest = crest * np.clip(self.near + 0.25, 0, 1)

    def frame(self, number: int) -> Codes:
        """Return frame ``number``."""
        t = number / paint.RATE
        picture = paint.over(self.back, self.hill, paint.colour("#2c2942"))
        lamps = np.zeros_like(picture)
        x, y = np.array(self.lamps).T
        paint.dots(lamps, x, np.minimum(y, 208), 2.0, paint.colour("#ffcf8a") * 4)
        paint.glow(picture, lamps, 1.3)
        sea_size = (paint.WIDTH, paint.HEIGHT - self.horizon)
        picture[self.horizon :] = cv2.resize(self._sea(t), sea_size, interpolation=cv2.INTER_CUBIC)
        rock = 1.1 * np.sin(1.5 * t)
        turn = cv2.getRotationMatrix2D((640, 360), rock, 1.045)
        turn[1, 2] += 7 * np.sin(1.9 * t + 0.6)
        picture = cv2.warpAffine(
            picture, turn, (paint.WIDTH, paint.HEIGHT), borderMode=cv2.BORDER_REFLECT
        )
        return paint.finished(picture, number, 1.0)

    def _sea(self, t: float) -> Pixels:
        away = self.depth * np.float32(9) - np.float32(300 * t)
        waves = self._tiled(self.chop, self.side * 5, away)
        fine = self._tiled(self.chop, self.side * 16 + np.float32(90 * t), away * np.float32(2.6))
        near = self.near
        swell = 0.5 + 0.28 * waves + 0.16 * fine * near
        low, high = paint.colour("#0d2236"), paint.colour("#d98f7c")
        sea = low + (cv2.pow(np.clip(swell, 0, 1.5), 2.2) * (0.25 + 0.75 * (1 - near)))[
            ..., None
        ] * (high - low)
        churn = self._tiled(self.foam, self.side * 9, away * np.float32(1.4)) * self.crest
        return (sea + (churn * 0.75)[..., None] * paint.colour("#eadfd6")).astype(np.float32)

    def _tiled(self, texture: np.ndarray, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        size = np.float32(texture.shape[0])
        # Mirrored tiles meet away from the middle of the frame, where the symmetry is not noticed.
        across = np.abs(_wrapped(x + np.float32(1.4) * size, 2 * size) - size)
        along = np.abs(_wrapped(y + size, 2 * size) - size)
        return cv2.remap(texture, across, along, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT)


def _wrapped(x: np.ndarray, period: np.float32) -> np.ndarray:
    """Return ``x`` modulo ``period``."""
    return x - period * np.floor(x / period)
