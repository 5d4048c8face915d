"""The recipe book: built-in and saved recipes, shown on a cut's own frames, adjusted."""

import uuid
from fractions import Fraction
from functools import lru_cache
from typing import Annotated, Any

import cv2
import numpy as np
from fastapi import APIRouter, Query, Response
from pydantic import BaseModel

from idle_shimmer.api.server.downloads import json_file
from idle_shimmer.book.entries import book
from idle_shimmer.book.feels import FEELS, feel_of, place_of
from idle_shimmer.book.usual_window import window_of
from idle_shimmer.core.adjust import Adjustments, staying_upright, with_duration
from idle_shimmer.core.animation.retime import ClipSide
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.errors import InvalidValue, RecipeError
from idle_shimmer.core.frame.needs import missing_subjects, spare_frames_needed
from idle_shimmer.core.placed import at_rate
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json
from idle_shimmer.edit.played import played_of
from idle_shimmer.edit.scene import THUMB_BOX, Scene
from idle_shimmer.media.previews.jpeg import jpeg
from idle_shimmer.media.previews.picture_cache import fitted
from idle_shimmer.store import saved_recipes as recipes
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.edits.windows import sides_of
from idle_shimmer.store.tables import SavedRecipe

router = APIRouter(prefix="/api", tags=["recipes"])
CARD_FRAMES = 12
MAX_STILLS = 12
_USUAL_RATE = Fraction(25)
_CARD_QUALITY = 78


class RecipeOut(BaseModel):
    """A recipe of the book: built-in, or saved, with an ``id``.

    ``before`` and ``after`` are frames at the rate that was asked for. ``problem`` is why a saved
    recipe cannot be read. Recipes of one ``family`` are one recipe in several directions; ``feel`` is that
    under which it stands in the book.
    """

    key: str
    id: uuid.UUID | None = None
    name: str
    notes: str
    tags: list[str]
    before: int
    after: int
    filter_count: int
    needs_outgoing: int
    needs_incoming: int
    subjects: list[ClipSide]
    recipe: dict[str, Any]
    problem: str | None = None
    family: str | None = None
    direction: str | None = None
    feel: str | None = None

    @classmethod
    def of(
        cls, key: str, recipe: Recipe, rate: Fraction, saved: SavedRecipe | None = None
    ) -> "RecipeOut":
        """Return the answer for a recipe, in its suggested window or a usual one."""
        recipe = at_rate(recipe, rate)
        window = window_of(recipe, rate)
        needs = spare_frames_needed(recipe, window, rate)
        return cls(
            key=key,
            id=saved.id if saved else None,
            name=saved.name if saved else recipe.name,
            notes=recipe.notes,
            tags=list(recipe.tags),
            before=window.before,
            after=window.after,
            filter_count=len(recipe.filters),
            needs_outgoing=needs.outgoing,
            needs_incoming=needs.incoming,
            subjects=missing_subjects(recipe, ()),
            recipe=recipe_to_json(recipe),
            feel=feel_of(recipe),
        )


class BookOut(BaseModel):
    """The whole book: saved recipes, and built-in ones by their feel.

    ``card_frames`` is how many frames a card plays, ``most_stills`` how many stills come together,
    ``feels`` are the tags by which recipes are looked for.
    """

    card_frames: int
    most_stills: int
    feels: list[str]
    own: list[RecipeOut]
    built_in: list[RecipeOut]


class RecipeToSave(BaseModel):
    """A recipe to save; one of its name is replaced only with ``overwrite``."""

    recipe: Recipe
    overwrite: bool = False


class Adjustment(Adjustments):
    """A recipe, and what to do to it; ``duration`` is that of its window, in frames."""

    recipe: Recipe
    duration: int | None = None


class AdjustedOut(BaseModel):
    """The recipe, every field written out; ``staying_upright`` names what could not be turned."""

    recipe: dict[str, Any]
    staying_upright: list[str]


@router.get("/recipes")
def get_book(rate: str = "25") -> BookOut:
    """Return every recipe of the book; suggested windows are in frames at ``rate``."""
    frame_rate = parse_rate(rate)
    with session_scope() as session:
        own = [_saved(each, frame_rate) for each in recipes.saved_recipes(session)]
    built_in = [
        RecipeOut.of(slug, entry.recipe, frame_rate).model_copy(
            update={"family": entry.family, "direction": entry.direction}
        )
        for slug, entry in book().items()
    ]
    built_in.sort(key=lambda each: place_of(each.feel))
    return BookOut(
        card_frames=CARD_FRAMES,
        most_stills=MAX_STILLS,
        feels=list(FEELS),
        own=own,
        built_in=built_in,
    )


def _saved(saved: SavedRecipe, rate: Fraction) -> RecipeOut:
    try:
        return RecipeOut.of(str(saved.id), recipes.recipe_of(saved), rate, saved)
    except RecipeError as error:
        answer = RecipeOut.of(str(saved.id), Recipe(), rate, saved)
        return answer.model_copy(update={"problem": saved.problem or error.messages()})


