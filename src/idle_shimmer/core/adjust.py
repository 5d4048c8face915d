"""Operations on whole recipes: strength, snap, flip. Pure functions that return a new recipe."""

from collections.abc import Callable
from typing import Any

from idle_shimmer.core.animation.easing import Easing, Steepness
from idle_shimmer.core.animation.envelope import Swell, Travel
from idle_shimmer.core.filters.base import Filter
from idle_shimmer.core.mixes.base import SpannedMix
from idle_shimmer.core.orientation import Axis
from idle_shimmer.core.parameters import Parameter
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json


def flip(recipe: Recipe, axis: Axis) -> Recipe:
    """Return the recipe that shows on flipped clips what ``recipe`` shows on plain ones, flipped."""
    filters = tuple(each.flipped(axis) for each in recipe.filters)
    return _validated(
        recipe.model_copy(update={"filters": filters, "mix": recipe.mix.flipped(axis)})
    )


def with_strength(recipe: Recipe, factor: float) -> Recipe:
    """Return ``recipe`` with every peak, amount and keyframe ``factor`` (0 or more) times from rest.

    Periodic values keep landing on whole periods, and travel at least one; values that are
    interpolated by ratio change by powers. All values stay inside their ranges.
    """

    def change(owner: Filter, name: str, parameter: Parameter) -> Any:
        return _strengthen(getattr(owner, name), owner, parameter, factor)

    return _with_parameters(recipe, change)


def with_snap(recipe: Recipe, steepness: float) -> Recipe:
    """Return ``recipe`` with every curve as steep at the cut as ``steepness``, 0 even … 1 sudden.

    Keyframes keep their easings.
    """

    def change(owner: Filter, name: str, _parameter: Parameter) -> Any:
        return _snap(getattr(owner, name), steepness)

    snapped = _with_parameters(recipe, change)
    if isinstance(recipe.mix, SpannedMix):
        mix = recipe.mix.model_copy(update={"easing": Steepness(steepness=steepness)})
        snapped = snapped.model_copy(update={"mix": mix})
    return _validated(snapped)


def _validated(recipe: Recipe) -> Recipe:
    """Return an equal recipe that has passed validation: copies are not validated."""
    return recipe_from_json(recipe_to_json(recipe))


def _with_parameters(recipe: Recipe, change: Callable[[Filter, str, Parameter], Any]) -> Recipe:
    """Return ``recipe`` with the envelopes of all parameters that have a rest changed."""
    filters = tuple(
        owner.model_copy(
            update={
                name: change(owner, name, parameter)
                for name, parameter in owner.parameters().items()
                if parameter.rest is not None
            }
        )
        for owner in recipe.filters
    )
    return _validated(recipe.model_copy(update={"filters": filters}))


def _strengthen(envelope: Any, owner: Filter, parameter: Parameter, factor: float) -> Any:
    rest = float(parameter.rest or 0.0)

    def place(value: float) -> float:
        scaled = value**factor if rest == 1 and value > 0 else rest + (value - rest) * factor
        return float(min(max(scaled, parameter.low), parameter.high))

    if isinstance(envelope, Travel):
        amount = envelope.amount * factor
        if parameter.period is not None and envelope.amount:
            period = parameter.period(owner)
            sign = -1 if envelope.amount < 0 else 1
            amount = sign * period * max(1, round(abs(amount) / period))
        return envelope.model_copy(update={"amount": float(amount)})
    if hasattr(envelope, "with_values"):
        return envelope.with_values(place, lambda difference: difference, rest)
    return place(envelope) if isinstance(envelope, int | float) else envelope


def _snap(envelope: Any, steepness: float) -> Any:
    s = steepness
    if isinstance(envelope, Travel):
        easing: Easing = Steepness(steepness=s)
        return envelope.model_copy(update={"easing": easing})
    if isinstance(envelope, Swell):
        rise, fall = (
            f"cubic-bezier({s:g},0,1,{1 - s / 2:g})",
            f"cubic-bezier(0,{s / 2:g},{1 - s:g},1)",
        )
        return envelope.model_copy(update={"rise": rise, "fall": fall})
    return envelope
