"""A recipe placed in a window: every time read as u, so that its values can be told.

Times in frames become u here, and a recipe whose ``times`` are "frames" gets its peaks, plateaus and
keyframes moved to the centres of the nearest frames. Placing what is placed changes nothing.
"""

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from idle_shimmer.core.animation import envelope as envelopes
from idle_shimmer.core.animation.retime import CLIP_SIDES, Retime, Retimes
from idle_shimmer.core.animation.times import FrameTime, Placing
from idle_shimmer.core.animation.timing import Window, parse_rate, rate_text
from idle_shimmer.core.filters.base import Filter
from idle_shimmer.core.recipe import Recipe, SuggestedWindow, recipe_from_json, recipe_to_json


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


def at_rate(recipe: Recipe, rate: Fraction) -> Recipe:
    """Return ``recipe`` with its suggested window, and times in frames, counted at ``rate``.

    The same recipe where it says nothing of a rate, or has no times in frames.
    """
    if recipe.window is None or recipe.window.rate is None:
        return recipe
    window = recipe.window.at_rate(rate)
    placing = Placing(window, _scale(recipe.window, rate))
    document = recipe_to_json(recipe)
    counted = _counted(document, placing)
    if counted == document:
        return recipe
    sides = {"before": window.before, "after": window.after, "rate": rate_text(rate)}
    return recipe_from_json({**counted, "window": sides})


def _counted(part: Any, placing: Placing) -> Any:
    """Return a part of a document with every time in frames counted anew."""
    if isinstance(part, dict):
        if part.keys() == {"frames"}:
            return {"frames": placing.frames(FrameTime.model_validate(part))}
        return {key: _counted(value, placing) for key, value in part.items()}
    return [_counted(each, placing) for each in part] if isinstance(part, list) else part


def _scale(suggested: SuggestedWindow | None, rate: Fraction | None) -> Fraction:
    if rate is None or suggested is None or suggested.rate is None:
        return Fraction(1)
    return rate / parse_rate(suggested.rate)


def _placed_filter(owner: Filter, placing: Placing) -> Filter:
    changed = dict(_placed_fields(owner, owner.parameters(), placing))
    if owner.region is not None and any(
        map(envelopes.is_animated, owner.region.envelopes().values())
    ):
        changed["region"] = owner.region.placed(placing)
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
