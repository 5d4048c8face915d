"""The filters that the editor has saved by themselves, to be added to other transitions."""

import uuid
from collections.abc import Iterator

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from idle_shimmer.core.errors import InvalidValue, RecipeError
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json
from idle_shimmer.store.errors import NameTaken, NotFound
from idle_shimmer.store.tables import FilterPreset


def presets(session: Session) -> Iterator[tuple[FilterPreset, Recipe | None]]:
    """Yield every preset by name, with the recipe that has its filter alone; None where it cannot be read."""
    for preset in session.scalars(select(FilterPreset).order_by(func.lower(FilterPreset.name))):
        try:
            yield preset, recipe_from_json(preset.document)
        except RecipeError:
            yield preset, None


def save(session: Session, name: str, recipe: Recipe, *, overwrite: bool = False) -> FilterPreset:
    """Save the only filter of ``recipe``; a preset of that name is replaced only with ``overwrite``.

    What other filters, the mix and the accent of the recipe do is not kept. Raises InvalidValue.
    """
    plain = " ".join(name.split())
    if not plain:
        raise InvalidValue("give the preset a name", field="name")
    if len(recipe.filters) != 1:
        raise InvalidValue(
            f"a preset has one filter, not {len(recipe.filters)}: save a recipe instead",
            field="recipe",
        )
    alone = Recipe(
        name=plain,
        filters=recipe.filters,
        times=recipe.times,
        window=recipe.window,
        subject_layer=recipe.subject_layer,
    )
    existing = session.scalar(select(FilterPreset).where(FilterPreset.name == plain))
    if existing is None:
        existing = FilterPreset(name=plain, document=recipe_to_json(alone))
        session.add(existing)
    elif overwrite:
        existing.document = recipe_to_json(alone)
    else:
        raise NameTaken(
            f"a preset called {plain!r} exists already: overwrite it, or choose another name",
            field="name",
        )
    session.flush()
    return existing


def delete(session: Session, preset_id: uuid.UUID) -> None:
    """Delete a preset. Raises NotFound."""
    found = session.get(FilterPreset, preset_id)
    if found is None:
        raise NotFound("there is no such preset: it may have been deleted", field="preset")
    session.delete(found)
