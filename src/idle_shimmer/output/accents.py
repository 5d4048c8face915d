"""The accents of an edit's cuts: those that are heard between two of its samples."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.core.sound.accent import PlacedSound, SoundOf
from idle_shimmer.core.sound.samples import sample_at
from idle_shimmer.transition import accent_of


@dataclass(frozen=True)
class HeardCut:
    """A cut, its frame in the edit, and its transition."""

    frame: int
    window: Window
    recipe: Recipe


def accents_between(
    cuts: Sequence[HeardCut], frames: range, rate: Fraction, sound_of: SoundOf | None
) -> list[PlacedSound]:
    """Return the accents that are heard in ``frames`` of the edit, placed there."""
    first, end = (sample_at(each, rate) for each in (frames.start, frames.stop))
    found = []
    for cut in cuts:
        accent, at = cut.recipe.accent, sample_at(cut.frame, rate)
        if accent is None:
            continue
        start, stop = accent.span(cut.window, rate)
        if at + start < end and at + stop > first:
            made = accent_of(cut.recipe, cut.window, rate, sound_of)
            if made is not None:
                found.append(made.moved(at))
    return found
