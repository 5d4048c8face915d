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
