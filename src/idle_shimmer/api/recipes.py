"""The recipe book: built-in recipes and the editor's own, shown on a cut's own frames, reshaped."""

import json
import uuid
from functools import lru_cache
from typing import Annotated, Any

import cv2
import numpy as np
from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from idle_shimmer.api.clips import jpeg
from idle_shimmer.api.errors import REFUSALS
from idle_shimmer.api.preview import THUMB_BOX, Scene
from idle_shimmer.book import book
from idle_shimmer.core.adjust import flipped, with_snap, with_strength
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.orientation import Axis
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json
from idle_shimmer.core.render import spare_frames_needed
from idle_shimmer.media.picture_cache import fitted
from idle_shimmer.store import cuts, edits, recipes
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.models import SavedRecipe

router = APIRouter(prefix="/api", tags=["recipes"], responses=REFUSALS)
CARD_FRAMES = 12
MOST_STILLS = 12
_USUAL_SIDE = 8
_CARD_QUALITY = 78


class RecipeOut(BaseModel):
    """A recipe of the book: built-in, with a ``slug``, or the editor's own, with an ``id``."""

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
    recipe: dict[str, Any]

    @classmethod
    def of(cls, key: str, recipe: Recipe, saved: SavedRecipe | None = None) -> "RecipeOut":
        """From the recipe; without a suggested window it is counted in a usual one."""
        window = window_of(recipe)
        needs = spare_frames_needed(recipe, window)
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
            recipe=recipe_to_json(recipe),
        )


class BookOut(BaseModel):
    """The whole book, the editor's own first.

    ``card_frames`` is how many frames a card plays, ``most_stills`` how many stills come together.
    """

    card_frames: int
    most_stills: int
    own: list[RecipeOut]
    built_in: list[RecipeOut]


class Kept(BaseModel):
    """A recipe to be kept; one of its name is replaced only with ``overwrite``."""

    recipe: Recipe
    overwrite: bool = False


class Reshaping(BaseModel):
    """What to do to a whole recipe: ``strength`` 1 and ``snap`` None leave it as it is."""

    recipe: Recipe
    strength: Annotated[float, Field(ge=0, le=8)] = 1.0
    snap: Annotated[float | None, Field(ge=0, le=1)] = None
    flip: Axis | None = None


class Reshaped(BaseModel):
    """The recipe, every field written out."""

    recipe: dict[str, Any]


def window_of(recipe: Recipe) -> Window:
    """The window that a recipe suggests, or a usual one."""
    suggested = recipe.window
    if suggested is None:
        return Window(_USUAL_SIDE, _USUAL_SIDE)
    return Window(suggested.before, suggested.after)


@router.get("/recipes")
def get_book() -> BookOut:
    """Every recipe of the book."""
    with session_scope() as session:
        own = [
            RecipeOut.of(str(each.id), recipes.recipe_of(each), each)
            for each in recipes.saved_recipes(session)
        ]
    built_in = [RecipeOut.of(slug, entry.recipe) for slug, entry in book().items()]
    return BookOut(card_frames=CARD_FRAMES, most_stills=MOST_STILLS, own=own, built_in=built_in)


@router.post("/recipes", status_code=201)
def keep_recipe(kept: Kept) -> RecipeOut:
    """Keep a recipe under its name."""
    with session_scope() as session:
        saved = recipes.keep(session, kept.recipe, overwrite=kept.overwrite)
        return RecipeOut.of(str(saved.id), kept.recipe, saved)


@router.put("/recipes/{recipe_id}")
def replace_recipe(recipe_id: uuid.UUID, kept: Kept) -> RecipeOut:
    """Rename or change a kept recipe."""
    with session_scope() as session:
        saved = recipes.saved_recipe(session, recipe_id)
        recipes.replace(session, saved, kept.recipe)
        return RecipeOut.of(str(saved.id), kept.recipe, saved)


@router.delete("/recipes/{recipe_id}", status_code=204)
def delete_recipe(recipe_id: uuid.UUID) -> None:
    """Delete a kept recipe."""
    with session_scope() as session:
        session.delete(recipes.saved_recipe(session, recipe_id))


@router.get("/recipes/{recipe_id}/file", response_class=Response)
def recipe_file(recipe_id: uuid.UUID) -> Response:
    """A kept recipe as a file that can be imported elsewhere."""
    with session_scope() as session:
        document = recipes.saved_recipe(session, recipe_id).document
    text = json.dumps(document, indent=1, ensure_ascii=False) + "\n"
    return Response(
        text,
        media_type="application/json",
        headers={"Content-Disposition": 'attachment; filename="recipe.json"'},
    )


@router.post("/reshape")
def reshape(asked: Reshaping) -> Reshaped:
    """A whole recipe stronger, snappier or flipped."""
    recipe = asked.recipe
    if asked.strength != 1:
        recipe = with_strength(recipe, asked.strength)
    if asked.snap is not None:
        recipe = with_snap(recipe, asked.snap)
    if asked.flip is not None:
        recipe = flipped(recipe, asked.flip)
    return Reshaped(recipe=recipe_to_json(recipe))


@router.get("/cuts/{cut_id}/cards/{key}", response_class=Response)
def card(cut_id: uuid.UUID, key: str) -> Response:
    """A recipe on this cut's own frames: CARD_FRAMES small pictures side by side, as one JPEG."""
    document = _recipe(key).model_dump_json()
    return _picture(_card(cut_id, _mark(cut_id), key, document))


@router.get("/cuts/{cut_id}/stills", response_class=Response)
def stills(
    cut_id: uuid.UUID, key: Annotated[list[str], Query(min_length=1, max_length=MOST_STILLS)]
) -> Response:
    """What each recipe makes of the frame at this cut: small pictures side by side, as one JPEG."""
    documents = tuple(_recipe(each).model_dump_json() for each in key)
    return _picture(_stills(cut_id, _mark(cut_id), documents))


def _mark(cut_id: uuid.UUID) -> str:
    """What the frames around a cut depend on besides the recipe."""
    with session_scope() as session:
        sides = edits.sides_of(cuts.cut_by_id(session, cut_id))
        return str([(each.clip_id, each.in_frame, each.out_frame, each.framing) for each in sides])


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
def _card(cut_id: uuid.UUID, _mark: str, key: str, _document: str) -> bytes:
    scene, recipe = Scene(cut_id), _recipe(key)
    window = window_of(recipe)
    offsets = np.rint(np.linspace(-window.before, window.after - 1, CARD_FRAMES)).astype(int)
    return _side_by_side(scene, [(recipe, int(offset)) for offset in offsets])


@lru_cache(maxsize=64)
def _stills(cut_id: uuid.UUID, _mark: str, documents: tuple[str, ...]) -> bytes:
    return _side_by_side(Scene(cut_id), [(recipe_from_json(each), 0) for each in documents])


def _side_by_side(scene: Scene, wanted: list[tuple[Recipe, int]]) -> bytes:
    size = fitted(scene.thumb_size, THUMB_BOX)
    frames = [
        cv2.resize(scene.small_transition(recipe, window_of(recipe)).frame(offset), size)
        for recipe, offset in wanted
    ]
    return jpeg(np.hstack(frames), _CARD_QUALITY)
