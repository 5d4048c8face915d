"""What every synthesised sound is: its name, its own length, and how it is made for an accent.

A sound is one file in this package: a subclass of ``SynthesisedSound`` that registers itself. The
recipe's validation, the catalogue and the report on sounds follow from that.
"""

from dataclasses import dataclass, field
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND

Samples = NDArray[np.float64]
_REGISTRY: dict[str, "SynthesisedSound"] = {}


@dataclass(frozen=True)
class Shape:
    """What a sound is made for: ``count`` samples, loudest at sample ``peak``.

    ``brightness`` and ``body`` are 0…1: how much of it is high, and how much of it low. With a movement
    to follow, ``speed`` is its speed at each sample, 0…1 of the fastest.
    """

    count: int
    peak: int
    seed: int = 0
    brightness: float = 0.5
    body: float = 0.5
    speed: Samples | None = field(default=None, compare=False)

    @property
    def time(self) -> Samples:
        """Each sample's time: -1 at the start, 0 at the peak, 1 at the end."""
        n = np.arange(self.count, dtype=np.float64) - self.peak
        return np.where(n < 0, n / max(self.peak, 1), n / max(self.count - self.peak, 1))

    @property
    def seconds(self) -> Samples:
        """Each sample's time from the peak, in seconds."""
        return (np.arange(self.count, dtype=np.float64) - self.peak) / SAMPLES_PER_SECOND

    def rise(self, power: float, fall: float) -> Samples:
        """Return the level at each sample: up to the peak and down again, or as the movement goes."""
        if self.speed is not None:
            return self.speed
        time = self.time
        return np.where(time < 0, (1 + time).clip(0) ** power, (1 - time).clip(0) ** fall)

    def noise(self, number: int) -> Samples:
        """Return white noise of deviation 1, the same for the same seed and ``number``."""
        generator = np.random.Generator(np.random.PCG64([self.seed, number]))
        return generator.standard_normal(self.count)


class SynthesisedSound:
    """A sound that is computed. Subclasses with a ``name`` register themselves.

    ``natural_s`` is its length before and after the peak, in seconds, where it is not stretched.
    """

    name: ClassVar[str] = ""
    title: ClassVar[str] = ""
    purpose: ClassVar[str] = ""
    natural_s: ClassVar[tuple[float, float]] = (0.4, 0.4)

    def __init_subclass__(cls) -> None:
        super().__init_subclass__()
        if cls.name in _REGISTRY:
            raise TypeError(f"two sounds have the name '{cls.name}'")
        _REGISTRY[cls.name] = cls()

    def make(self, shape: Shape) -> Samples:
        """Return the sound, (samples, 2), of any level."""
        raise NotImplementedError


def registered() -> dict[str, SynthesisedSound]:
    """Return every synthesised sound by its name."""
    return dict(sorted(_REGISTRY.items()))


def band(noise: Samples, low_hz: float, high_hz: float) -> Samples:
    """Return the part of a signal between two frequencies, of deviation 1."""
    import scipy.signal  # slow to import, and not needed to read a recipe

    nyquist = SAMPLES_PER_SECOND / 2
    filters = scipy.signal.butter(
        2, [low_hz / nyquist, min(high_hz, 0.9 * nyquist) / nyquist], "bandpass", output="sos"
    )
    # The filter has settled before the first sample that is kept.
    lead = min(len(noise), SAMPLES_PER_SECOND // 10)
    found = scipy.signal.sosfilt(filters, np.concatenate([noise[:lead][::-1], noise]))[lead:]
    return np.asarray(found / max(float(found.std()), 1e-12))


def swept_noise(shape: Shape, centre_hz: Samples, octaves: float, first: int = 0) -> Samples:
    """Return noise, (samples, 2), around a frequency that moves; ``octaves`` is its deviation.

    The channels share three quarters of it.
    """
    centre = np.log2(centre_hz)
    out = np.zeros((shape.count, 2))
    for number, hertz in enumerate(_BANDS_HZ):
        gains = np.exp(-0.5 * ((centre - np.log2(hertz)) / octaves) ** 2)
        edges = hertz / _BAND_SHARE, hertz * _BAND_SHARE
        shared, left, right = (band(shape.noise(first + 3 * number + n), *edges) for n in range(3))
        for channel, own in enumerate((left, right)):
            out[:, channel] += gains * (0.75**0.5 * shared + 0.25**0.5 * own)
    return out


# Bands of an octave, from the deepest that small speakers play.
_BANDS_HZ = tuple(90.0 * 2**n for n in range(8))
_BAND_SHARE = 2**0.5
