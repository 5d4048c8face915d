"""The rattle: many small knocks of wood, closest together at the peak."""

import numpy as np

from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND
from idle_shimmer.core.sound.sounds.base import Samples, Shape, SynthesisedSound

_KNOCKS_PER_S = 26
_LONGEST_S = 0.06
_KNOCK_HZ = (760.0, 1330.0, 2240.0, 3480.0)
_DECAY_S = (0.014, 0.010, 0.006, 0.004)
_BODY_HZ, _BODY_S = 240.0, 0.02


class Rattle(SynthesisedSound):
    """Damped resonances, each knock with its own strength, pitch and place."""

    name = "rattle"
    title = "Rattle"
    purpose = "Small knocks: shakes, jerks, glitches."
    natural_s = (0.4, 0.4)

    def make(self, shape: Shape) -> Samples:
        """Return the sound, (samples, 2)."""
        generator = np.random.Generator(np.random.PCG64([shape.seed, 7]))
        level = shape.rise(1.3, 1.3)
        # Under a movement they are closer and more alike, so that it is heard.
        dense, weakest = (1, 0.35) if shape.speed is None else (2, 0.65)
        count = max(3, round(shape.count / SAMPLES_PER_SECOND * _KNOCKS_PER_S * dense))
        places = (np.arange(count) + generator.uniform(0.15, 0.85, count)) / count * shape.count
        strengths = generator.uniform(weakest, 0.8, count)
        places = np.append(places, shape.peak)
        strengths = np.append(strengths, 1.0)
        out = np.zeros((shape.count, 2))
        for place, strength in zip(places.astype(int), strengths, strict=True):
            place = min(place, shape.count - 1)
            knock = _knock(generator.uniform(0.85, 1.15), shape.brightness, shape.body)
            end = min(shape.count, place + len(knock))
            left = generator.uniform(0.3, 0.7)
            sides = np.array([left, 1 - left]) * 2
            out[place:end] += strength * level[place] * knock[: end - place, None] * sides
        return out


def _knock(pitch: float, brightness: float, body: float) -> Samples:
    t = np.arange(round(_LONGEST_S * SAMPLES_PER_SECOND)) / SAMPLES_PER_SECOND
    sound = np.zeros_like(t)
    for number, (hertz, decay) in enumerate(zip(_KNOCK_HZ, _DECAY_S, strict=True)):
        gain = (0.25 + brightness) ** number
        sound += gain * np.sin(2 * np.pi * hertz * pitch * t) * np.exp(-t / decay)
    sound += body * np.sin(2 * np.pi * _BODY_HZ * pitch * t) * np.exp(-t / _BODY_S)
    # The last knock samples go down to silence, so that none ends with a click.
    return np.asarray(sound * np.minimum(1.0, (t[-1] - t) / (0.2 * _LONGEST_S)))
