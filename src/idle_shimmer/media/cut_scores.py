"""What the scores of a finished video say: its cuts, at any threshold."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

USUAL_THRESHOLD = 0.5


@dataclass(frozen=True)
class FoundCut:
    """``frame`` is the first picture of the new shot; ``confidence`` 0…1."""

    frame: int
    confidence: float


def cuts_above(scores: NDArray[np.float64], threshold: float) -> list[FoundCut]:
    """Return the pictures whose score reaches ``threshold``, in order."""
    return [
        FoundCut(int(n), round(float(scores[n]), 3)) for n in np.flatnonzero(scores >= threshold)
    ]
