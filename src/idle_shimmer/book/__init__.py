"""The recipe book: the built-in recipes, each a JSON file of this package named by its slug."""

import json
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.recipe import Recipe, recipe_from_json
from idle_shimmer.core.render import SpareFrames, spare_frames_needed


@dataclass(frozen=True)
class Entry:
    """A built-in recipe, and its file's text as it was written."""

    slug: str
    recipe: Recipe
    document: dict[str, Any]

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
    """Return every built-in recipe by its slug, in alphabetical order."""
    folder = resources.files(__name__) / "recipes"
    files = sorted(
        (each for each in folder.iterdir() if each.name.endswith(".json")), key=lambda f: f.name
    )
    return {entry.slug: entry for entry in map(_read, files)}


def _read(file: Any) -> Entry:
    text = file.read_text(encoding="utf-8")
    return Entry(file.name.removesuffix(".json"), recipe_from_json(text), json.loads(text))


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
