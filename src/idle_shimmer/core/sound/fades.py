"""Exponential fades: straight in decibels, down to -60 dB, then silence."""

import numpy as np
from numpy.typing import NDArray

LOWEST_DB = -60.0


def fade_in(count: int) -> NDArray[np.float64]:
    """Return the gains of a fade over ``count`` samples: silence first, then from -60 dB to 0 dB.

    The gain of sample n is 10 ** (-3 (1 - n/count)), as libavfilter's ``afade`` with ``curve=exp``,
    which goes on to -100 dB.
    """
    if count <= 0:
        return np.ones(0)
    gains = 10 ** (LOWEST_DB / 20 * (1 - np.arange(count) / count))
    gains[0] = 0.0
    return np.asarray(gains)


def faded_halves(count: int, peak: int, share_in: float, share_out: float) -> NDArray[np.float64]:
    """Return the gains of a sound of ``count`` samples that is loudest at sample ``peak``.

    ``share_in`` of the half before the peak is faded in, ``share_out`` of the other faded out, 0…1.
    """
    gains = np.ones(count)
    rising, falling = round(share_in * peak), round(share_out * (count - peak))
    if rising:
        gains[:rising] = fade_in(rising)
    if falling:
        gains[count - falling :] = fade_in(falling)[::-1]
    return gains
