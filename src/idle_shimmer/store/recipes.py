"""The recipes that the editor keeps: saved under a name, overwritten, renamed, deleted."""

import uuid

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.models import SavedRecipe


def saved_recipes(session: Session) -> list[SavedRecipe]:
    """All of them, by name."""
    return list(session.scalars(select(SavedRecipe).order_by(func.lower(SavedRecipe.name))))


def saved_recipe(session: Session, recipe_id: uuid.UUID) -> SavedRecipe:
    """One of them. Raises NotFound."""
    found = session.get(SavedRecipe, recipe_id)
    if found is None:
        raise NotFound("there is no such recipe: it may have been deleted", field="recipe")
    return found


def recipe_of(saved: SavedRecipe) -> Recipe:
    """The recipe that is kept."""
    return recipe_from_json(saved.document)


def keep(session: Session, recipe: Recipe, *, overwrite: bool = False) -> SavedRecipe:
    """Keep ``recipe`` under its own name; one of that name is replaced only where told so."""
    name = _plain_name(recipe)
    there = session.scalar(select(SavedRecipe).where(SavedRecipe.name == name))
    if there is None:
        there = SavedRecipe(name=name, document=recipe_to_json(recipe))
        session.add(there)
    elif overwrite:
        replace(session, there, recipe)
    else:
        raise InvalidValue(
            f"a recipe called {name!r} is kept already: overwrite it, or give another name",
            field="name",
        )
    session.flush()
    return there


def replace(session: Session, saved: SavedRecipe, recipe: Recipe) -> None:
    """Keep ``recipe`` in the place of ``saved``, under the recipe's name."""
    name = _plain_name(recipe)
    other = session.scalar(select(SavedRecipe).where(SavedRecipe.name == name))
    if other is not None and other.id != saved.id:
        raise InvalidValue(f"a recipe called {name!r} is kept already", field="name")
    saved.name, saved.document, saved.changed_at = name, recipe_to_json(recipe), func.now()
    session.flush()


def _plain_name(recipe: Recipe) -> str:
    name = " ".join(recipe.name.split())
    if not name:
        raise InvalidValue("give the recipe a name", field="name")
    return name
