"""A cache of decoded pictures and open files, shared by all readers."""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from threading import Lock

import cv2
from cachetools import LRUCache, TTLCache

from idle_shimmer.core.picture.encoding import Codes, Picture
from idle_shimmer.media.decode.client import RemoteReader, probe_index
from idle_shimmer.media.read.rate_conversion import RateConvertedClip
from idle_shimmer.media.read.reader import Size, show_fields_together

PREVIEW_BOX = (640, 360)
_MAX_BYTES = 800_000_000
_MAX_OPEN = 18
_MAX_INDEXES = 64


@dataclass(frozen=True, slots=True)
class Source:
    """A file, and whether its pictures are deinterlaced where they are interlaced."""

    path: Path
    deinterlaced: bool = True


_Key = tuple[Source, Size, int]


def fitted(size: Size, box: Size) -> Size:
    """Return ``size`` scaled down to fit into ``box``, in the same aspect."""
    scale = min(1.0, box[0] / size[0], box[1] / size[1])
    return max(2, round(size[0] * scale)), max(2, round(size[1] * scale))


# So many pictures are decoded on the way to another rather than its proxy's shown.
_NEAR = 12
# What had no proxy is asked for one again after so many seconds.
_ASK_AGAIN_S = 10
# A proxy is not enlarged by more.
_LARGEST_FACTOR = 1.35


class _OpenFile:
    """A file, opened at the first read, and the lock to acquire while reading from it."""

    def __init__(self, source: Source, size: Size, cache: "PictureCache") -> None:
        self._source, self._size, self._cache = source, size, cache
        self._reader: RemoteReader | None = None
        self._next = 0
        self.lock = Lock()

    def read(self, number: int) -> Codes:
        """Return a picture; acquire the lock before this call."""
        picture = self.opened().read(number)
        self._next = number + 1
        return Picture.of_codes(picture).to("codes").pixels

    def is_near(self, number: int) -> bool:
        """Whether a picture is decoded soon: it follows, or lies behind a keyframe."""
        keyframe = self.opened().index.keyframe_before(number)
        return number - keyframe <= _NEAR or 0 <= number - self._next <= _NEAR

    def opened(self) -> RemoteReader:
        """Return the reader. Acquire the lock before this call and while reading."""
        if self._reader is None:
            path = self._source.path
            self._reader = RemoteReader(path, self._size, self._cache.index_of(path))
            if not self._source.deinterlaced:
                show_fields_together(self._reader)
        return self._reader

    def close(self) -> None:
        """Wait for readers to finish, and close."""
        with self.lock:
            if self._reader is not None:
                self._reader.close()


class PictureCache:
    """At most ``max_bytes`` of pictures and ``max_open`` files; the least recently used are evicted."""

    def __init__(self, max_bytes: int = _MAX_BYTES, max_open: int = _MAX_OPEN) -> None:
        self._max_open = max_open
        self._pictures: LRUCache[_Key, Codes] = LRUCache(max_bytes, getsizeof=lambda p: p.nbytes)
        # Room for one more than stays open: the least recently used is evicted and closed.
        self._files: LRUCache[tuple[Source, Size], _OpenFile] = LRUCache(max_open + 1)
        self._lock = Lock()
        # Returns the proxy of a file; whoever keeps files sets it.
        self.proxy_of: Callable[[Path], Path | None] = lambda _: None
        self._proxies: TTLCache[Path, Path | None] = TTLCache(_MAX_INDEXES, _ASK_AGAIN_S)
        # The contents of a file never change: files are named by their content.
        self.index_of = lru_cache(maxsize=_MAX_INDEXES)(probe_index)

    def picture(self, source: Source, size: Size, number: int) -> Codes:
        """Return picture ``number`` of the file, filling ``size``; shared, so do not write to it."""
        key = source, size, number
        if (cached := self._cached(key)) is not None:
            return cached
        file = self._file(source, size)
        with file.lock:
            # Another thread may have read this picture meanwhile.
            if (cached := self._cached(key)) is not None:
                return cached
            if file.is_near(number) or (proxy := self._proxy(source, size)) is None:
                return self._store(key, file.read(number))
        return self._store(key, self.picture(Source(proxy), size, number))

    def _proxy(self, source: Source, size: Size) -> Path | None:
        """Return the proxy of a file, where it has one that is large enough for ``size``."""
        path = source.path
        facts = self.index_of(path)[0]
        # Proxies are deinterlaced.
        if facts.interlaced and not source.deinterlaced:
            return None
        small = fitted((facts.width, facts.height), PREVIEW_BOX)
        if max(size[0] / small[0], size[1] / small[1]) > _LARGEST_FACTOR:
            return None
        with self._lock:
            if path in self._proxies:
                return self._proxies[path]
        found = self.proxy_of(path)
        with self._lock:
            self._proxies[path] = found
        return found

    def shrunk(self, source: Source, size: Size, small: Size, number: int) -> Codes:
        """Return the picture of ``size``, averaged down to ``small``."""
        key = source, small, number
        if (cached := self._cached(key)) is not None:
            return cached
        picture = self.picture(source, size, number)
        return self._store(key, cv2.resize(picture, small, interpolation=cv2.INTER_AREA))

    def reader(self, source: Source, size: Size) -> RemoteReader:
        """Return the open file, for its facts and index alone."""
        file = self._file(source, size)
        with file.lock:
            return file.opened()

    def _file(self, source: Source, size: Size) -> _OpenFile:
        unused = None
        with self._lock:
            file = self._files.get((source, size))
            if file is None:
                file = self._files[source, size] = _OpenFile(source, size, self)
                if len(self._files) > self._max_open:
                    unused = self._files.popitem()[1]
        if unused is not None:
            unused.close()
        return file

    def _cached(self, key: _Key) -> Codes | None:
        with self._lock:
            return self._pictures.get(key)

    def _store(self, key: _Key, picture: Codes) -> Codes:
        picture.flags.writeable = False
        with self._lock:
            if picture.nbytes <= self._pictures.maxsize:
                self._pictures[key] = picture
        return picture


class CachedClip:
    """A rate-converted clip whose pictures come from a cache; ``small`` averages them down."""

    def __init__(
        self,
        cache: PictureCache,
        source: Source,
        name: str,
        size: Size,
        rate: Fraction,
        small: Size | None = None,
    ) -> None:
        self._cache, self._source, self._size, self._small = cache, source, size, small
        self._converted = RateConvertedClip(cache.reader(source, size), rate)
        self.name = name
        self.size = small or size

    @property
    def count(self) -> int | None:
        """The number of frames; None for a still."""
        return self._converted.count

    @property
    def whole_size(self) -> Size:
        """``size``: previews are made of pictures of their own size."""
        return self.size

    def whole(self, number: int) -> Codes:
        """Return frame ``number``."""
        return self.frame(number)

    def picture_number(self, number: int) -> int:
        """Return the number in the file of the picture that frame ``number`` shows."""
        return self._converted.picture_number(number)

    def frame(self, number: int) -> Codes:
        """Return frame ``number`` at the edit's rate, uint8 (H, W, 3)."""
        picture = self.picture_number(number)
        if self._small is None:
            return self._cache.picture(self._source, self._size, picture)
        return self._cache.shrunk(self._source, self._size, self._small, picture)


@lru_cache(maxsize=1)
def picture_cache() -> PictureCache:
    """Return the cache of this process."""
    return PictureCache()
