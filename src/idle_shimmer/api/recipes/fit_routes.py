"""Which recipes of the book suit a cut, and why: measured from the frames around it."""

import uuid
from fractions import Fraction
from functools import lru_cache
from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel

from idle_shimmer.book.entries import book
from idle_shimmer.book.usual_window import window_of
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import RecipeError
from idle_shimmer.core.fit.measures import ClipMeasures, CutMeasures, measure_cut
from idle_shimmer.core.fit.rules import describe_motion, fit
from idle_shimmer.core.fit.suggest import on_the_beat, with_weight
from idle_shimmer.core.fit.traits import Traits, traits_of
from idle_shimmer.core.placed import at_rate
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json
from idle_shimmer.edit.scene import Scene
from idle_shimmer.store import saved_recipes as recipes
from idle_shimmer.store.database import session_scope
from idle_shimmer.transition.missing_frames import shortages

# So many frames on each side of the cut say what the camera does there.
_REACH_FRAMES = 6
_MOST_REASONS = 3
_KEPT_TRAITS = 1024
_PARTS_OF_A_BEAT = {
    Fraction(1, 4): "a quarter of a beat",
    Fraction(1, 2): "half a beat",
    Fraction(1): "one beat",
}
router = APIRouter(prefix="/api/cuts", tags=["cuts"])


class ClipFitOut(BaseModel):
    """What was measured of one clip at the cut.

    ``right`` and ``down`` are the picture's movement in frame heights a frame; ``zoom`` the natural
    logarithm of its change of scale, ``turn_deg`` counter-clockwise; ``brightness`` and ``softness``
    0…1; ``weight`` a point in 0…1 of the frame. ``camera`` says in words what the camera does.
    """

    camera: str
    right: float
    down: float
    zoom: float
    turn_deg: float
    brightness: float
    softness: float
    weight: list[float]


class RecipeFitOut(BaseModel):
    """A recipe of the book by its key: points, reasons, and what Fit sets in it.

    ``recipe`` has its centre where the pictures have their weight, None where it keeps its own;
    ``before`` and ``after`` are on the beat, where the edit has beats: ``beats`` says how many.
    """

    key: str
    points: float
    reasons: list[str]
    recipe: dict[str, Any] | None
    before: int
    after: int
    beats: float | None


class FitOut(BaseModel):
    """Both clips as measured, how alike the frames at the cut are (0…1), and every recipe, best first."""

    outgoing: ClipFitOut
    incoming: ClipFitOut
    likeness: float
    recipes: list[RecipeFitOut]


@router.get("/{cut_id}/fit")
def get_fit(cut_id: uuid.UUID) -> FitOut:
    """Measure the frames around a cut and sort the recipe book by how well each recipe suits it."""
    scene = Scene(cut_id)
    measures = _measured(scene)
    found = [_fitted(scene, measures, key, recipe) for key, recipe in _recipes()]
    found.sort(key=lambda each: -each.points)
    return FitOut(
        outgoing=_clip(measures.outgoing),
        incoming=_clip(measures.incoming),
        likeness=round(measures.likeness, 3),
        recipes=found,
    )


def _measured(scene: Scene) -> CutMeasures:
    around = scene.frames_around(_REACH_FRAMES)
    outgoing = around[0].frames[: -around[0].first]
    incoming = around[1].frames[-around[1].first :]
    # A still has no frames around the cut, but the one that it shows.
    last, first = scene.cut_frames()
    return measure_cut(outgoing or [last], incoming or [first], scene.beats_per_minute)


def _recipes() -> list[tuple[str, Recipe]]:
    with session_scope() as session:
        own = []
        for saved in recipes.saved_recipes(session):
            try:
                own.append((str(saved.id), recipes.recipe_of(saved)))
            except RecipeError:
                continue
    return own + [(slug, entry.recipe) for slug, entry in book().items()]


def _fitted(scene: Scene, measures: CutMeasures, key: str, recipe: Recipe) -> RecipeFitOut:
    window, beats = _window(recipe, scene.rate, measures.beats_per_minute)
    shown = scene.small_transition(recipe, window)
    missing = sum(max(0, each.missing) for each in shortages(shown))
    result = fit(measures, _traits(recipe.model_dump_json()), missing)
    recipe = at_rate(recipe, scene.rate)
    centred = with_weight(recipe, measures)
    reasons = [each.text for each in result.reasons[:_MOST_REASONS]]
    if beats is not None:
        reasons.append(_beats_text(beats, window, measures))
    return RecipeFitOut(
        key=key,
        points=round(result.points, 3),
        reasons=reasons,
        recipe=None if centred == recipe else recipe_to_json(centred),
        before=window.before,
        after=window.after,
        beats=None if beats is None else float(beats),
    )


@lru_cache(maxsize=_KEPT_TRAITS)
def _traits(document: str) -> Traits:
    return traits_of(recipe_from_json(document))


def _window(
    recipe: Recipe, rate: Fraction, beats_per_minute: float | None
) -> tuple[Window, Fraction | None]:
    window = window_of(recipe, rate)
    return on_the_beat(window, rate, beats_per_minute) if beats_per_minute else (window, None)


def _beats_text(beats: Fraction, window: Window, measures: CutMeasures) -> str:
    frames = window.before + window.after
    many = _PARTS_OF_A_BEAT.get(beats, f"{beats} beats")
    return f"{frames} frames are {many} at {measures.beats_per_minute:g} BPM"


def _clip(measured: ClipMeasures) -> ClipFitOut:
    camera = measured.camera
    return ClipFitOut(
        camera=describe_motion(camera),
        right=round(camera.right, 5),
        down=round(camera.down, 5),
        zoom=round(camera.zoom, 5),
        turn_deg=round(camera.turn_deg, 3),
        brightness=round(measured.brightness, 3),
        softness=round(measured.softness, 3),
        weight=[round(each, 3) for each in measured.weight],
    )
