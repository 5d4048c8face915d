"""Operations on whole recipes: strength, duration, snap, easing, flip, turn.

Pure functions that return a new recipe.
"""

import itertools
from collections.abc import Callable
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from idle_shimmer.core.animation.easing import Easing, Steepness, curve
from idle_shimmer.core.animation.envelope import Animated, Keyframes, Swell, Travel
from idle_shimmer.core.animation.times import Time, is_at_cut
from idle_shimmer.core.animation.timing import MAX_SIDE_FRAMES, divided
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.filters.base import Filter
from idle_shimmer.core.mixes.base import SpannedMix
from idle_shimmer.core.orientation import Axis
from idle_shimmer.core.parameters import Parameter
from idle_shimmer.core.recipe import Recipe, SuggestedWindow, recipe_from_json, recipe_to_json


class Adjustments(BaseModel):
    """What to do to a whole recipe: ``strength`` 1, ``turn`` 0 and None change nothing.

    ``turn`` is in degrees, counter-clockwise; ``easing`` is put on every curve.
    """

    strength: Annotated[float, Field(ge=0, le=8)] = 1.0
    snap: Annotated[float | None, Field(ge=0, le=1)] = None
    flip: Axis | None = None
    turn: Literal[0, 90, 180, 270] = 0
    easing: Easing | None = None

    def of(self, recipe: Recipe) -> Recipe:
        """Return ``recipe`` adjusted."""
        if self.strength != 1:
            recipe = with_strength(recipe, self.strength)
        if self.snap is not None:
            recipe = with_snap(recipe, self.snap)
        if self.flip is not None:
            recipe = flip(recipe, self.flip)
        if self.easing is not None:
            recipe = with_easing(recipe, self.easing)
        return turn(recipe, self.turn // 90) if self.turn else recipe


def flip(recipe: Recipe, axis: Axis) -> Recipe:
    """Return the recipe that shows on flipped clips what ``recipe`` shows on plain ones, flipped."""
    filters = tuple(each.flipped(axis) for each in recipe.filters)
    return _validated(
        recipe.model_copy(update={"filters": filters, "mix": recipe.mix.flipped(axis)})
    )


def turn(recipe: Recipe, quarters: int = 1) -> Recipe:
    """Return the recipe that shows on turned clips what ``recipe`` shows on plain ones, turned.

    By quarter turns, counter-clockwise; exact on square frames. What cannot be turned stays as it is: see
    ``staying_upright``.
    """
    for _ in range(quarters % 4):
        filters = tuple(each.turned() for each in recipe.filters)
        recipe = recipe.model_copy(update={"filters": filters, "mix": recipe.mix.turned()})
    return _validated(recipe)


def staying_upright(recipe: Recipe) -> list[str]:
    """Return the names of the filters and the mix of ``recipe`` that cannot be turned."""
    filters = [each.label for each in recipe.filters if each.stays_upright]
    return [*filters, recipe.mix.title] if recipe.mix.stays_upright() else filters


def with_duration(recipe: Recipe, frames: int) -> Recipe:
    """Return ``recipe`` with a suggested window of ``frames`` in all, divided as before; at least 2.

    Raises InvalidValue where a side would be too long.
    """
    if not 2 <= frames <= 2 * MAX_SIDE_FRAMES:
        raise InvalidValue(f"the duration must be 2 to {2 * MAX_SIDE_FRAMES} frames, not {frames}")
    suggested = recipe.window or SuggestedWindow(before=1, after=1)
    before, after = divided(frames, suggested.before, suggested.after)
    sides = {"before": before, "after": after}
    return _validated(recipe.model_copy(update={"window": suggested.model_copy(update=sides)}))


def with_easing(recipe: Recipe, easing: Easing) -> Recipe:
    """Return ``recipe`` with one easing on every curve. Raises InvalidValue for an unknown one."""
    curve(easing)

    def change(owner: Filter, name: str, _parameter: Parameter) -> Any:
        envelope = getattr(owner, name)
        return (
            envelope.with_easings(lambda _: easing) if isinstance(envelope, Animated) else envelope
        )

    return _eased_mix(_with_parameters(recipe, change, resting_only=False), easing)


def with_strength(recipe: Recipe, factor: float) -> Recipe:
    """Return ``recipe`` with every peak, amount and keyframe ``factor`` (0 or more) times from rest.

    Periodic values keep landing on whole periods, and travel at least one; values that are
    interpolated by ratio change by powers. The accent is ``factor`` times as loud. All values stay inside
    their ranges.
    """

    def change(owner: Filter, name: str, parameter: Parameter) -> Any:
        return _strengthen(getattr(owner, name), owner, parameter, factor)

    if recipe.accent is not None:
        recipe = recipe.model_copy(update={"accent": recipe.accent.with_strength(factor)})
    return _with_parameters(recipe, change)


def with_snap(recipe: Recipe, steepness: float) -> Recipe:
    """Return ``recipe`` with every curve as steep at the cut as ``steepness``, 0 even … 1 sudden."""

    def change(owner: Filter, name: str, _parameter: Parameter) -> Any:
        return _snap(getattr(owner, name), steepness)

    return _eased_mix(_with_parameters(recipe, change), Steepness(steepness=steepness))


def _eased_mix(recipe: Recipe, easing: Easing) -> Recipe:
    if isinstance(recipe.mix, SpannedMix):
        mix = recipe.mix.model_copy(update={"easing": easing})
        recipe = recipe.model_copy(update={"mix": mix})
    return _validated(recipe)


def _validated(recipe: Recipe) -> Recipe:
    """Return an equal recipe that has passed validation: copies are not validated."""
    return recipe_from_json(recipe_to_json(recipe))


def _with_parameters(
    recipe: Recipe,
    change: Callable[[Filter, str, Parameter], Any],
    *,
    resting_only: bool = True,
) -> Recipe:
    """Return ``recipe`` with the envelopes of its parameters changed: those that have a rest, or all."""
    filters = tuple(
        owner.model_copy(
            update={
                name: change(owner, name, parameter)
                for name, parameter in owner.parameters().items()
                if parameter.rest is not None or not resting_only
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
        return envelope.model_copy(update={"rise": _rising(s), "fall": _falling(s)})
    if isinstance(envelope, Keyframes):
        *begins, last = envelope.keyframes
        snapped: list[Any] = [
            one.model_copy(update={"easing": _snapped_between(one.at, other.at, s)})
            for one, other in itertools.pairwise(envelope.keyframes)
        ]
        return envelope.model_copy(update={"keyframes": (*snapped, last)}) if begins else envelope
    return envelope


def _rising(s: float) -> str:
    """Return an easing that is fastest at its end."""
    return f"cubic-bezier({s:g},0,1,{1 - s / 2:g})"


def _falling(s: float) -> str:
    """Return an easing that is fastest at its beginning."""
    return f"cubic-bezier(0,{s / 2:g},{1 - s:g},1)"


def _snapped_between(begin: Time, end: Time, s: float) -> Easing:
    """Return the easing between two keyframes: fastest where they touch the cut, or in the middle."""
    if is_at_cut(end, is_before=True):
        return _rising(s)
    return _falling(s) if is_at_cut(begin, is_before=False) else Steepness(steepness=s)
