"""The whoosh: air that rushes past, rising in pitch towards the peak and falling after it."""

import numpy as np

from idle_shimmer.core.sound.sounds.base import Samples, Shape, SynthesisedSound, swept_noise

_LOWEST_HZ = 220.0
_RISE_OCTAVES = (2.0, 4.2)
_OCTAVES = 0.9
_BODY_HZ = 130.0


class Whoosh(SynthesisedSound):
    """Noise around a frequency that follows the level, over a low rush of air."""

    name = "whoosh"
    title = "Whoosh"
    purpose = "Air that rushes past: whips, pushes, rolls, zooms."
    natural_s = (0.35, 0.35)

    def make(self, shape: Shape) -> Samples:
        """Return the sound, (samples, 2); brighter where it is louder."""
        level = shape.rise(2.2, 1.7)
        low, high = _RISE_OCTAVES
        octaves = low + (high - low) * shape.brightness
        air = swept_noise(shape, _LOWEST_HZ * 2 ** (octaves * np.sqrt(level)), _OCTAVES)
        rush = swept_noise(shape, np.full(shape.count, _BODY_HZ), _OCTAVES, first=100)
        return (air + 0.9 * shape.body * rush) * level[:, None]
