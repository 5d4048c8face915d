"""Imported pictures as mattes of wipes."""

from collections.abc import Callable
from contextlib import closing
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.picture.encoding import Picture, luma
from idle_shimmer.media.errors import MediaError
from idle_shimmer.media.read.reader import Reader, Size, VideoReader

Opener = Callable[[Path, Size], Reader]


def matte_reader(folder: Path, size: Size) -> Callable[[str], NDArray[np.float32]]:
    """Return a reader of mattes by file name below ``folder``: luma, float32 (H, W), filling ``size``.

    The reader raises InvalidValue for a missing file or one that is not a picture.
    """

    @lru_cache(maxsize=4)
    def matte(name: str) -> NDArray[np.float32]:
        return read_matte(folder / name, size)

    return matte


def read_matte(path: Path, size: Size, opener: Opener = VideoReader) -> NDArray[np.float32]:
    """Return the brightness of a picture file in display light, 0…1, float32 (H, W)."""
    try:
        with closing(opener(path, size)) as reader:
            return luma(Picture.of_codes(reader.read(0)).to("display").pixels)
    except (MediaError, OSError) as error:
        raise InvalidValue(
            f"the matte {path.name} cannot be read: choose a picture file", field="mix.matte.image"
        ) from error
