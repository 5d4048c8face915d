"""What Fit sets in a recipe: its centre to the weight of the pictures, its duration to the beat."""

from fractions import Fraction

from idle_shimmer.core.animation.timing import MAX_SIDE_FRAMES, Window
from idle_shimmer.core.fit.measures import CutMeasures
from idle_shimmer.core.fit.traits import centred
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json

# A weight nearer to the middle than this, in frames, leaves the centre where it is.
OFF_CENTRE = 0.08
_BEATS = (Fraction(1, 4), Fraction(1, 2), Fraction(1), Fraction(2), Fraction(4))

Point = tuple[float, float]


def with_weight(recipe: Recipe, measures: CutMeasures) -> Recipe:
    """Return ``recipe`` with every centre that stands in the middle set to what catches the eye.

    That of the clip on which the filter acts; of both, midway between, where it acts on both.
    """
    one, other = measures.outgoing.weight, measures.incoming.weight
    points = {"outgoing": one, "incoming": other, "across": _midway(one, other)}
    layer = recipe.subject_layer
    points["subject"] = one if layer is not None and layer.of == "outgoing" else other
    moved = {
        each.id: each.model_copy(update={name: points[each.side]})
        for each in recipe.filters
        if (name := centred(each)) is not None and _off_centre(points[each.side])
    }
    if not moved:
        return recipe
    filters = tuple(moved.get(each.id, each) for each in recipe.filters)
    return recipe_from_json(recipe_to_json(recipe.model_copy(update={"filters": filters})))


def on_the_beat(window: Window, rate: Fraction, beats_per_minute: float) -> tuple[Window, Fraction]:
    """Return the window of a quarter to four beats that is nearest in length, and its beats."""
    beat = 60 * rate / Fraction(beats_per_minute)
    frames = window.before + window.after
    beats = min(_BEATS, key=lambda each: abs(_ratio(beat * each, frames) - 1))
    length = max(2, round(beat * beats))
    before = min(max(1, round(Fraction(length * window.before, frames))), length - 1)
    sides = (min(each, MAX_SIDE_FRAMES) for each in (before, length - before))
    return Window(*sides), beats


def _ratio(one: Fraction, other: int) -> float:
    return float(max(one / other, other / one))


def _midway(one: Point, other: Point) -> Point:
    return (one[0] + other[0]) / 2, (one[1] + other[1]) / 2


def _off_centre(point: Point) -> bool:
    return max(abs(point[0] - 0.5), abs(point[1] - 0.5)) >= OFF_CENTRE
