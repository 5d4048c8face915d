"""A picture and its halved copies, for maps that shrink it."""

import math

import cv2
import numpy as np

from idle_shimmer.core.picture.encoding import Pixels


def halved(pixels: Pixels, level: int) -> Pixels:
    """Return the picture area-averaged to 1 / 2^level of its size, at least one pixel a side."""
    if level == 0:
        return pixels
    height, width = pixels.shape[:2]
    size = (max(1, round(width / 2**level)), max(1, round(height / 2**level)))
    return cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)


def max_level(pixels: Pixels) -> int:
    """Return how often the picture can be halved."""
    return max(0, math.floor(math.log2(min(pixels.shape[:2]))))


class Pyramid:
    """A picture and its halved copies as kernels take them; ``size`` is its (H, W).

    ``arrays`` are (whole, halved, places): the picture as a flat array, the copies in one flat array,
    and (first float, rows, columns) of each level; level 0 is the whole picture.
    """

    def __init__(self, pixels: Pixels, halvings: int) -> None:
        self.size = pixels.shape[0], pixels.shape[1]
        levels = [pixels]
        for _ in range(halvings):
            levels.append(halved(levels[-1], 1))
        whole = pixels.reshape(-1)
        places = np.zeros((len(levels), 3), np.int64)
        starts = np.cumsum([0, *(level.size for level in levels[1:])])
        for n, level in enumerate(levels):
            places[n] = (starts[n - 1] if n else 0, *level.shape[:2])
        copies = np.concatenate([whole[:0], *(level.ravel() for level in levels[1:])])
        self.arrays = (whole, copies, places)
