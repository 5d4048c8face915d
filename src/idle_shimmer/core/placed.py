"""A recipe placed in a window: every time read as u, so that its values can be told.

Times in frames become u here, and a recipe whose ``times`` are "frames" gets its peaks, plateaus and
keyframes moved to the centres of the nearest frames. Placing what is placed changes nothing.
"""

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from idle_shimmer.core.animation import envelope as envelopes
from idle_shimmer.core.animation.retime import CLIP_SIDES, Retime, Retimes
from idle_shimmer.core.animation.times import Placing
from idle_shimmer.core.animation.timing import Window, parse_rate
from idle_shimmer.core.filters.base import Filter
from idle_shimmer.core.recipe import Recipe, SuggestedWindow


def placed(
    recipe: Recipe, window: Window, rate: Fraction | None, *, on_frames: bool = True
) -> Recipe:
    """Return ``recipe`` with its times as u in ``window``, at ``rate`` frames a second.

    Frames that the recipe states are those of its suggested window's rate, where that has one; without
    ``rate`` they are the window's own. ``on_frames=False`` leaves peaks and keyframes between frames.
    """
    on_frames = on_frames and recipe.times == "frames"
    placing = Placing(window, _scale(recipe.window, rate), on_frames)
    changed = {
        "filters": tuple(_placed_filter(each, placing) for each in recipe.filters),
        "mix": recipe.mix.placed(placing),
        "retime": _placed_retimes(recipe.retime, placing),
        "subject_layer": recipe.subject_layer and recipe.subject_layer.placed(placing),
        "accent": recipe.accent and recipe.accent.placed(placing),
        # Peaks that were left between frames stay to be placed.
        "times": "exact" if on_frames else recipe.times,
    }
    return recipe.model_copy(update=changed)


def _scale(suggested: SuggestedWindow | None, rate: Fraction | None) -> Fraction:
    if rate is None or suggested is None or suggested.rate is None:
        return Fraction(1)
    return rate / parse_rate(suggested.rate)


def _placed_filter(owner: Filter, placing: Placing) -> Filter:
    changed = dict(_placed_fields(owner, owner.parameters(), placing))
    return owner.model_copy(update=changed) if changed else owner


def _placed_fields(owner: Any, names: Any, placing: Placing) -> Iterator[tuple[str, Any]]:
    for name in names:
        envelope = getattr(owner, name)
        if isinstance(envelope, envelopes.Animated):
            yield name, envelope.placed(placing)


def _placed_retimes(retimes: Retimes, placing: Placing) -> Retimes:
    changed: dict[str, Any] = {
        side: _placed_retime(getattr(retimes, side), placing) for side in CLIP_SIDES
    }
    return retimes.model_copy(update=changed)


def _placed_retime(retime: Retime, placing: Placing) -> Retime:
    return retime.model_copy(
        update={
            "speed": envelopes.placed(retime.speed, placing),
            "slips": tuple(each.placed(placing) for each in retime.slips),
        }
    )
