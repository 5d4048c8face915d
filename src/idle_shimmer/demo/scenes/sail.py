"""A hoisted sail, backlit, filling and slackening in the evening wind."""

import cv2
import numpy as np

from idle_shimmer.core.picture.encoding import Codes, Pixels
from idle_shimmer.demo import paint


class Sail:
    """A close shot; the camera tilts up along the mast while the cloth breathes."""

    title = "Hoisted sail"
    frames = 122

    def __init__(self) -> None:
        self.shape = (paint.HEIGHT + 260, paint.WIDTH + 80)
        stops = [(0, "#2d3157"), (0.4, "#7a5f86"), (0.8, "#e39a7e"), (1, "#ffd49a")]
        self.sky = paint.sky(self.shape, stops, seed=21)
        self.cloth = self._paint_cloth()
        self.mask = self._paint_mask()

    def _paint_mask(self) -> np.ndarray:
        mask = np.zeros(self.shape, np.float32)
        leech = [
            (430 + 560 * np.sin(s * np.pi / 2) ** 1.2 + 60 * np.sin(s * np.pi), 30 + 900 * s)
            for s in np.linspace(0, 1, 60)
        ]
        outline = np.array([(430, 20), *leech, (430, 900)], np.float32)
        cv2.fillPoly(mask, [np.rint(outline * 16).astype(np.int32)], 1.0, cv2.LINE_AA, 4)
        return cv2.GaussianBlur(mask, (0, 0), 0.8)

    def _paint_cloth(self) -> Pixels:
        y, x = np.mgrid[: self.shape[0], : self.shape[1]].astype(np.float32)
        belly = np.exp(-(((x - 700) / 260) ** 2) - ((y - 560) / 420) ** 2)
        folds = (
            paint.fractal(self.shape, (500, 60), 5, 4) * 0.10
            + paint.fractal(self.shape, (5, 5), 6, 2) * 0.015
        )
        light = 0.38 + 0.42 * belly + folds
        cloth = light[..., None] * paint.colour("#ffe6c4")
        for k in range(1, 12):
            seam = np.abs(y + 0.20 * (x - 430) - 80 * k - 20)
            cloth *= (1 - 0.35 * np.exp(-((seam / 1.8) ** 2)))[..., None]
        for k in range(3):
            reef = np.abs(y - 620 - 95 * k) < 4
            cloth[reef & ((x.astype(int) // 46) % 2 == 0)] *= 0.55
        return cloth.astype(np.float32)

    def frame(self, number: int) -> Codes:
        """Return frame ``number``."""
        t = number / paint.RATE
        tilt = 225 - 34 * t
        sway = 9 * np.sin(1.7 * t) + 4 * np.sin(3.9 * t + 1)
        picture = paint.crop(self.sky, 20 + 3 * t, tilt * 0.25)
        x = np.arange(paint.WIDTH, dtype=np.float32)[None, :]
        y = np.arange(paint.HEIGHT, dtype=np.float32)[:, None]
        reach = np.clip((x - 430) / 500, 0, 1.3).astype(np.float32)
        # sin(a + b), from the sines of a column and a row.
        down = (0.006 * y - 3.4 * t).astype(np.float32)
        wave = np.sin(down) * (np.cos(0.011 * x) * reach)
        wave += np.cos(down) * (np.sin(0.011 * x) * reach)
        map_x = (x + 20 - np.float32(sway) * reach) - 7 * wave
        map_y = (y + np.float32(tilt)) + 5 * wave
        cloth = cv2.remap(
            self.cloth, map_x, map_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
        )
        mask = cv2.remap(self.mask, map_x, map_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
        shade = cv2.cvtColor(1 + np.float32(0.22) * wave, cv2.COLOR_GRAY2RGB)
        picture = paint.over(picture, mask, cv2.multiply(cloth, shade, cloth))
        lamps = np.zeros_like(picture)
        paint.dot(lamps, 404, 46 - tilt + 190, 5, paint.colour("#ffe9c0") * 12)
        picture = self._rigging(picture, tilt, sway)
        paint.glow(picture, lamps, 1.5)
        return paint.finished(picture, number, 1.05)

    def _rigging(self, picture: Pixels, tilt: float, sway: float) -> Pixels:
        ink = np.zeros(picture.shape[:2], np.float32)
        cv2.line(ink, (404, -20), (404, paint.HEIGHT + 20), 1.0, 15, cv2.LINE_AA)
        for foot, thick in ((-160, 2), (60, 2), (1100, 3), (1330, 2)):
            head = (404 * 16, int((60 - tilt - 200) * 16))
            end = (int((foot + sway * 0.3) * 16), int((1000 - tilt) * 16))
            cv2.line(ink, head, end, 1.0, thick, cv2.LINE_AA, 4)
        return paint.over(picture, cv2.blur(ink, (3, 3)), paint.colour("#2a1f24"))
