"""A clip at the edit's frame rate: every frame of the edit shows the picture of that time."""

from fractions import Fraction
from pathlib import Path

from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.media.reader import Reader, Size, VideoReader


class RateConvertedClip:
    """Frames 0 … count - 1 at ``rate``; frame k shows what is on screen at its centre.

    At the clip's own constant rate that is the clip, picture by picture. A still has no end.
    """

    def __init__(self, reader: Reader, rate: Fraction | None = None) -> None:
        self.reader = reader
        self.rate = rate or reader.facts.rate
        facts = reader.facts
        self._own_rate = facts.constant_rate and facts.rate == self.rate

    @classmethod
    def open(
        cls, path: Path, size: Size | None = None, rate: Fraction | None = None
    ) -> "RateConvertedClip":
        """The clip in the file ``path``, filling ``size``, at ``rate``."""
        return cls(VideoReader(path, size), rate)

    @property
    def name(self) -> str:
        """The file's name, for messages."""
        return self.reader.path.name

    @property
    def count(self) -> int | None:
        """How many frames there are; None for a still."""
        if self.reader.facts.still:
            return None
        if self._own_rate:
            return self.reader.index.count
        return max(1, round(self.reader.index.duration * self.rate))

    def frame(self, number: int) -> Codes:
        """Frame ``number``, uint8 (H, W, 3); beyond a still's only picture it holds."""
        return self.reader.read(self.picture_number(number))

    def picture_number(self, number: int) -> int:
        """The number in the file of the picture that frame ``number`` shows."""
        if self.reader.facts.still:
            return 0
        if self._own_rate:
            return number
        return self.reader.index.shown_at((number + Fraction(1, 2)) / self.rate)

    def close(self) -> None:
        """Close the file."""
        self.reader.close()
