"""Whole recipes reshaped at once: stronger, snappier, flipped."""

from collections.abc import Callable
from typing import Any

from idle_shimmer.core.easing import Steepness
from idle_shimmer.core.envelope import Keys, Swell, Travel
from idle_shimmer.core.facts import Axis, Fact
from idle_shimmer.core.mixes.base import SpannedMix
from idle_shimmer.core.passes.base import Pass
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json


def flipped(recipe: Recipe, axis: Axis) -> Recipe:
    """The recipe that shows on flipped clips what ``recipe`` shows on plain ones, flipped."""
    passes = tuple(each.flipped(axis) for each in recipe.passes)
    return _checked(recipe.model_copy(update={"passes": passes, "mix": recipe.mix.flipped(axis)}))


def with_strength(recipe: Recipe, factor: float) -> Recipe:
    """Every peak, amount and key ``factor`` (0 or more) times as far from rest.

    What wraps stays whole, and travels by at least one unit; scales change by powers. Values are
    held inside their ranges.
    """
    return _each(
        recipe, lambda each, name, fact: _stronger(getattr(each, name), each, fact, factor)
    )


def with_snap(recipe: Recipe, steepness: float) -> Recipe:
    """Every curve as slow and then fast as ``steepness`` (0 even … 1 at once) says; keys stay."""
    reshaped = _each(recipe, lambda each, name, _fact: _snappier(getattr(each, name), steepness))
    if isinstance(recipe.mix, SpannedMix):
        mix = recipe.mix.model_copy(update={"shape": Steepness(steepness=steepness)})
        reshaped = reshaped.model_copy(update={"mix": mix})
    return _checked(reshaped)


def _checked(recipe: Recipe) -> Recipe:
    """The same through the door: copies are not validated."""
    return recipe_from_json(recipe_to_json(recipe))


def _each(recipe: Recipe, change: Callable[[Pass, str, Fact], Any]) -> Recipe:
    passes = tuple(
        each.model_copy(
            update={
                name: change(each, name, fact)
                for name, fact in each.facts().items()
                if fact.rest is not None
            }
        )
        for each in recipe.passes
    )
    return _checked(recipe.model_copy(update={"passes": passes}))


def _stronger(envelope: Any, each: Pass, fact: Fact, factor: float) -> Any:
    rest = float(fact.rest or 0.0)

    def there(value: float) -> float:
        grown = value**factor if rest == 1 and value > 0 else rest + (value - rest) * factor
        return float(min(max(grown, fact.low), fact.high))

    if isinstance(envelope, Swell):
        return envelope.model_copy(update={"peak": there(envelope.peak)})
    if isinstance(envelope, Travel):
        amount = envelope.amount * factor
        if fact.control == "whole":
            unit = 2 if getattr(each, "edge", "") == "mirror" and fact.unit == "frames" else 1
            sign = -1 if envelope.amount < 0 else 1
            amount = sign * unit * max(1, round(abs(amount) / unit)) if envelope.amount else 0.0
        return envelope.model_copy(update={"amount": float(amount)})
    if isinstance(envelope, Keys):
        keys = tuple(k.model_copy(update={"value": there(k.value)}) for k in envelope.keys)
        return envelope.model_copy(update={"keys": keys})
    return there(envelope) if isinstance(envelope, int | float) else envelope


def _snappier(envelope: Any, s: float) -> Any:
    if isinstance(envelope, Travel):
        return envelope.model_copy(update={"shape": Steepness(steepness=s)})
    if isinstance(envelope, Swell):
        rise, fall = (
            f"cubic-bezier({s:g},0,1,{1 - s / 2:g})",
            f"cubic-bezier(0,{s / 2:g},{1 - s:g},1)",
        )
        return envelope.model_copy(update={"rise": rise, "fall": fall})
    return envelope
