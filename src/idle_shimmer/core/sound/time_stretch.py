"""Plays sound at a changing speed without changing its pitch.

Waveform-similarity overlap-add (Verhelst and Roelands 1993, "An overlap-add technique based on waveform
similarity"): grains of the source are laid at equal distances, each taken near the place where the speed
wants it, where it continues the grain before it best.
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.sound.samples import Sound

# 43 ms and 11 ms at 48 000 samples per second: periods of low notes fit, echoes are not heard.
GRAIN = 2048
SEARCH = 512
_HOP = GRAIN // 2
_QUIET = 1e-9


def time_stretched(source: Sound, source_at: Callable[[float], float], count: int) -> Sound:
    """Return ``count`` samples of ``source`` (samples, 2), played so that sample n is ``source_at(n)``.

    ``source_at`` gives positions in the source, in samples, and never falls. Both ends are exactly
    there, so that what is played before and after continues without a jump. Beyond its ends the source
    is silent.
    """
    padding = GRAIN + SEARCH
    padded = np.pad(source, ((padding, padding), (0, 0)))
    mono = _one_channel(padded)
    window = np.hanning(GRAIN + 1)[:-1].astype(np.float32)[:, None]
    out = np.zeros((count + 2 * GRAIN, 2), np.float32)
    before = -1
    for centre in range(0, count + _HOP, _HOP):
        wanted = round(source_at(min(centre, count))) + max(0, centre - count) + padding - _HOP
        start = int(np.clip(wanted, 0, len(mono) - GRAIN))
        is_inside = centre > 0 and centre + _HOP < count
        if is_inside and before >= 0:
            start = _best_start(mono, before + _HOP, start)
        out[centre : centre + GRAIN] += window * padded[start : start + GRAIN]
        before = start
    return out[_HOP : _HOP + count]


def _one_channel(sound: Sound) -> NDArray[np.float32]:
    """Return the sum or the difference of the channels, whichever is louder: opposite ones cancel out."""
    both = sound[:, 0] + sound[:, 1], sound[:, 0] - sound[:, 1]
    return max(both, key=lambda each: float(np.dot(each, each)))


def _best_start(mono: NDArray[np.float32], following: int, wanted: int) -> int:
    """Return the start near ``wanted`` whose grain looks most like the one that follows by itself."""
    natural = mono[following : following + GRAIN]
    first = max(0, wanted - SEARCH)
    found = mono[first : wanted + SEARCH + GRAIN]
    if len(natural) < GRAIN or len(found) < GRAIN:
        return wanted
    likeness = np.correlate(found, natural, mode="valid")
    energy = np.convolve(found * found, np.ones(GRAIN, np.float32), mode="valid")
    score = likeness / np.sqrt(np.maximum(energy, _QUIET))
    best = int(np.argmax(score))
    return first + best if score[best] > 0 else wanted
