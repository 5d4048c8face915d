"""Reads recipe files for commands."""

from pathlib import Path
from typing import TYPE_CHECKING

from idle_shimmer.core.errors import InvalidValue

if TYPE_CHECKING:
    from idle_shimmer.core.recipe import Recipe


def read_recipe(path: Path, field: str = "--recipe") -> "Recipe":
    """Return the recipe in a file, of any format. Raises InvalidValue or RecipeError."""
    from idle_shimmer.core.recipe import recipe_from_json

    try:
        text = path.read_text(encoding="utf-8")
    except UnicodeDecodeError:
        raise InvalidValue(f"{path} is not text: give a recipe as JSON", field=field) from None
    except OSError as error:
        raise InvalidValue(f"{path} cannot be read: {error.strerror}", field=field) from None
    return recipe_from_json(text)


def named_recipe(name: str, field: str = "--recipe") -> "Recipe":
    """Return a built-in recipe by its slug, or the one in a file. Raises InvalidValue or RecipeError."""
    from idle_shimmer.book.entries import book

    path = Path(name)
    if name in book():
        return book()[name].recipe
    if path.suffix.lower() != ".json":
        raise InvalidValue(
            f"there is no recipe '{name}': idle-shimmer recipes lists them; a file ends in .json",
            field=field,
        )
    return read_recipe(path, field)
