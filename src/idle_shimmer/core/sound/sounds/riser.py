"""The riser: tone and air that climb to the peak and stop there."""

import numpy as np

from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND
from idle_shimmer.core.sound.sounds.base import Samples, Shape, SynthesisedSound, swept_noise

_TONE_HZ, _TONE_OCTAVES = 82.0, 2.0
_PARTIALS = (1.0, 2.01, 3.0, 4.02, 5.01)
_AIR_HZ, _AIR_OCTAVES = 300.0, 3.6
_RELEASE = 9.0


class Riser(SynthesisedSound):
    """Partials and noise whose pitch climbs with the level; released quickly after the peak."""

    name = "riser"
    title = "Riser"
    purpose = "A climb towards the cut: slow zooms, swells of light."
    natural_s = (1.2, 0.25)

    def make(self, shape: Shape) -> Samples:
        """Return the sound, (samples, 2)."""
        time = shape.time
        level = shape.speed
        if level is None:
            released = np.exp(-_RELEASE * time.clip(0))
            level = np.where(time < 0, (1 + time).clip(0) ** 1.8, released)
        climb = np.where(time < 0, 1 + time, 1.0)
        air = swept_noise(shape, _AIR_HZ * 2 ** (_AIR_OCTAVES * climb), 0.8)
        hertz = _TONE_HZ * 2 ** (_TONE_OCTAVES * climb)
        phase = 2 * np.pi * np.cumsum(hertz) / SAMPLES_PER_SECOND
        tones = np.zeros(shape.count)
        for number, partial in enumerate(_PARTIALS):
            gain = (0.35 + 0.6 * shape.brightness) ** number
            tones += gain * np.sin(partial * phase)
        mixed = (0.5 + shape.brightness) * air + 1.6 * shape.body * tones[:, None]
        return np.asarray(mixed * level[:, None])
