"""The shot that a clip lies in: frames of the same file beyond it show something else."""

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Shot:
    """Frames ``first`` up to ``end`` (exclusive) of a file; None is the file's own end."""

    first: int = 0
    end: int | None = None

    def including(self, first: int, end: int) -> "Shot":
        """Return the shot with frames ``first`` up to ``end`` of it: what is shown belongs to it."""
        return Shot(min(self.first, first), None if self.end is None else max(self.end, end))

    def of(self, count: int | None) -> range | None:
        """Return its frames in a file of ``count`` frames; None, without limit, for a still."""
        if count is None:
            return None
        return range(max(0, self.first), count if self.end is None else min(count, self.end))


WHOLE = Shot()


@dataclass(frozen=True)
class Shots:
    """The shots on both sides of a cut."""

    outgoing: Shot = WHOLE
    incoming: Shot = WHOLE


WHOLE_CLIPS = Shots()


def shot_around(cuts: Sequence[int], first: int, end: int) -> Shot:
    """Return the shot of frames ``first`` up to ``end`` in a file with ``cuts``, the first frames of its shots."""
    return Shot(
        max((each for each in cuts if each <= first), default=0),
        min((each for each in cuts if each >= end), default=None),
    )
