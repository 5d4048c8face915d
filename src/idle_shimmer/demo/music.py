"""The music of the demo edit, with a beat every 15 frames."""

from fractions import Fraction

import numpy as np

from idle_shimmer.demo.paint import RATE
from idle_shimmer.media.sound.sound_parts import SAMPLES_PER_SECOND, Sound

FRAMES_A_BEAT = 15
BEATS_PER_MINUTE = 60 * RATE / FRAMES_A_BEAT
_BEAT_S = FRAMES_A_BEAT / RATE
_CHORDS = ((0, 7, 12, 16), (-4, 8, 12, 15), (-7, 5, 12, 17), (-2, 7, 10, 14))
_ROOT_HZ = 110.0


def bed(start_s: Fraction, duration_s: Fraction) -> Sound:
    """Return the music from ``start_s`` (may be negative), float32 (samples, 2); deterministic."""
    count = round(duration_s * SAMPLES_PER_SECOND)
    t = (np.arange(count) + round(start_s * SAMPLES_PER_SECOND)) / SAMPLES_PER_SECOND
    left_right = np.array([-1.0, 1.0])
    sound = 0.20 * _pad(t)[:, None] * (1 + 0.25 * np.sin(0.7 * t)[:, None] * left_right)
    sound += 0.34 * _drum(t)[:, None] + 0.10 * _bells(t)[:, None] * (1 + 0.5 * left_right)
    sound += 0.05 * _sea(t)[:, None]
    return np.tanh(sound).astype(np.float32)


def _pad(t: np.ndarray) -> np.ndarray:
    """Slow chords of eight beats that rise and fall."""
    length = 8 * _BEAT_S
    total = np.zeros_like(t)
    for number, chord in enumerate(_CHORDS):
        inside = (np.floor(t / length).astype(int) % len(_CHORDS)) == number
        shape = np.sin(np.pi * (t % length) / length) ** 0.6
        for note in chord:
            hertz = _ROOT_HZ * 2 ** (note / 12)
            wave = np.sin(2 * np.pi * hertz * t) + 0.35 * np.sin(2 * np.pi * 2.003 * hertz * t)
            total += np.where(inside, wave * shape, 0) / len(chord)
    return total


def _drum(t: np.ndarray) -> np.ndarray:
    """A soft low drum on every beat."""
    age = t % _BEAT_S
    return (
        np.sin(2 * np.pi * (48 * age + 2.6 * (1 - np.exp(-age * 30))))
        * np.exp(-age * 9)
        * np.minimum(1, age * 400)
    )


def _bells(t: np.ndarray) -> np.ndarray:
    """A small bell on every second beat, half a beat late."""
    age = (t - 0.5 * _BEAT_S) % (2 * _BEAT_S)
    hertz = _ROOT_HZ * 8
    return np.sin(2 * np.pi * hertz * age) * np.exp(-age * 5) * np.minimum(1, age * 300)


def _sea(t: np.ndarray) -> np.ndarray:
    """Waves: noise that depends only on the sample number, so that parts fit together."""
    number = np.floor(t * 6000).astype(np.uint64)
    scrambled = (number * np.uint64(2654435761)) % np.uint64(2**32)
    return (scrambled / 2**31 - 1) * (0.5 + 0.5 * np.sin(2 * np.pi * 0.13 * t)) ** 2
