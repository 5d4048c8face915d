"""Crossfades of equal power: one sound falls while the next one rises, as loud together as each alone.

A cosine and a sine over the same quarter turn, whose squares add up to one (common practice).
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.sound.samples import Sound

MAX_CROSSFADE_FRAMES = 200


@dataclass(frozen=True, slots=True)
class Fade:
    """The rise or the fall of a sound from sample ``first`` up to ``end``, exclusive.

    Before a rise and after a fall the sound is silent, after a rise and before a fall it is whole.
    """

    first: int
    end: int
    kind: Literal["rise", "fall"]

    def gains(self, start: int, stop: int) -> NDArray[np.float32]:
        """Return the factor of each sample from ``start`` up to ``stop``, exclusive: float32, 0…1."""
        at = (np.arange(start, stop) + 0.5 - self.first) / max(1, self.end - self.first)
        angle = np.clip(at, 0, 1) * (np.pi / 2)
        gains = np.sin(angle) if self.kind == "rise" else np.cos(angle)
        return gains.astype(np.float32)

    def touches(self, start: int, stop: int) -> bool:
        """Whether it changes any of the samples ``start`` … ``stop``, exclusive."""
        return start < self.end if self.kind == "rise" else stop > self.first


def with_fades(parts: Iterable[Sound], first: int, fades: Sequence[Fade]) -> Iterator[Sound]:
    """Yield ``parts`` (samples, 2), which begin at sample ``first``, with every fade put on them."""
    for part in parts:
        end = first + len(part)
        for fade in fades:
            if fade.touches(first, end):
                part = part * fade.gains(first, end)[:, None]
        yield part
        first = end
