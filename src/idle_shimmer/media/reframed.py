"""A clip with its framing: placed and graded to match its neighbours."""

from collections import OrderedDict
from threading import Lock
from typing import Protocol

from idle_shimmer.core.framing import Framing, apply_framing
from idle_shimmer.core.picture.encoding import Codes


class _Clip(Protocol):
    @property
    def name(self) -> str: ...

    @property
    def count(self) -> int | None: ...

    def frame(self, number: int) -> Codes: ...


class ReframedClip:
    """``clip`` with ``framing`` applied; the last ``keep`` frames are cached."""

    def __init__(self, clip: _Clip, framing: Framing, keep: int = 0) -> None:
        self._clip, self._framing, self._keep = clip, framing, keep
        self._frames: OrderedDict[int, Codes] = OrderedDict()
        self._lock = Lock()

    @property
    def name(self) -> str:
        """The clip's name."""
        return self._clip.name

    @property
    def count(self) -> int | None:
        """How many frames there are; None for a still."""
        return self._clip.count

    def frame(self, number: int) -> Codes:
        """Frame ``number``, uint8 (H, W, 3)."""
        if not (self._framing.moves or self._framing.grades):
            return self._clip.frame(number)
        with self._lock:
            if number in self._frames:
                return self._frames[number]
        made = apply_framing(self._clip.frame(number), self._framing)
        with self._lock:
            self._frames[number] = made
            while len(self._frames) > self._keep:
                self._frames.popitem(last=False)
        return made
