"""A clip with its framing: placed and graded to match its neighbours."""

from threading import Lock
from typing import Protocol

from cachetools import LRUCache

from idle_shimmer.core.framing import Framing, apply_framing
from idle_shimmer.core.picture.encoding import Codes, DeepCodes, Picture
from idle_shimmer.core.render import Source


class _Clip(Protocol):
    @property
    def name(self) -> str: ...

    @property
    def count(self) -> int | None: ...

    def frame(self, number: int) -> Codes | DeepCodes: ...


class ReframedClip:
    """``clip`` with ``framing`` applied; the last ``keep`` frames are cached, rounded to 8 bits."""

    def __init__(self, clip: _Clip, framing: Framing, keep: int = 0) -> None:
        self._clip, self._framing = clip, framing
        self._frames: LRUCache[int, Codes] | None = LRUCache(keep) if keep else None
        self._lock = Lock()

    @property
    def name(self) -> str:
        """The clip's name."""
        return self._clip.name

    @property
    def count(self) -> int | None:
        """The number of frames; None for a still."""
        return self._clip.count

    def frame(self, number: int) -> Source:
        """Return frame ``number``, (H, W, 3): the clip's own codes where nothing is set."""
        if not (self._framing.moves or self._framing.grades):
            return self._clip.frame(number)
        if self._frames is None:
            return self._framed(number)
        with self._lock:
            cached = self._frames.get(number)
        if cached is not None:
            return cached
        made = self._framed(number).to("codes").pixels
        with self._lock:
            self._frames[number] = made
        return made

    def _framed(self, number: int) -> Picture:
        return apply_framing(Picture.of_codes(self._clip.frame(number)), self._framing)
