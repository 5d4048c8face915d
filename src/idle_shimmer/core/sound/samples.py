"""What sound is everywhere: float32 (samples, 2), -1…1, 48 000 samples per second."""

from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

Sound = NDArray[np.float32]
SAMPLES_PER_SECOND = 48_000


def sample_at(frame: Fraction | int, rate: Fraction) -> int:
    """Return the sample that a time in frames, at ``rate`` frames a second, falls on."""
    return round(frame * SAMPLES_PER_SECOND / rate)
