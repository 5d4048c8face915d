"""The hit: a low drum with a short, bright attack."""

import numpy as np

from idle_shimmer.core.sound.sounds.base import Samples, Shape, SynthesisedSound, band

_DEEP_HZ, _DROP_HZ, _DROP_S = 46.0, 110.0, 0.035
# Of a struck membrane (a circular one: zeros of the Bessel functions), over a tone of 98 Hz.
_RESONANCES = ((98.0, 1.0), (156.0, 0.6), (209.0, 0.4))
_ATTACK_S = 0.014
_DECAYS = 5.5


class Hit(SynthesisedSound):
    """A sine that drops in pitch, resonances of a membrane, and a burst of noise."""

    name = "hit"
    title = "Hit"
    purpose = "A low drum: accents inside one shot, hard landings."
    natural_s = (0.02, 0.8)

    def make(self, shape: Shape) -> Samples:
        """Return the sound, (samples, 2); silent before the peak."""
        t = shape.seconds
        struck, t = t >= 0, t.clip(0)
        length_s = max(t[-1], 0.05)
        decay = np.exp(-_DECAYS * t / length_s)
        phase = _DEEP_HZ * t + _DROP_HZ * _DROP_S * (1 - np.exp(-t / _DROP_S))
        drum = (0.5 + shape.body) * np.cos(2 * np.pi * phase) * decay
        for hertz, share in _RESONANCES:
            drum += 0.22 * share * np.sin(2 * np.pi * hertz * t) * decay**2
        bursts = [band(shape.noise(n), 1400.0, 7000.0) for n in (0, 1)]
        attack = 0.5 * shape.brightness * np.exp(-t / _ATTACK_S)
        sound = np.stack([drum + attack * burst for burst in bursts], axis=1)
        if shape.speed is not None:
            sound *= shape.speed[:, None]
        # A rise of a millisecond, so that the first sample does not click.
        rise = np.minimum(1.0, shape.seconds.clip(0) / 0.001)
        return np.asarray(sound * (struck * rise)[:, None])
