"""The recipe book: the built-in recipes, each a JSON file of this package named by its slug.

A file may list directions: the others are derived from the one that it describes.
"""

import json
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any

from idle_shimmer.book.directions import in_direction
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.needs import SpareFrames, spare_frames_needed
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
    folder = resources.files(__name__) / "recipes"
    files = sorted(
        (each for each in folder.iterdir() if each.name.endswith(".json")), key=lambda f: f.name
    )
    return {entry.slug: entry for file in files for entry in _read(file)}


def _read(file: Any) -> Iterator[Entry]:
    """Yield the recipe of a file, and those that are derived from it."""
    slug = file.name.removesuffix(".json")
    document = json.loads(file.read_text(encoding="utf-8"))
    own, *others = document.pop("directions", [None])
    recipe = recipe_from_json(document)
    yield Entry(slug, recipe, document, slug, own)
    for direction in others:
        derived = in_direction(recipe, own, direction)
        # Named like the file's own, whose name may end with its direction.
        name = f"{slug.removesuffix(f'-{own}')}-{direction}"
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
