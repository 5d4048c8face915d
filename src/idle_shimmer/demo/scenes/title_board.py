"""The title board at the gate: LANTERN NIGHT in bulbs on weathered planks."""

import cv2
import numpy as np

from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.demo import paint

_LETTERS = {
    "L": "10000 10000 10000 10000 10000 10000 11111",
    "A": "01110 10001 10001 11111 10001 10001 10001",
    "N": "10001 11001 11001 10101 10011 10011 10001",
    "T": "11111 00100 00100 00100 00100 00100 00100",
    "E": "11111 10000 10000 11110 10000 10000 11111",
    "R": "11110 10001 10001 11110 10100 10010 10001",
    "I": "01110 00100 00100 00100 00100 00100 01110",
    "G": "01111 10000 10000 10111 10001 10001 01110",
    "H": "10001 10001 10001 11111 10001 10001 10001",
}


class TitleBoard:
    """The bulbs come on letter by letter; the border chases round; the camera eases in."""

    title = "Title board"
    frames = 105
    pitch = 22

    def __init__(self) -> None:
        y, x = np.mgrid[: paint.HEIGHT, : paint.WIDTH].astype(np.float32)
        grain = paint.fractal((paint.HEIGHT, paint.WIDTH), (16, 420), 81, 6)
        planks = 0.16 + 0.05 * grain
        seam = np.abs((y % 120) - 60)
        planks *= 1 - 0.6 * np.exp(-(((60 - seam) / 2.2) ** 2))
        shade = 0.5 + 0.5 * np.exp(-(((x - 640) / 560) ** 2) - ((y - 360) / 300) ** 2)
        self.board = ((planks * shade)[..., None] * paint.colour("#c98a5e")).astype(np.float32)
        self.bulbs = [*self._word("LANTERN", 150, 0), *self._word("NIGHT", 390, 7)]
        self.border = self._border()

    def _word(self, word: str, top: int, first: int) -> list[tuple[float, float, int]]:
        width = (len(word) * 6 - 1) * self.pitch
        left = (paint.WIDTH - width + self.pitch) / 2
        return [
            (left + (n * 6 + c) * self.pitch, top + r * self.pitch * 1.18, first + n)
            for n, letter in enumerate(word)
            for r, row in enumerate(_LETTERS[letter].split())
            for c, lit in enumerate(row)
            if lit == "1"
        ]

    def _border(self) -> list[tuple[float, float]]:
        across = [(x, y) for y in (64, 656) for x in np.linspace(70, 1210, 39)]
        down = [(x, y) for x in (70, 1210) for y in np.linspace(95, 625, 18)]
        return sorted(across + down, key=lambda p: np.arctan2(p[1] - 360, p[0] - 640))

    def frame(self, number: int) -> Codes:
        """Return frame ``number``."""
        t = number / paint.RATE
        lights = np.zeros((paint.HEIGHT, paint.WIDTH, 3), np.float32)
        x, y, order = np.array(self.bulbs).T
        on = (1 / (1 + np.exp(-(t - 0.12 * order) * 14)))[:, None]
        paint.dots(lights, x, y, 7, paint.colour("#ffcf86") * (0.12 + 2.4 * on), 2)
        paint.dots(lights, x - 1, y - 1, 3, paint.colour("#fff6df") * (2.4 * on), 1)
        x, y = np.array(self.border).T
        chase = 0.35 + 2.1 * (np.sin(np.arange(x.size) * 0.7 - 7 * t) > 0.2)
        paint.dots(lights, x, y, 5, paint.colour("#ff9a5c") * chase[:, None], 2)
        halo = paint.halo(lights)
        lit = cv2.multiply(self.board, cv2.min(halo, 1), scale=5.5)
        lit = cv2.scaleAdd(self.board, 0.5, lit)
        cv2.add(lit, lights, lit)
        cv2.add(lit, halo, lit)
        zoom = 1 + 0.010 * t
        return paint.finished(
            paint.crop(lit, 640 - 640 / zoom, 360 - 360 / zoom, zoom), number, 1.0
        )
