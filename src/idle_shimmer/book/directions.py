"""Directions of one recipe: each is derived from the one that its file describes.

A file lists the directions that make sense, its own first. Level and upright ones are turned from it by
quarters; a diagonal one joins the two beside it.
"""

from typing import Any

from idle_shimmer.book.recipe_texts import words
from idle_shimmer.core.adjust import turn
from idle_shimmer.core.animation.envelope import is_animated
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.filters.base import Filter
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json

# Degrees counter-clockwise from rightwards; a streak without a heading lies along an axis.
ANGLES_DEG = {
    "right": 0,
    "up-right": 45,
    "up": 90,
    "up-left": 135,
    "left": 180,
    "down-left": 225,
    "down": 270,
    "down-right": 315,
    "horizontal": 0,
    "diagonal": 45,
    "vertical": 90,
    "falling-diagonal": 135,
}


def in_direction(recipe: Recipe, own: str, wanted: str) -> Recipe:
    """Return ``recipe``, whose direction is ``own``, in the ``wanted`` one; by name, see ``ANGLES_DEG``."""
    steps = (_angle_deg(wanted) - _angle_deg(own)) % 360
    quarters, rest = divmod(steps, 90)
    if rest == 0:
        return _named(turn(recipe, quarters), own, wanted)
    return _named(_between(turn(recipe, quarters), turn(recipe, quarters + 1)), own, wanted)


def _angle_deg(direction: str) -> int:
    if direction not in ANGLES_DEG:
        known = ", ".join(ANGLES_DEG)
        raise InvalidValue(f"there is no direction '{direction}': use one of {known}")
    return ANGLES_DEG[direction]


def _between(one: Recipe, other: Recipe) -> Recipe:
    """Return the recipe that goes both ways at once."""
    filters = tuple(
        _joined(here, there) for here, there in zip(one.filters, other.filters, strict=True)
    )
    joined = one.model_copy(update={"filters": filters})
    return recipe_from_json(recipe_to_json(joined))


def _joined(one: Filter, other: Filter) -> Filter:
    changed: dict[str, Any] = {}
    for name, parameter in one.parameters().items():
        here, there = getattr(one, name), getattr(other, name)
        if parameter.turned is not None and is_animated(there) and not is_animated(here):
            changed[name] = there
        if parameter.orientation == "angle" and not is_animated(here):
            changed[name] = here + 45.0
    return one.model_copy(update=changed)


def _named(recipe: Recipe, own: str, wanted: str) -> Recipe:
    """Return the recipe under the name of its direction, which its notes speak of as well."""
    said, now = words(own), words(wanted)
    name = recipe.name
    if name.endswith(said):
        name = name.removesuffix(said) + now
    elif own != wanted:
        name = f"{name}, {now}"
    return recipe.model_copy(update={"name": name, "notes": recipe.notes.replace(said, now)})
