"""Prints a digest of the frames and the accent of every built-in recipe, for comparing two states of the code.

    python -m scripts.recipe_frames > before.txt, change the code, again > after.txt, then diff both

Every frame of each recipe's own window and one more on each side is rendered over two photographs that
move, as a preview (8 bits) and as it is written (unrounded), with a subject marked in both.
"""

import hashlib
from dataclasses import dataclass
from functools import cache
from typing import Any

import cv2
import numpy as np
import skimage.data
from numpy.typing import NDArray

from idle_shimmer.book.entries import Entry, book
from idle_shimmer.core.compute.parallel import set_threads
from idle_shimmer.transition.transition import Subjects, Transition

_SIZE = (192, 108)
_COUNT, _CUT = 600, 300


@dataclass(frozen=True)
class MovingPhotograph:
    """A clip of ``_COUNT`` frames: a photograph that moves by two pixels a frame."""

    name: str
    count: int | None = _COUNT

    def frame(self, number: int) -> NDArray[np.uint8]:
        """Return a frame, uint8 (H, W, 3)."""
        return np.ascontiguousarray(np.roll(_photograph(self.name), 2 * number, axis=1))


@cache
def _photograph(name: str) -> NDArray[np.uint8]:
    return cv2.resize(getattr(skimage.data, name)(), _SIZE, interpolation=cv2.INTER_AREA)


def _matte(number: int) -> NDArray[np.float32]:
    """Return a disc that moves with the picture, float32 (H, W)."""
    width, height = _SIZE
    matte = np.zeros((height, width), np.float32)
    cv2.circle(matte, (width // 2, height // 2), height // 4, (1.0,), -1, cv2.LINE_AA)
    return np.roll(matte, 2 * number, axis=1)


def _clouds(_: Any) -> NDArray[np.float32]:
    """Return the picture of a wipe, float32 (H, W)."""
    across = np.linspace(0, 1, _SIZE[0], dtype=np.float32)
    return np.repeat(across[None], _SIZE[1], axis=0)


def digest(entry: Entry) -> str:
    """Return the digest of everything that a recipe shows and sounds."""
    transition = Transition(
        MovingPhotograph("astronaut"),
        MovingPhotograph("coffee"),
        _CUT,
        _CUT,
        entry.window,
        entry.recipe,
        matte_of=_clouds,
        subjects=Subjects(_matte, _matte),
    )
    found = hashlib.sha256()
    for offset, codes in transition.frames(margin=1):
        found.update(codes.tobytes())
        picture = transition.output(offset).picture
        found.update(picture.encoding.encode() + picture.pixels.tobytes())
    if isinstance(entry.recipe.accent and entry.recipe.accent.sound, str):
        accent = transition.accent()
        assert accent is not None
        found.update(accent.part(accent.first, accent.end).tobytes())
    return found.hexdigest()[:24]


def main() -> None:
    """Print a line for each recipe."""
    # Rows are divided among threads; a fixed number keeps the digests those of one machine and another.
    set_threads(1)
    for slug, entry in book().items():
        print(f"{digest(entry)}  {slug}", flush=True)


if __name__ == "__main__":
    main()
