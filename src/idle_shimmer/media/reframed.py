"""A clip with its framing: placed and graded to match its neighbours."""

from typing import Protocol

from idle_shimmer.core.framing import Framing, framed
from idle_shimmer.core.picture.encoding import Codes, DeepCodes, Picture
from idle_shimmer.core.render import Source


class _Clip(Protocol):
    @property
    def name(self) -> str: ...

    @property
    def count(self) -> int | None: ...

    def frame(self, number: int) -> Codes | DeepCodes: ...


class ReframedClip:
    """``clip`` with ``framing``: its place is sampled together with the filters that follow."""

    def __init__(self, clip: _Clip, framing: Framing) -> None:
        self._clip, self._framing = clip, framing

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
        codes = self._clip.frame(number)
        if not (self._framing.moves or self._framing.grades):
            return codes
        return framed(Picture.of_codes(codes), self._framing)
