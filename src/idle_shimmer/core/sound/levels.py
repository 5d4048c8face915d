"""Levels of sound: gain, sample peak, true peak, momentary loudness."""

import math

import numpy as np

from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound

# Nothing is heard below; also what silence measures.
SILENCE_DB = -120.0
# ITU-R BS.1770-4, annex 2: four times as many samples.
_OVERSAMPLING = 4
# EBU Tech 3341: momentary loudness is that of 400 ms, here measured every 100 ms.
_BLOCK_S, _STEP_S = 0.4, 0.1


def gain_of_db(decibels: float) -> float:
    """Return the factor of an amplitude that ``decibels`` are."""
    return float(10 ** (decibels / 20))


def db_of_gain(amplitude: float) -> float:
    """Return an amplitude in decibels of full scale, at least ``SILENCE_DB``."""
    return max(SILENCE_DB, 20 * math.log10(max(amplitude, 1e-12)))


def peak_db(sound: Sound) -> float:
    """Return the largest sample, in dBFS."""
    return db_of_gain(float(np.abs(sound).max(initial=0.0)))


def true_peak_db(sound: Sound) -> float:
    """Return the true peak, in dBTP (ITU-R BS.1770-4): the largest sample of the oversampled sound."""
    import scipy.signal  # slow to import, and not needed to read a recipe

    if not len(sound):
        return SILENCE_DB
    between = scipy.signal.resample_poly(sound.astype(np.float64), _OVERSAMPLING, 1, axis=0)
    return max(peak_db(sound), db_of_gain(float(np.abs(between).max(initial=0.0))))


def momentary_loudness(sound: Sound) -> float:
    """Return the largest loudness of any 400 ms, in LUFS (ITU-R BS.1770-4, as ``pyloudnorm`` does it).

    Shorter sound counts as followed by silence. ``SILENCE_DB`` where all is below the gate of -70.
    """
    import pyloudnorm

    block, step = (round(each * SAMPLES_PER_SECOND) for each in (_BLOCK_S, _STEP_S))
    padded = np.pad(sound, ((0, max(0, block - len(sound))), (0, 0)))
    meter = pyloudnorm.Meter(SAMPLES_PER_SECOND, block_size=_BLOCK_S)
    starts = range(0, len(padded) - block + 1, step)
    blocks = (padded[start : start + block].astype(np.float64) for start in starts)
    found = [meter.integrated_loudness(each) for each in blocks if each.any()]
    return max([SILENCE_DB, *(float(each) for each in found if math.isfinite(each))])
