"""The recipes that the editor has saved: under a name, overwritten, renamed, deleted."""

import uuid

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json
from idle_shimmer.store.errors import NameTaken, NotFound
from idle_shimmer.store.tables import SavedRecipe


def saved_recipes(session: Session) -> list[SavedRecipe]:
    """Return all of them, by name."""
    return list(session.scalars(select(SavedRecipe).order_by(func.lower(SavedRecipe.name))))


def saved_recipe(session: Session, recipe_id: uuid.UUID) -> SavedRecipe:
    """Return one of them. Raises NotFound."""
    found = session.get(SavedRecipe, recipe_id)
    if found is None:
        raise NotFound("there is no such recipe: it may have been deleted", field="recipe")
    return found


def recipe_of(saved: SavedRecipe) -> Recipe:
    """Return the recipe of a row, of any format. Raises RecipeError where it cannot be read."""
    return recipe_from_json(saved.document)


def save(session: Session, recipe: Recipe, *, overwrite: bool = False) -> SavedRecipe:
    """Save ``recipe`` under its own name; one of that name is replaced only with ``overwrite``."""
    name = _plain_name(recipe)
    existing = session.scalar(select(SavedRecipe).where(SavedRecipe.name == name))
    if existing is None:
        existing = SavedRecipe(name=name, document=recipe_to_json(recipe))
        session.add(existing)
    elif overwrite:
        replace(session, existing, recipe)
    else:
        raise NameTaken(
            f"a recipe called {name!r} exists already: overwrite it, or choose another name",
            field="name",
        )
    session.flush()
    return existing


def replace(session: Session, saved: SavedRecipe, recipe: Recipe) -> None:
    """Replace ``saved`` by ``recipe``, under the recipe's name."""
    name = _plain_name(recipe)
    other = session.scalar(select(SavedRecipe).where(SavedRecipe.name == name))
    if other is not None and other.id != saved.id:
        raise NameTaken(
            f"a recipe called {name!r} exists already: choose another name", field="name"
        )
    saved.name, saved.document, saved.problem = name, recipe_to_json(recipe), None
    saved.changed_at = func.now()
    session.flush()


def _plain_name(recipe: Recipe) -> str:
    name = " ".join(recipe.name.split())
    if not name:
        raise InvalidValue("give the recipe a name", field="name")
    return name
