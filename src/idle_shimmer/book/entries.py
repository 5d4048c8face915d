"""The recipes of the book, read and validated, with the directions that are derived from them."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from typing import Any

from idle_shimmer.book.directions import in_direction
from idle_shimmer.book.recipe_texts import RecipeFile, files, slug_in
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.frame.needs import SpareFrames, spare_frames_needed
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json


@dataclass(frozen=True)
class Entry:
    """A built-in recipe, and its document as it was written.

    ``family`` is the slug of the recipe that it is a ``direction`` of, and the first of ``directions``;
    a recipe without directions is a family of its own.
    """

    slug: str
    recipe: Recipe
    document: dict[str, Any]
    family: str
    direction: str | None = None

    @property
    def window(self) -> Window:
        """The window that the recipe suggests."""
        assert self.recipe.window is not None
        return Window(self.recipe.window.before, self.recipe.window.after)

    @property
    def needs(self) -> SpareFrames:
        """The spare frames that it shows on each side in the window that it suggests."""
        return spare_frames_needed(self.recipe, self.window)


@cache
def book() -> dict[str, Entry]:
    """Return every built-in recipe by its slug: in alphabetical order, directions of one together."""
    return {entry.slug: entry for file in files() for entry in _read(file)}


def _read(file: RecipeFile) -> Iterator[Entry]:
    """Yield the recipe of a file, and those that are derived from it."""
    slug, document = file.slug, file.document
    own = file.directions[0] if file.directions else None
    recipe = recipe_from_json(document)
    yield Entry(slug, recipe, document, slug, own)
    for direction in file.directions[1:]:
        assert own is not None
        derived = in_direction(recipe, own, direction)
        name = slug_in(slug, own, direction)
        yield Entry(name, derived, recipe_to_json(derived), slug, direction)


def entry(slug: str) -> Entry:
    """Return the recipe called ``slug``; InvalidValue where there is none."""
    found = book().get(slug)
    if found is None:
        close = [name for name in book() if slug.split("-")[0] in name][:5]
        hint = (
            f": did you mean {', '.join(close)}?"
            if close
            else ": 'idle-shimmer recipes' lists them"
        )
        raise InvalidValue(f"there is no recipe '{slug}'{hint}", field="NAME")
    return found
