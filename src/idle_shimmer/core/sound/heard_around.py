"""What is heard around a cut, taken apart: the accent, and everything else."""

from dataclasses import dataclass

import numpy as np

from idle_shimmer.core.sound.accent import PlacedSound
from idle_shimmer.core.sound.mixing import mixed
from idle_shimmer.core.sound.samples import Sound


@dataclass(frozen=True)
class HeardAround:
    """``others`` are clips, music and the accents of other cuts, without this cut's ``accent``.

    Both are counted from the cut's sample.
    """

    others: PlacedSound
    accent: PlacedSound | None

    def mixed(self, accent_gain: float = 1.0) -> Sound:
        """Return all of it together, with the accent ``accent_gain`` times as loud."""
        if self.accent is None:
            return self.others.samples
        accent = PlacedSound(self.accent.first, self.accent.samples * np.float32(accent_gain))
        return next(mixed([self.others.samples], self.others.first, [accent]))
