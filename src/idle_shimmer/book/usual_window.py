"""The window in which a recipe is shown: the one that it suggests, or a usual one."""

from fractions import Fraction

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.recipe import Recipe

_USUAL_SIDE = 8


def window_of(recipe: Recipe, rate: Fraction) -> Window:
    """Return the window that a recipe suggests at ``rate``, or a usual one."""
    if recipe.window is None:
        return Window(_USUAL_SIDE, _USUAL_SIDE)
    return recipe.window.at_rate(rate)
