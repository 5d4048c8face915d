"""A clip as it enters its transitions: placed and graded to match its neighbours, at the frame's size."""

from threading import Lock
from typing import Protocol

from idle_shimmer.core.frame.render import Source
from idle_shimmer.core.framing import UNFRAMED, Framing, framed
from idle_shimmer.core.picture.encoding import Codes, DeepCodes, Picture
from idle_shimmer.media.read.reader import Size


class FittedClip(Protocol):
    """A clip whose frames fill a frame of ``size``; ``whole_size`` is that of its own pictures."""

    @property
    def name(self) -> str:
        """The clip's name."""

    @property
    def size(self) -> Size:
        """The size that its frames fill."""

    @property
    def whole_size(self) -> Size:
        """The size of its pictures; ``size`` where they are not to be had."""

    @property
    def count(self) -> int | None:
        """The number of frames; None for a still."""

    def frame(self, number: int) -> Codes | DeepCodes:
        """Return frame ``number``, filling ``size``."""

    def whole(self, number: int) -> Codes | DeepCodes:
        """Return frame ``number`` at ``whole_size``."""


class ReframedClip:
    """``clip`` with ``framing``.

    Its place, and the change from its own size to the frame's, are sampled together with the filters that
    follow.
    """

    def __init__(self, clip: FittedClip, framing: Framing = UNFRAMED) -> None:
        self.clip, self._framing = clip, framing
        # Frames are read ahead by one thread, and what it could not foresee by another.
        self._lock = Lock()

    @property
    def name(self) -> str:
        """The clip's name."""
        return self.clip.name

    @property
    def count(self) -> int | None:
        """The number of frames; None for a still."""
        return self.clip.count

    def frame(self, number: int) -> Source:
        """Return frame ``number``, (H, W, 3): the clip's own codes where nothing is set."""
        has_whole = self.clip.whole_size != self.clip.size
        if not (has_whole or self._framing.moves or self._framing.grades):
            return self.clip.frame(number)

        def fitted() -> Picture:
            with self._lock:
                return Picture.of_codes(self.clip.frame(number))

        def whole() -> Picture:
            with self._lock:
                return Picture.of_codes(self.clip.whole(number))

        return framed(self.clip.size, self._framing, fitted, whole if has_whole else None)
