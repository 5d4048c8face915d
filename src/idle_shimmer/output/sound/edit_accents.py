"""The accents of an edit's cuts: those that are heard between two of its samples."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.placed import placed
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.core.sound.accent import PlacedSound, SoundOf
from idle_shimmer.core.sound.mixing import Laid
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound, sample_at
from idle_shimmer.transition.heard_accent import accent_of

# The shortest accents are a little longer than their span.
_AROUND = SAMPLES_PER_SECOND // 100


@dataclass(frozen=True)
class HeardCut:
    """A cut, its frame in the edit, and its transition."""

    frame: int
    window: Window
    recipe: Recipe


class SynthesisedAccent:
    """An accent that is made when it is first heard, and forgotten behind its end: edits have hundreds."""

    def __init__(self, cut: HeardCut, bounds: tuple[int, int], rate: Fraction) -> None:
        self.first, self.end = bounds
        self._cut, self._rate = cut, rate
        self._made: PlacedSound | None = None

    def part(self, start: int, stop: int) -> Sound:
        """Return its samples ``start`` … ``stop``, exclusive, counted as ``first`` is."""
        cut, rate = self._cut, self._rate
        made = self._made or accent_of(cut.recipe, cut.window, rate, None)
        assert made is not None
        self._made = made if stop < self.end else None
        placed = made.moved(sample_at(cut.frame, rate))
        heard = np.zeros((stop - start, 2), np.float32)
        first, end = max(start, placed.first), min(stop, placed.end)
        if first < end:
            heard[first - start : end - start] = placed.part(first, end)
        return heard


def accents_between(
    cuts: Sequence[HeardCut], frames: range, rate: Fraction, sound_of: SoundOf | None
) -> list[Laid]:
    """Return the accents that are heard in ``frames`` of the edit, placed there.

    Raises InvalidValue where a sound of the user's is missing.
    """
    first, end = (sample_at(each, rate) for each in (frames.start, frames.stop))
    found: list[Laid] = []
    for cut in cuts:
        if cut.recipe.accent is None:
            continue
        accent, at = placed(cut.recipe, cut.window, rate).accent, sample_at(cut.frame, rate)
        assert accent is not None
        start, stop = (at + each for each in accent.span(cut.window, rate))
        if start >= end or stop <= first:
            continue
        if isinstance(accent.sound, str):
            found.append(SynthesisedAccent(cut, (start - _AROUND, stop + _AROUND), rate))
        elif (made := accent_of(cut.recipe, cut.window, rate, sound_of)) is not None:
            found.append(made.moved(at))
    return found
