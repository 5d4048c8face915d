"""The sound of a recipe's accent in a window."""

from fractions import Fraction

from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.core.sound.accent import PlacedSound, SoundOf
from idle_shimmer.core.sound.render_accent import accent_sound

# Movements that an accent follows are seen on a frame of one shape: the sound is free of frame sizes.
_ACCENT_SIZE = (1600, 900)


def accent_of(
    recipe: Recipe, window: Window, rate: Fraction, sound_of: SoundOf | None
) -> PlacedSound | None:
    """Return the sound of a recipe's accent, counted from the cut's sample; None without one.

    The loop, renders and the command line all ask here: they play the same samples.
    """
    if recipe.accent is None:
        return None
    timeline = Timeline(recipe, window, rate, _ACCENT_SIZE)
    assert timeline.recipe.accent is not None
    return accent_sound(timeline.recipe.accent, timeline, sound_of)