@router.post("/recipes", status_code=201)
def save_recipe(new: RecipeToSave) -> RecipeOut:
    """Save a recipe under its name."""
    with session_scope() as session:
        saved = recipes.save(session, new.recipe, overwrite=new.overwrite)
        return RecipeOut.of(str(saved.id), new.recipe, _USUAL_RATE, saved)


@router.put("/recipes/{recipe_id}")
def replace_recipe(recipe_id: uuid.UUID, new: RecipeToSave) -> RecipeOut:
    """Rename or change a saved recipe."""
    with session_scope() as session:
        saved = recipes.saved_recipe(session, recipe_id)
        recipes.replace(session, saved, new.recipe)
        return RecipeOut.of(str(saved.id), new.recipe, _USUAL_RATE, saved)


@router.delete("/recipes/{recipe_id}", status_code=204)
def delete_recipe(recipe_id: uuid.UUID) -> None:
    """Delete a saved recipe."""
    with session_scope() as session:
        session.delete(recipes.saved_recipe(session, recipe_id))


@router.get("/recipes/{recipe_id}/file", response_class=Response)
def recipe_file(recipe_id: uuid.UUID) -> Response:
    """Return a saved recipe as a file, in the newest format; unchanged where it cannot be read."""
    with session_scope() as session:
        saved = recipes.saved_recipe(session, recipe_id)
        try:
            document = recipe_to_json(recipes.recipe_of(saved))
        except RecipeError:
            document = saved.document
    return json_file(document, "recipe.json")


@router.post("/adjust")
def adjust(asked: Adjustment) -> AdjustedOut:
    """Return a whole recipe with another strength, snap, easing or duration of its window, flipped or turned."""
    staying = staying_upright(asked.recipe) if asked.turn else []
    recipe = asked.of(asked.recipe)
    if asked.duration is not None:
        recipe = with_duration(recipe, asked.duration)
    return AdjustedOut(recipe=recipe_to_json(recipe), staying_upright=staying)


@router.get("/cuts/{cut_id}/cards/{key}", response_class=Response)
def card(cut_id: uuid.UUID, key: str) -> Response:
    """Return a recipe on this cut's own frames: CARD_FRAMES small pictures side by side, one JPEG."""
    document = _recipe(key).model_dump_json()
    return _picture(_card(cut_id, _fingerprint(cut_id), key, document))


@router.get("/cuts/{cut_id}/stills", response_class=Response)
def stills(
    cut_id: uuid.UUID, key: Annotated[list[str], Query(min_length=1, max_length=MAX_STILLS)]
) -> Response:
    """Return the frame at this cut with each recipe: small pictures side by side, one JPEG."""
    documents = tuple(_recipe(each).model_dump_json() for each in key)
    return _picture(_stills(cut_id, _fingerprint(cut_id), documents))


def _fingerprint(cut_id: uuid.UUID) -> str:
    """Return what the frames around a cut depend on besides the recipe."""
    with session_scope() as session:
        sides = sides_of(cuts.cut_by_id(session, cut_id))
        edit = sides[0].edit
        place, played = edit.placed.index(sides[0]), played_of(session, edit)
        shown = [(each.clip_id, each.framing) for each in sides]
        return str([shown, played[place].end, played[place + 1].first])


def _picture(data: bytes) -> Response:
    kept = {"Cache-Control": "private, max-age=3600"}
    return Response(data, media_type="image/jpeg", headers=kept)


def _recipe(key: str) -> Recipe:
    if key in book():
        return book()[key].recipe
    try:
        number = uuid.UUID(key)
    except ValueError:
        raise InvalidValue(f"there is no recipe '{key}'", field="key") from None
    with session_scope() as session:
        return recipes.recipe_of(recipes.saved_recipe(session, number))


@lru_cache(maxsize=512)
def _card(cut_id: uuid.UUID, _fingerprint: str, key: str, _document: str) -> bytes:
    scene, recipe = Scene(cut_id), _recipe(key)
    window = window_of(recipe, scene.rate)
    offsets = np.rint(np.linspace(-window.before, window.after - 1, CARD_FRAMES)).astype(int)
    return _side_by_side(scene, [(recipe, int(offset)) for offset in offsets])


@lru_cache(maxsize=64)
def _stills(cut_id: uuid.UUID, _fingerprint: str, documents: tuple[str, ...]) -> bytes:
    return _side_by_side(Scene(cut_id), [(recipe_from_json(each), 0) for each in documents])


def _side_by_side(scene: Scene, wanted: list[tuple[Recipe, int]]) -> bytes:
    size = fitted(scene.thumb_size, THUMB_BOX)
    frames = [
        cv2.resize(
            scene.small_transition(recipe, window_of(recipe, scene.rate)).frame(offset), size
        )
        for recipe, offset in wanted
    ]
    return jpeg(np.hstack(frames), _CARD_QUALITY)
