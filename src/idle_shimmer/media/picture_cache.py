"""Decoded pictures kept in memory, and open files shared by those who ask for them."""

from collections import OrderedDict
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from threading import Lock

import cv2

from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.media.decoder_client import RemoteReader, probe_index
from idle_shimmer.media.rate_conversion import RateConvertedClip
from idle_shimmer.media.reader import Size

PREVIEW_BOX = (640, 360)
_MOST_BYTES = 800_000_000
_MOST_OPEN = 12
_MOST_KNOWN = 64
_Key = tuple[Path, Size, int]


def fitted(size: Size, box: Size) -> Size:
    """``size`` scaled down to fit into ``box``, its shape kept."""
    scale = min(1.0, box[0] / size[0], box[1] / size[1])
    return max(2, round(size[0] * scale)), max(2, round(size[1] * scale))


class _OpenFile:
    """A file and the lock to hold while reading from it; opened when first asked."""

    def __init__(self, path: Path, size: Size, held: "PictureCache") -> None:
        self._path, self._size, self._cache = path, size, held
        self._reader: RemoteReader | None = None
        self.lock = Lock()

    def opened(self) -> RemoteReader:
        """The reader, to be asked for and read from with the lock held."""
        if self._reader is None:
            self._reader = RemoteReader(self._path, self._size, self._cache.known(self._path))
        return self._reader

    def close(self) -> None:
        """Wait for whoever reads, and close."""
        with self.lock:
            if self._reader is not None:
                self._reader.close()


class PictureCache:
    """At most ``most_bytes`` of pictures and ``most_open`` files; the longest unused goes first."""

    def __init__(self, most_bytes: int = _MOST_BYTES, most_open: int = _MOST_OPEN) -> None:
        self._most_bytes, self._most_open = most_bytes, most_open
        self._bytes = 0
        self._pictures: OrderedDict[_Key, Codes] = OrderedDict()
        self._files: OrderedDict[tuple[Path, Size], _OpenFile] = OrderedDict()
        self._lock = Lock()
        # What a file holds never changes: files are named by their content.
        self.known = lru_cache(maxsize=_MOST_KNOWN)(probe_index)

    def picture(self, path: Path, size: Size, number: int) -> Codes:
        """Picture ``number`` of the file, filling ``size``; shared, so not to be written to."""
        key = path, size, number
        if (kept := self._kept(key)) is not None:
            return kept
        file = self._file(path, size)
        with file.lock:
            # Whoever held the file meanwhile may have read just this one.
            if (kept := self._kept(key)) is not None:
                return kept
            return self._keep(key, file.opened().read(number))

    def shrunk(self, path: Path, size: Size, small: Size, number: int) -> Codes:
        """The picture of ``size``, averaged down to ``small``."""
        key = path, small, number
        if (kept := self._kept(key)) is not None:
            return kept
        picture = self.picture(path, size, number)
        return self._keep(key, cv2.resize(picture, small, interpolation=cv2.INTER_AREA))

    def reader(self, path: Path, size: Size) -> RemoteReader:
        """The open file, for its facts and index alone."""
        file = self._file(path, size)
        with file.lock:
            return file.opened()

    def _file(self, path: Path, size: Size) -> _OpenFile:
        unused = []
        with self._lock:
            found = self._files.setdefault((path, size), _OpenFile(path, size, self))
            self._files.move_to_end((path, size))
            while len(self._files) > self._most_open:
                unused.append(self._files.popitem(last=False)[1])
        for each in unused:
            each.close()
        return found

    def _kept(self, key: _Key) -> Codes | None:
        with self._lock:
            if key not in self._pictures:
                return None
            self._pictures.move_to_end(key)
            return self._pictures[key]

    def _keep(self, key: _Key, picture: Codes) -> Codes:
        picture.flags.writeable = False
        with self._lock:
            if key not in self._pictures:
                self._pictures[key] = picture
                self._bytes += picture.nbytes
            while self._bytes > self._most_bytes:
                _, dropped = self._pictures.popitem(last=False)
                self._bytes -= dropped.nbytes
        return picture


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
        self._conformed = RateConvertedClip(held.reader(path, size), rate)
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
