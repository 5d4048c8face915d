"""A clip at the edit's frame rate: every frame shows the clip's picture at that time."""

from fractions import Fraction
from pathlib import Path

from idle_shimmer.core.picture.encoding import Codes, DeepCodes
from idle_shimmer.media.read.reader import Reader, Size, VideoReader


class RateConvertedClip:
    """Frames 0 … count - 1 at ``rate``; frame k shows the picture at the middle of its time.

    At the clip's own constant rate these are its pictures, one by one. A still has no end.
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
        """Return the clip in the file ``path``, filling ``size``, at ``rate``."""
        return cls(VideoReader(path, size), rate)

    @property
    def name(self) -> str:
        """The file's name, for messages."""
        return self.reader.path.name

    @property
    def count(self) -> int | None:
        """The number of frames; None for a still."""
        if self.reader.facts.still:
            return None
        if self._own_rate:
            return self.reader.index.count
        return max(1, round(self.reader.index.duration * self.rate))

    def frame(self, number: int) -> Codes | DeepCodes:
        """Return frame ``number``, (H, W, 3); of a still, always its only picture."""
        return self.reader.read(self.picture_number(number))

    @property
    def size(self) -> Size:
        """The size that its frames fill."""
        return self.reader.size

    @property
    def whole_size(self) -> Size:
        """The size of the file's pictures, upright and with square pixels."""
        return self.reader.facts.width, self.reader.facts.height

    def whole(self, number: int) -> Codes | DeepCodes:
        """Return frame ``number`` at ``whole_size``."""
        return self.reader.read(self.picture_number(number), whole=True)

    def picture_number(self, number: int) -> int:
        """Return the number in the file of the picture that frame ``number`` shows."""
        if self.reader.facts.still:
            return 0
        if self._own_rate:
            return number
        return self.reader.index.shown_at((number + Fraction(1, 2)) / self.rate)

    def close(self) -> None:
        """Close the file."""
        self.reader.close()
