"""Brings the loudest moment of a sound to a given sample."""

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound

# A texture's own loudest sample is looked for so near to where it should be.
_NEAR = SAMPLES_PER_SECOND // 50
_SMOOTH = SAMPLES_PER_SECOND // 200
_BELOW = 0.999

Samples = NDArray[np.float64]


def loudest_sample(sound: Samples | Sound) -> int:
    """Return the place of the largest sample of (samples, channels)."""
    return int(np.abs(sound).max(axis=1).argmax())


def moved(sound: Samples, by: int) -> Samples:
    """Return the sound ``by`` samples later, as long as it was; silence comes in."""
    out = np.zeros_like(sound)
    if by >= 0:
        out[by:] = sound[: len(sound) - by]
    else:
        out[:by] = sound[-by:]
    return out


def with_loudest_at(sound: Samples, peak: int) -> Samples:
    """Return a texture, (samples, channels), whose loudest sample is number ``peak``.

    It is moved by at most 20 ms, and what is still louder elsewhere is turned down, gently around it.
    """
    import scipy.ndimage  # slow to import, and not needed to read a recipe

    first, end = max(0, peak - _NEAR), min(len(sound), peak + _NEAR + 1)
    near = sound[first:end]
    sound = moved(sound, peak - (first + loudest_sample(near)))
    level = np.abs(sound).max(axis=1)
    most = level[peak]
    if most <= 0:
        return sound
    # The smallest gain within reach of a sample, averaged over less: nothing gets through.
    around = scipy.ndimage.maximum_filter1d(level, 2 * _SMOOTH + 1)
    wanted = np.where(around > most, _BELOW * most / np.maximum(around, most), 1.0)
    gains = scipy.ndimage.uniform_filter1d(
        scipy.ndimage.minimum_filter1d(wanted, _SMOOTH + 1), _SMOOTH // 2 * 2 + 1
    )
    gains[peak] = 1.0
    return sound * gains[:, None]
