"""Decoded pictures kept in memory, and open files shared by those who ask for them."""

from collections import OrderedDict
from collections.abc import Callable
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from threading import Lock

import cv2

from idle_shimmer.core.picture import Codes
from idle_shimmer.media.conform import ConformedClip
from idle_shimmer.media.reader import Size, VideoReader

PREVIEW_BOX = (640, 360)
_MOST_BYTES = 800_000_000
_MOST_OPEN = 12
_Key = tuple[Path, Size, int]


def fitted(size: Size, box: Size) -> Size:
    """``size`` scaled down to fit into ``box``, its shape kept."""
    scale = min(1.0, box[0] / size[0], box[1] / size[1])
    return max(2, round(size[0] * scale)), max(2, round(size[1] * scale))


class PictureCache:
    """At most ``most_bytes`` of pictures and ``most_open`` files; the longest unused goes first."""

    RUN = 24

    def __init__(self, most_bytes: int = _MOST_BYTES, most_open: int = _MOST_OPEN) -> None:
        self._most_bytes, self._most_open = most_bytes, most_open
        self._bytes = 0
        self._pictures: OrderedDict[_Key, Codes] = OrderedDict()
        self._readers: OrderedDict[tuple[Path, Size], tuple[VideoReader, Lock]] = OrderedDict()
        self._lock = Lock()

    def picture(self, path: Path, size: Size, number: int, run: int = RUN) -> Codes:
        """Picture ``number`` of the file, filling ``size``; shared, so not to be written to.

        Up to ``run`` pictures ahead of it are kept on the way.
        """
        return self._kept((path, size, number), lambda: self._decoded(path, size, number, run))

    def shrunk(self, path: Path, size: Size, small: Size, number: int, run: int = RUN) -> Codes:
        """The picture of ``size``, averaged down to ``small``."""

        def shrink() -> Codes:
            picture = self.picture(path, size, number, run)
            return cv2.resize(picture, small, interpolation=cv2.INTER_AREA)

        return self._kept((path, small, number), shrink)

    def reader(self, path: Path, size: Size) -> tuple[VideoReader, Lock]:
        """The open file and the lock to hold while reading from it."""
        with self._lock:
            key = (path, size)
            if key not in self._readers:
                self._readers[key] = (VideoReader(path, size), Lock())
            self._readers.move_to_end(key)
            while len(self._readers) > self._most_open:
                _, (reader, lock) = self._readers.popitem(last=False)
                with lock:
                    reader.close()
            return self._readers[key]

    def _decoded(self, path: Path, size: Size, number: int, run: int) -> Codes:
        """The picture, and on the way there those just ahead of it that are not kept yet.

        They have to be decoded anyway, and stepping backward would decode them again and again.
        """
        reader, lock = self.reader(path, size)
        with lock:
            first = number
            while first > max(0, number - run) and (path, size, first - 1) not in self._pictures:
                first -= 1
            for passing in range(first, number):
                self._keep((path, size, passing), reader.read(passing))
            return reader.read(number)

    def _kept(self, key: _Key, make: Callable[[], Codes]) -> Codes:
        with self._lock:
            if key in self._pictures:
                self._pictures.move_to_end(key)
                return self._pictures[key]
        picture = make()
        self._keep(key, picture)
        return picture

    def _keep(self, key: _Key, picture: Codes) -> None:
        picture.flags.writeable = False
        with self._lock:
            if key not in self._pictures:
                self._pictures[key] = picture
                self._bytes += picture.nbytes
            while self._bytes > self._most_bytes:
                _, dropped = self._pictures.popitem(last=False)
                self._bytes -= dropped.nbytes


class CachedClip:
    """A conformed clip whose pictures come from a cache; ``small`` averages them down."""

    def __init__(
        self,
        held: PictureCache,
        path: Path,
        name: str,
        size: Size,
        rate: Fraction,
        small: Size | None = None,
    ) -> None:
        self._cache, self._path, self._size, self._small = held, path, size, small
        reader, _ = held.reader(path, size)
        self._conformed = ConformedClip(reader, rate)
        self.name = name
        self.size = small or size

    @property
    def count(self) -> int | None:
        """How many frames there are; None for a still."""
        return self._conformed.count

    def frame(self, number: int) -> Codes:
        """Frame ``number`` at the edit's rate, uint8 (H, W, 3)."""
        picture = self._conformed.picture_number(number)
        if self._small is None:
            return self._cache.picture(self._path, self._size, picture)
        return self._cache.shrunk(self._path, self._size, self._small, picture)


@lru_cache(maxsize=1)
def picture_cache() -> PictureCache:
    """The cache of this process."""
    return PictureCache()
