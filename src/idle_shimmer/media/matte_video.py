"""Mattes of a subject as lossless grey video: one picture for each picture of the clip from the first."""

from collections.abc import Callable, Iterable
from fractions import Fraction
from pathlib import Path
from threading import Lock

import av
import cv2
import numpy as np
from cachetools import LRUCache
from numpy.typing import NDArray

from idle_shimmer.media.local_copies import at_hand
from idle_shimmer.media.lossless import slices_of
from idle_shimmer.media.read.rate_conversion import RateConvertedClip
from idle_shimmer.media.read.reader import Size

Alpha = NDArray[np.float32]
_CODES = 255
# The rate says nothing: pictures are counted.
_RATE = Fraction(25)
_CACHE_BYTES = 64_000_000


def write_matte_video(path: Path, mattes: Iterable[NDArray[np.uint8]]) -> None:
    """Write grey pictures, uint8 (H, W), all of one size, as FFV1 (RFC 9043), every one a key picture.

    They come back code for code.
    """
    with av.open(str(path), "w", format="matroska") as container:
        stream = None
        for number, codes in enumerate(mattes):
            if stream is None:
                height, width = codes.shape
                options = {"g": "1", "slices": slices_of(width, height)}
                stream = container.add_stream("ffv1", rate=_RATE, options=options)
                stream.height, stream.width = height, width
                stream.pix_fmt = "gray"
            frame = av.VideoFrame.from_ndarray(codes, format="gray")
            frame.pts, frame.time_base = number, 1 / _RATE
            container.mux(stream.encode(frame))
        if stream is not None:
            container.mux(stream.encode(None))


class MatteVideo:
    """The mattes of pictures ``first`` … of a clip, from a file of ``write_matte_video``.

    Pictures outside show the nearest one. Safe for several threads.
    """

    def __init__(self, path: Path, first: int, size: Size) -> None:
        self._path, self._first, self._size = path, first, size
        self._known: LRUCache[int, NDArray[np.uint8]] = LRUCache(
            _CACHE_BYTES, getsizeof=lambda each: each.nbytes
        )
        self._lock = Lock()
        self._container: av.container.InputContainer | None = None
        self._coming: Iterable[av.VideoFrame] = iter(())
        self._next = self._count = 0

    def alpha(self, picture: int) -> Alpha:
        """Return the matte of a picture of the clip: float32 (H, W), 0…1, filling the size."""
        with self._lock:
            self._opened()
            number = min(max(picture - self._first, 0), self._count - 1)
            if number not in self._known:
                self._known[number] = covering(self._read(number), self._size)
            return self._known[number].astype(np.float32) / np.float32(_CODES)

    def close(self) -> None:
        """Close the file; the next read opens it again."""
        with self._lock:
            if self._container is not None:
                self._container.close()
            self._container = None

    def _opened(self) -> None:
        if self._container is not None:
            return
        self._container = av.open(str(at_hand(self._path)))
        stream = self._container.streams.video[0]
        assert stream.time_base is not None
        # Matroska counts milliseconds: the length says how many pictures there are.
        self._count = max(1, round((self._container.duration or 0) / av.time_base * _RATE))
        self._coming, self._next = self._container.decode(stream), 0

    def _read(self, number: int) -> NDArray[np.uint8]:
        assert self._container is not None
        stream = self._container.streams.video[0]
        if number != self._next:
            assert stream.time_base is not None
            self._container.seek(round(number / _RATE / stream.time_base), stream=stream)
            self._coming = self._container.decode(stream)
        for frame in self._coming:
            assert frame.time is not None
            shown = round(frame.time * _RATE)
            self._next = shown + 1
            if shown >= number:
                return np.asarray(frame.to_ndarray(format="gray"), np.uint8)
        raise EOFError(f"{self._path.name} ends before picture {number}")


def covering(codes: NDArray[np.uint8], size: Size) -> NDArray[np.uint8]:
    """Return a picture scaled to cover ``size`` (W, H), centred, cropped, as clips are."""
    height, width = codes.shape
    scale = max(size[0] / width, size[1] / height)
    if scale == 1 and (width, height) == size:
        return codes
    scaled = max(size[0], round(width * scale)), max(size[1], round(height * scale))
    way = cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR
    large = cv2.resize(codes, scaled, interpolation=way)
    left, top = (scaled[0] - size[0]) // 2, (scaled[1] - size[1]) // 2
    return np.ascontiguousarray(large[top : top + size[1], left : left + size[0]])


def subject_of(clip: RateConvertedClip, mattes: MatteVideo) -> Callable[[int], Alpha]:
    """Return what gives the matte of a clip's frame at the edit's rate."""
    return lambda number: mattes.alpha(clip.picture_number(number))
