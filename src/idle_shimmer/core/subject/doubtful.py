"""The frames of a matte that an editor should look at first."""

from collections.abc import Sequence
from statistics import median_low

# A change stands out where it is so many times the usual one, and at least this share of the frame
# (common practice).
_TIMES_USUAL, _LEAST_SHARE = 2.5, 0.004


def doubtful_frames(changes: Sequence[float], first: int, most: int = 5) -> list[int]:
    """Return the frames whose matte changes most from the one before, worst first, at most ``most``.

    ``changes`` are shares of the frame, that of frame ``first`` first; only those that stand out of the
    others are returned.
    """
    if not changes:
        return []
    limit = max(_TIMES_USUAL * median_low(changes), _LEAST_SHARE)
    found = [(change, first + n) for n, change in enumerate(changes) if change > limit]
    return [frame for _, frame in sorted(found, key=lambda each: -each[0])[:most]]
